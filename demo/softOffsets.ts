/** Offsets that are turned into each other by a quarter: they cancel, and are as wide along one line as along any other. */
const TURNED = 4
/** Quarter turns of four sub-times after each other: opposite ones are neighbours, so that no offset goes with time. */
const QUARTERS = [0, 2, 1, 3] as const
const GOLDEN_RATIO = 0.6180339887

/**
 * A soft edge is the mean of hard ones that are shifted by these offsets, in sigmas, one for each of the sub-times while the
 * shutter is open. They are spread as a normal distribution is: their mean is 0, their variance 1 along any line, and early ones
 * lie about as far out as late ones.
 *
 * @param count  of sub-times, a multiple of four
 */
export function softOffsets(count: number): [number, number][] {
  const rings = count / TURNED
  const squares = Array.from({ length: rings }, (_, i) => -2 * Math.log((i + 0.5) / rings))
  const mean = squares.reduce((sum, square) => sum + square) / rings
  return orderOfRings(squares).flatMap((ring) => {
    const radius = Math.sqrt((2 * squares[ring]!) / mean)
    return QUARTERS.map((quarter): [number, number] => {
      const angle = (Math.PI / 2) * (((ring * GOLDEN_RATIO) % 1) + quarter)
      return [radius * Math.cos(angle), radius * Math.sin(angle)]
    })
  })
}

/** An order that goes through all rings by steps of one length, the one in which wide ones stand early as much as late. */
function orderOfRings(squares: readonly number[]): number[] {
  const rings = squares.length
  let best: number[] = []
  let least = Infinity
  for (let step = 1; step < Math.max(2, rings); step++) {
    for (let start = 0; start < rings; start++) {
      const order = squares.map((_, i) => (start + i * step) % rings)
      if (new Set(order).size < rings) break
      const withTime = Math.abs(order.reduce((sum, ring, i) => sum + squares[ring]! * (i - (rings - 1) / 2), 0))
      if (withTime < least) [best, least] = [order, withTime]
    }
  }
  return best
}
