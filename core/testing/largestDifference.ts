/**
 * Largest difference between numbers at the same places; infinite when there are more of one than of the other, or one alone
 * is not a number. One comparison of it is some hundred times cheaper than comparing two long arrays element by element.
 */
export function largestDifference(a: ArrayLike<number>, b: ArrayLike<number>): number {
  if (a.length !== b.length) return Infinity
  let largest = 0
  for (let i = 0; i < a.length; i++) {
    if (Object.is(a[i], b[i])) continue
    const difference = Math.abs(a[i]! - b[i]!)
    if (!(difference <= largest)) largest = Number.isNaN(difference) ? Infinity : difference
  }
  return largest
}
