/** A painted surface: linear-light RGB over a rectangle of metres. */
export interface Texture {
  width: number
  height: number
  /** Metres at the left and top edge. */
  left: number
  top: number
  pixelsPerMetre: number
  data: Float32Array
}

export type Colour = [number, number, number]
export type Tint = Readonly<Colour>

export function paintTexture(
  left: number,
  top: number,
  right: number,
  bottom: number,
  pixelsPerMetre: number,
  paint: (x: number, y: number, out: Colour) => void,
): Texture {
  const width = Math.round((right - left) * pixelsPerMetre)
  const height = Math.round((bottom - top) * pixelsPerMetre)
  const data = new Float32Array(width * height * 3)
  const colour: Colour = [0, 0, 0]
  for (let j = 0; j < height; j++) {
    for (let i = 0; i < width; i++) {
      paint(left + (i + 0.5) / pixelsPerMetre, top + (j + 0.5) / pixelsPerMetre, colour)
      data.set(colour, (j * width + i) * 3)
    }
  }
  return { width, height, left, top, pixelsPerMetre, data }
}

/** Gaussian blur, for what stands out of focus. */
export function defocused(texture: Texture, sigmaPixels: number): Texture {
  const radius = Math.ceil(sigmaPixels * 3)
  const weights = Float64Array.from({ length: 2 * radius + 1 }, (_, i) =>
    Math.exp(-((i - radius) ** 2) / (2 * sigmaPixels ** 2)),
  )
  const total = weights.reduce((a, b) => a + b)
  weights.forEach((weight, i) => (weights[i] = weight / total))
  const { width, height } = texture
  const rows = blurredLines(texture.data, weights, width, height, 3, width * 3)
  return { ...texture, data: blurredLines(rows, weights, height, width, width * 3, 3) }
}

/** One pass along lines of `length` pixels that lie `step` apart, `lines` of them `lineStep` apart; ends are held. */
function blurredLines(
  from: Float32Array,
  weights: Float64Array,
  length: number,
  lines: number,
  step: number,
  lineStep: number,
): Float32Array {
  const radius = (weights.length - 1) / 2
  const out = new Float32Array(from.length)
  // A line is copied with its ends repeated, so that the inner loop needs no test.
  const line = new Float64Array((length + 2 * radius) * 3)
  for (let l = 0; l < lines; l++) {
    for (let i = -radius; i < length + radius; i++) {
      const at = l * lineStep + Math.min(length - 1, Math.max(0, i)) * step
      for (let c = 0; c < 3; c++) line[(i + radius) * 3 + c] = from[at + c]!
    }
    for (let i = 0; i < length; i++) {
      let [r, g, b] = [0, 0, 0]
      for (let k = 0, at = i * 3; k < weights.length; k++, at += 3) {
        const weight = weights[k]!
        r += weight * line[at]!
        g += weight * line[at + 1]!
        b += weight * line[at + 2]!
      }
      const to = l * lineStep + i * step
      out[to] = r
      out[to + 1] = g
      out[to + 2] = b
    }
  }
  return out
}

/** Bilinear look-up at metres (x, y), edges held, added into `out` times `weight`. */
export function sampleTexture(texture: Texture, x: number, y: number, out: Float32Array, at: number, weight = 1) {
  const { width, height, data } = texture
  let u = (x - texture.left) * texture.pixelsPerMetre - 0.5
  let v = (y - texture.top) * texture.pixelsPerMetre - 0.5
  u = u < 0 ? 0 : u > width - 1.001 ? width - 1.001 : u
  v = v < 0 ? 0 : v > height - 1.001 ? height - 1.001 : v
  const i = u | 0
  const j = v | 0
  const fu = u - i
  const fv = v - j
  const p = (j * width + i) * 3
  const q = p + width * 3
  const a = (1 - fu) * (1 - fv) * weight
  const b = fu * (1 - fv) * weight
  const c = (1 - fu) * fv * weight
  const d = fu * fv * weight
  out[at]! += a * data[p]! + b * data[p + 3]! + c * data[q]! + d * data[q + 3]!
  out[at + 1]! += a * data[p + 1]! + b * data[p + 4]! + c * data[q + 1]! + d * data[q + 4]!
  out[at + 2]! += a * data[p + 2]! + b * data[p + 5]! + c * data[q + 2]! + d * data[q + 5]!
}
