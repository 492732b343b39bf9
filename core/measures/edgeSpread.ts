/** Standard normal density. */
export const normalDensity = (t: number): number => Math.exp(-0.5 * t * t) / Math.sqrt(2 * Math.PI)

/**
 * Standard normal distribution, to 1.2e-7: the complementary error function by Chebyshev fitting (Press et al., Numerical
 * Recipes, 3rd ed., section 6.2.2, there from memory; checked against its integral in the test).
 */
export function normalDistribution(t: number): number {
  const x = Math.abs(t) / Math.SQRT2
  if (x > ALL) return t > 0 ? 1 : 0
  const z = 2 / (2 + x)
  const y = 4 * z - 2
  let d = 0
  let dd = 0
  for (let i = ERFC.length - 1; i > 0; i--) {
    const next = y * d - dd + ERFC[i]!
    dd = d
    d = next
  }
  const tail = 0.5 * z * Math.exp(-x * x + 0.5 * (ERFC[0]! + y * d) - dd)
  return t > 0 ? 1 - tail : tail
}

/** Beyond it the complementary error function is less than 1e-16: nothing beside 1. */
const ALL = 5.9

// prettier-ignore
const ERFC = [
  -1.3026537197817094, 6.419697923564903e-1, 1.9476473204185836e-2, -9.561514786808631e-3, -9.46595344482036e-4,
  3.66839497852761e-4, 4.2523324806907e-5, -2.0278578112534e-5, -1.624290004647e-6, 1.30365583558e-6, 1.5626441722e-8,
  -8.5238095915e-8, 6.529054439e-9, 5.059343495e-9, -9.91364156e-10, -2.27365122e-10,
]

/** Motion within the shutter that is no more than this, pixels, is none. */
const LEAST_BOX = 1e-3

/**
 * Edge spread function: a step from 0 to 1 at the origin, swept over `box` pixels across it and blurred by a Gaussian.
 *
 * @returns  value, and its derivatives by place and by sigma
 */
export function edgeSpread(x: number, sigma: number, box: number): [value: number, byPlace: number, bySigma: number] {
  if (box <= LEAST_BOX) {
    const t = x / sigma
    const density = normalDensity(t)
    return [normalDistribution(t), density / sigma, (-t * density) / sigma]
  }
  const [upper, lower] = [(x + box / 2) / sigma, (x - box / 2) / sigma]
  const [above, below] = [normalDistribution(upper), normalDistribution(lower)]
  const [denser, thinner] = [normalDensity(upper), normalDensity(lower)]
  const integral = (t: number, distribution: number, density: number) => t * distribution + density
  return [
    (sigma * (integral(upper, above, denser) - integral(lower, below, thinner))) / box,
    (above - below) / box,
    (denser - thinner) / box,
  ]
}

/** The same as a function of its box. @returns  value, and its derivatives by place and by the length of the box */
export function edgeSpreadByBox(
  x: number,
  sigma: number,
  box: number,
): [value: number, byPlace: number, byBox: number] {
  const [value, byPlace] = edgeSpread(x, sigma, box)
  if (box <= LEAST_BOX) return [value, byPlace, 0]
  const ends = (normalDistribution((x + box / 2) / sigma) + normalDistribution((x - box / 2) / sigma)) / 2
  return [value, byPlace, (ends - value) / box]
}
