/** Cubic Hermite curve from p0 to p1 with slopes m0 and m1 over the unit interval, at u. */
export function hermite(p0: number, m0: number, p1: number, m1: number, u: number): number {
  const s = 1 - u
  return (1 + 2 * u) * s * s * p0 + u * s * s * m0 + u * u * (3 - 2 * u) * p1 - u * u * s * m1
}
