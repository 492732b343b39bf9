import type { Matrix3 } from '@tender-lasso/core/geometry'

/** The homogeneous outline under one more map. */
export function onScreen(outline: Float64Array, map: Matrix3): Float64Array {
  const out = new Float64Array(outline.length)
  // By name: this runs for every point of every outline on every frame.
  const [a, b, c, d, e, f, g, h, k] = map as unknown as [
    number, number, number, number, number, number, number, number, number,
  ] // prettier-ignore
  for (let i = 0; i < outline.length; i += 3) {
    const x = outline[i]!
    const y = outline[i + 1]!
    const w = outline[i + 2]!
    out[i] = a * x + b * y + c * w
    out[i + 1] = d * x + e * y + f * w
    out[i + 2] = g * x + h * y + k * w
  }
  return out
}
