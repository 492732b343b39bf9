/** Tukey's constant: 95 % efficiency under Gaussian noise (Holland & Welsch 1977). */
export const TUKEY = 4.685

/**
 * Tukey's biweight of a residual: 1 for none, falling to 0 at {@link TUKEY} times the noise and beyond. 0 for NaN.
 *
 * Beaton & Tukey, "The Fitting of Power Series", Technometrics 16 (1974).
 */
export function tukeyBiweight(residual: number, noise: number): number {
  const ratio = residual / (TUKEY * noise)
  if (!(ratio > -1 && ratio < 1)) return 0
  const root = 1 - ratio * ratio
  return root * root
}
