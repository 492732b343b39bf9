/**
 * Width of the smooth ramp s^2 (3 - 2s) nearest in least squares to a step blurred by a Gaussian of sigma 1; derived in
 * the test.
 */
export const RAMP_PER_SIGMA = 4.17

/**
 * Feather inwards and outwards, pixels, that look as soft as a step that lies `place` outside of the outline and is blurred by
 * a Gaussian.
 */
export function featherForSoftness(sigma: number, place: number): { innerFeather: number; outerFeather: number } {
  const half = (RAMP_PER_SIGMA * sigma) / 2
  return { innerFeather: Math.max(0, half - place), outerFeather: Math.max(0, half + place) }
}
