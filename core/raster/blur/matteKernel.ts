import { gaussianKernel } from '../../image'

/** Sigma below which a Gaussian at whole pixels is narrower than it says. */
const NARROW = 0.6

/** Weights over whole pixels, sum 1: a Gaussian up to three sigma, or three weights with the variance of a narrow one. */
export function matteKernel(sigma: number): Float32Array {
  if (sigma >= NARROW) return gaussianKernel(sigma)
  const beside = (sigma * sigma) / 2
  return Float32Array.of(beside, 1 - 2 * beside, beside)
}
