import fc from 'fast-check'

/**
 * Numbers between two bounds for property tests, even over the range. `fc.double` is even over exponents instead: most of
 * what it gives is next to nothing, so that scenes made of it hardly move, lean or overlap.
 */
export function numberBetween(min: number, max: number): fc.Arbitrary<number> {
  const steps = 1 << 20
  return fc.integer({ min: 0, max: steps }).map((step) => min + ((max - min) * step) / steps)
}
