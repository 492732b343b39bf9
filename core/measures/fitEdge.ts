import { edgeSpread } from './edgeSpread'
import { fitStep, type StepFit } from './fitStep'

/** What the pixels across an edge say of it. Distances in pixels along the normal, positive outside. */
interface BlurredStepFit extends StepFit {
  /** Softness of the picture without that of the pixel itself and without motion: sigma of a Gaussian, and its standard error. */
  sigma: number
  sigmaError: number
}

/** Variance that averaging over a square pixel adds along any direction. */
export const PIXEL_VARIANCE = 1 / 12
const LEAST_SIGMA = 0.05

/**
 * A step * box (`box`: length of the motion within the shutter) * Gaussian through values of pixels, both levels free. The pixels lie at all
 * distances, as the edge is seldom upright: the idea of ISO 12233's slanted edge.
 *
 * @param distances  of the pixels' centres from the outline
 * @returns          null where the step cannot be told from its surroundings
 */
export function fitEdge(distances: Float64Array, values: Float64Array, box: number): BlurredStepFit | null {
  const spread = (x: number, sigma: number) => edgeSpread(x, sigma, box)
  const found = fitStep(distances, values, spread, 1.2, LEAST_SIGMA)
  if (!found) return null
  const { free: fitted, freeError, ...fit } = found
  const sigma = Math.sqrt(Math.max(0, fitted * fitted - PIXEL_VARIANCE))
  // The error is that of what is left when the pixel's own share is taken out.
  return { ...fit, sigma, sigmaError: (freeError * fitted) / Math.max(sigma, 0.2) }
}
