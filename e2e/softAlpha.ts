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
const BAND = 12
/** Alpha from which a pixel of the truth is neither empty nor full. */
const LEAST = 0.002

export function softError(found: Matte, truth: Matte): SoftError {
  const { width, height, data } = truth
  const across = distancesAlongRows(truth)
  const sums = { band: 0, inBetween: 0 }
  const counts = { band: 0, inBetween: 0 }
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const at = y * width + x
      const error = Math.abs(found.data[at]! - data[at]!)
      if (data[at]! > LEAST && data[at]! < 1 - LEAST) {
        sums.inBetween += error
        counts.inBetween++
      }
      if (!isAbout(across, width, height, x, y)) continue
      sums.band += error
      counts.band++
    }
  }
  return { band: sums.band / Math.max(1, counts.band), inBetween: sums.inBetween / Math.max(1, counts.inBetween) }
}

const isEdge = ({ width, height, data }: Matte, x: number, y: number) => {
  const at = y * width + x
  const isIn = data[at]! >= 0.5
  return (x + 1 < width && data[at + 1]! >= 0.5 !== isIn) || (y + 1 < height && data[at + width]! >= 0.5 !== isIn)
}

/** Pixels to the nearest one of the edge in the same row, at most one more than the band. */
function distancesAlongRows(truth: Matte): Uint8Array {
  const { width, height } = truth
  const out = new Uint8Array(width * height).fill(BAND + 1)
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      if (!isEdge(truth, x, y)) continue
      for (let dx = -BAND; dx <= BAND; dx++) {
        if (x + dx < 0 || x + dx >= width) continue
        const at = y * width + x + dx
        out[at] = Math.min(out[at]!, Math.abs(dx))
      }
    }
  }
  return out
}

function isAbout(across: Uint8Array, width: number, height: number, x: number, y: number): boolean {
  for (let dy = -BAND; dy <= BAND; dy++) {
    if (y + dy < 0 || y + dy >= height) continue
    if (across[(y + dy) * width + x]! ** 2 + dy * dy <= BAND * BAND) return true
  }
  return false
}
