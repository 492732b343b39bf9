/**
 * Natural cubic smoothing spline through equally spaced values, at those places: the curve that minimises
 * sum (y - g)^2 + stiffness * integral g''^2.
 *
 * Reinsch, "Smoothing by Spline Functions", Numerische Mathematik 10 (1967); notation of Green & Silverman,
 * "Nonparametric Regression and Generalized Linear Models" (1994), section 2.3.3: (R + stiffness Q'Q) gamma = Q'y,
 * g = y - stiffness Q gamma, with bands Q = (1, -2, 1) and R = (1/6, 2/3, 1/6).
 */
export function smoothingSpline(values: ArrayLike<number>, stiffness: number): Float64Array {
  const n = values.length - 2
  if (n < 1 || stiffness <= 0) return Float64Array.from(values)
  // Pentadiagonal and symmetric: three bands, factored as L D L'.
  const [on, beside, beyond] = [2 / 3 + 6 * stiffness, 1 / 6 - 4 * stiffness, stiffness]
  const d = new Float64Array(n)
  const e = new Float64Array(n)
  const f = new Float64Array(n)
  const gamma = new Float64Array(n + 2)
  const z = new Float64Array(n)
  for (let i = 0; i < n; i++) {
    const e1 = i > 0 ? e[i - 1]! : 0
    const f2 = i > 1 ? f[i - 2]! : 0
    d[i] = on - (i > 0 ? d[i - 1]! * e1 * e1 : 0) - (i > 1 ? d[i - 2]! * f2 * f2 : 0)
    if (i + 1 < n) e[i] = (beside - (i > 0 ? d[i - 1]! * e1 * f[i - 1]! : 0)) / d[i]!
    if (i + 2 < n) f[i] = beyond / d[i]!
    const right = values[i]! - 2 * values[i + 1]! + values[i + 2]!
    z[i] = right - (i > 0 ? e1 * z[i - 1]! : 0) - (i > 1 ? f2 * z[i - 2]! : 0)
  }
  for (let i = n - 1; i >= 0; i--) {
    gamma[i] = z[i]! / d[i]! - e[i]! * (i + 1 < n ? gamma[i + 1]! : 0) - f[i]! * (i + 2 < n ? gamma[i + 2]! : 0)
  }
  const at = (i: number) => (i >= 0 && i < n ? gamma[i]! : 0)
  return Float64Array.from({ length: n + 2 }, (_, i) => values[i]! - stiffness * (at(i) - 2 * at(i - 1) + at(i - 2)))
}
