import type { Matrix3 } from '@tender-lasso/core/geometry'

/** The homogeneous outline under one more map. */
export function onScreen(outline: Float64Array, map: Matrix3): Float64Array {
  const out = new Float64Array(outline.length)
  for (let i = 0; i < outline.length; i += 3) {
    const [x, y, w] = [outline[i]!, outline[i + 1]!, outline[i + 2]!]
    out[i] = map[0]! * x + map[1]! * y + map[2]! * w
    out[i + 1] = map[3]! * x + map[4]! * y + map[5]! * w
    out[i + 2] = map[6]! * x + map[7]! * y + map[8]! * w
  }
  return out
}
