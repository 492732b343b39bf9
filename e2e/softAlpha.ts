/** Mean absolute error of alpha: about the true edge, and over the pixels alone that the truth has in between. */
export interface SoftError {
  band: number
  inBetween: number
}

interface Matte {
  width: number
  height: number
  data: Float32Array
}

/** Pixels to both sides of the true edge that are about it. */
export const BAND = 12
/** Alpha from which a pixel of the truth is neither empty nor full. */
const LEAST = 0.002

export function softError(found: Matte, truth: Matte): SoftError {
  const { width, height, data } = truth
  const isAbout = aboutEdge(truth)
  let [bandSum, bandCount, inBetweenSum, inBetweenCount] = [0, 0, 0, 0]
  for (let at = 0; at < width * height; at++) {
    const alpha = data[at]!
    const isInBetween = alpha > LEAST && alpha < 1 - LEAST
    if (!isInBetween && !isAbout[at]) continue
    const error = Math.abs(found.data[at]! - alpha)
    if (isInBetween) {
      inBetweenSum += error
      inBetweenCount++
    }
    if (isAbout[at]) {
      bandSum += error
      bandCount++
    }
  }
  return { band: bandSum / Math.max(1, bandCount), inBetween: inBetweenSum / Math.max(1, inBetweenCount) }
}

/** Half the length of a disc of the band in each of its rows. */
const SPANS = Array.from({ length: 2 * BAND + 1 }, (_, row) => Math.floor(Math.sqrt(BAND ** 2 - (row - BAND) ** 2)))

/** 1 where a pixel lies within the band round one of the edge. */
function aboutEdge({ width, height, data }: Matte): Uint8Array {
  const out = new Uint8Array(width * height)
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const at = y * width + x
      const isIn = data[at]! >= 0.5
      const isEdge =
        (x + 1 < width && data[at + 1]! >= 0.5 !== isIn) || (y + 1 < height && data[at + width]! >= 0.5 !== isIn)
      if (!isEdge) continue
      for (let row = Math.max(0, y - BAND); row <= Math.min(height - 1, y + BAND); row++) {
        const span = SPANS[row - y + BAND]!
        out.fill(1, row * width + Math.max(0, x - span), row * width + Math.min(width, x + span + 1))
      }
    }
  }
  return out
}
