/** The middle of some numbers in order, of an even count the mean of the middle two; NaN of none. For many, in place, see tracking/median. */
export function median(values: readonly number[]): number {
  const sorted = values.toSorted((a, b) => a - b)
  const middle = sorted.length >> 1
  return sorted.length % 2 ? sorted[middle]! : (sorted[middle - 1]! + sorted[middle]!) / 2
}
