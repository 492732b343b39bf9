/**
 * Weights that give the value at position `at` of the quadratic fitted to 2 * half + 1 equally spaced values by least
 * squares; `at` counts from the middle, -half .. half.
 *
 * Savitzky & Golay, "Smoothing and Differentiation of Data by Simplified Least Squares Procedures", Analytical
 * Chemistry 36 (1964), table I, for the middle; Gorry 1990 for the positions beside it: both are the same fit on the
 * polynomials orthogonal over the window, which is what is computed here.
 */
export function savitzkyGolayWeights(half: number, at = 0): Float64Array {
  const count = 2 * half + 1
  const squares = (half * (half + 1) * count) / 3
  const middle = squares / count
  let quartic = 0
  for (let i = -half; i <= half; i++) quartic += (i * i - middle) ** 2
  return Float64Array.from({ length: count }, (_, k) => {
    const i = k - half
    const linear = squares ? (i * at) / squares : 0
    const quadratic = quartic ? ((i * i - middle) * (at * at - middle)) / quartic : 0
    return 1 / count + linear + quadratic
  })
}

/** Values smoothed by the quadratic of a window of 2 * half + 1; at the ends by that of the first and last window. */
export function savitzkyGolay(values: ArrayLike<number>, half: number): Float64Array {
  const reach = Math.min(half, (values.length - 1) >> 1)
  if (reach < 1) return Float64Array.from(values)
  const tables = Array.from({ length: 2 * reach + 1 }, (_, k) => savitzkyGolayWeights(reach, k - reach))
  const out = new Float64Array(values.length)
  for (let i = 0; i < values.length; i++) {
    const centre = Math.min(values.length - 1 - reach, Math.max(reach, i))
    const weights = tables[i - centre + reach]!
    for (let k = 0; k < weights.length; k++) out[i]! += weights[k]! * values[centre - reach + k]!
  }
  return out
}
