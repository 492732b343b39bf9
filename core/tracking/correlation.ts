/**
 * Pearson's correlation, -1..1, of `count` pairs from their sums, the sums of their squares and of their products.
 * 0 when one side does not vary.
 */
export function correlation(count: number, a: number, b: number, aa: number, bb: number, ab: number): number {
  const spread = Math.sqrt((aa - (a * a) / count) * (bb - (b * b) / count))
  return spread > 0 ? (ab - (a * b) / count) / spread : 0
}
