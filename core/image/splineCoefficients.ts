import type { LumaImage } from './luma'

/** Pole of the inverse filter, the root of z^2 + 4 z + 1 inside the unit circle; after so many pixels it has died away. */
const POLE = Math.sqrt(3) - 2
const POLE_REACH = 12

/**
 * Coefficients of the uniform cubic B-spline that goes through a picture's pixels, mirrored at its edges. Of curves with
 * four neighbours it keeps fine detail best: what Catmull & Rom's cubic takes off it between pixels shifts small textures
 * by a hundredth of a pixel. A picture of fewer than four pixels across or down stays as it is.
 *
 * Unser, Aldroubi & Eden, "B-Spline Signal Processing: Part II", IEEE Trans. Signal Processing 41 (1993).
 */
export function splineCoefficients<T extends LumaImage>(image: T): T {
  const { width, height } = image
  if (width < 4 || height < 4) return image
  const data = Float32Array.from(image.data)
  for (let y = 0; y < height; y++) filterLine(data, y * width, 1, width)
  for (let x = 0; x < width; x++) filterLine(data, x, width, height)
  return { ...image, data }
}

/** The causal filter and then the one back, along values that are a step apart. */
function filterLine(data: Float32Array, start: number, step: number, length: number) {
  let sum = 0
  for (let k = Math.min(length, POLE_REACH) - 1; k >= 0; k--) sum = data[start + k * step]! + POLE * sum
  data[start] = 6 * sum
  let at = start
  for (let k = 1; k < length; k++) {
    at += step
    data[at] = 6 * data[at]! + POLE * data[at - step]!
  }
  data[at] = (POLE / (POLE * POLE - 1)) * (data[at]! + POLE * data[at - step]!)
  for (let k = length - 2; k >= 0; k--) {
    at -= step
    data[at] = POLE * (data[at + step]! - data[at]!)
  }
}
