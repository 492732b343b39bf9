import { blurred } from './filters'
import type { LumaImage } from './luma'

/** Squared length of the gradient of each pixel, by central differences; 0 along the rim. */
export function gradientSquares({ width, height, data }: LumaImage): Float32Array {
  const squares = new Float32Array(width * height)
  for (let y = 1; y < height - 1; y++) {
    for (let at = y * width + 1; at < (y + 1) * width - 1; at++) {
      const gx = (data[at + 1]! - data[at - 1]!) / 2
      const gy = (data[at + width]! - data[at - width]!) / 2
      squares[at] = gx * gx + gy * gy
    }
  }
  return squares
}

/**
 * How well each pixel's surroundings hold their place in every direction.
 *
 * Shi & Tomasi, "Good Features to Track", CVPR 1994: the smaller eigenvalue of the structure tensor, the gradients'
 * second moments over a window; here a Gaussian one.
 *
 * @param sigma  of the window, pixels
 */
export function cornerStrength(image: LumaImage, sigma = 2): Float32Array {
  const { width, height, data } = image
  const size = width * height
  const [xx, xy, yy] = [new Float32Array(size), new Float32Array(size), new Float32Array(size)]
  for (let y = 1; y < height - 1; y++) {
    for (let at = y * width + 1; at < (y + 1) * width - 1; at++) {
      const gx = (data[at + 1]! - data[at - 1]!) / 2
      const gy = (data[at + width]! - data[at - width]!) / 2
      xx[at] = gx * gx
      xy[at] = gx * gy
      yy[at] = gy * gy
    }
  }
  const [a, b, c] = [xx, xy, yy].map((plane) => blurred({ ...image, data: plane }, sigma).data) as [
    Float32Array,
    Float32Array,
    Float32Array,
  ]
  const corner = new Float32Array(size)
  for (let i = 0; i < size; i++) {
    corner[i] = (a[i]! + c[i]! - Math.sqrt((a[i]! - c[i]!) ** 2 + 4 * b[i]! * b[i]!)) / 2
  }
  return corner
}

/**
 * Standard deviation of the grain: mean absolute response of a mask that no plane or slope answers to.
 *
 * Immerkær, "Fast Noise Variance Estimation", Computer Vision and Image Understanding 64 (1996).
 */
export function grainOf({ width, height, data }: LumaImage): number {
  let sum = 0
  for (let y = 1; y < height - 1; y++) {
    for (let x = 1; x < width - 1; x++) {
      const at = y * width + x
      const row = (i: number) => data[i - 1]! - 2 * data[i]! + data[i + 1]!
      sum += Math.abs(row(at - width) - 2 * row(at) + row(at + width))
    }
  }
  const count = Math.max(1, (width - 2) * (height - 2))
  return (Math.sqrt(Math.PI / 2) * sum) / (6 * count)
}
