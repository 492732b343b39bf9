import { matteKernel } from './matteKernel'

/**
 * How a wide blur is taken in two: the picture blurred once for all pixels, so smooth that nothing is missed when it is looked at
 * every 2, 4, 8 ... pixels; then what is left, at those steps (a pyramid of Gaussians without the loss of its
 * levels: Burt, Fast filter transforms for image processing, 1981). Octave 0 is the picture itself.
 */

/** Sigma up to which the picture itself is looked at pixel by pixel. */
const AT_PIXELS = 3.4

/** How many times the steps are doubled for a sigma. */
export const octaveOf = (sigma: number) => Math.max(0, Math.ceil(Math.log2(sigma / AT_PIXELS)))

/** Sigma of an octave's picture, pixels: as wide as its steps. */
const sigmaOf = (octave: number) => (octave === 0 ? 0 : 2 ** octave)

/** Sigma that makes an octave's picture of that of the one before, pixels. */
export const sigmaFromBefore = (octave: number) => Math.sqrt(sigmaOf(octave) ** 2 - sigmaOf(octave - 1) ** 2)

/** What a blur by sigma needs on top of its octave's picture, in steps of it. */
export const sigmaLeft = (sigma: number, octave: number) =>
  Math.sqrt(sigma * sigma - sigmaOf(octave) ** 2) / 2 ** octave

/** Farthest that an octave's picture reaches, pixels. */
function reachOf(octave: number): number {
  let reach = 0
  for (let o = 1; o <= octave; o++) reach += reachOfKernel(sigmaFromBefore(o))
  return reach
}

const reachOfKernel = (sigma: number) => Math.max(1, Math.ceil(3 * sigma))

/** Farthest that a blur of any sigma up to the largest carries anything, pixels. */
export function variedReach(largest: number): number {
  let reach = 0
  for (let octave = 0; octave <= octaveOf(largest); octave++) {
    const sigma = Math.min(largest, AT_PIXELS * 2 ** octave)
    reach = Math.max(reach, reachOf(octave) + (reachOfKernel(sigmaLeft(sigma, octave)) + 1) * 2 ** octave)
  }
  return reach
}

/** Change of sigma from one kernel to the next: alpha is wrong by less than 1/1000 for it. */
const RATIO = 1.005
/** Below it a blur changes alpha by less than 1/2000. */
const LEAST = 0.02

/** Which of the kernels a sigma is blurred with; -1: none. */
export const kernelNumber = (sigma: number) =>
  sigma < LEAST ? -1 : Math.round(Math.log(sigma / LEAST) / Math.log(RATIO))

const kernels: Float32Array[] = []

export const kernelOf = (number: number): Float32Array => (kernels[number] ??= matteKernel(LEAST * RATIO ** number))
