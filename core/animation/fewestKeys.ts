/** A time and the numbers that something has there. */
export interface Timed {
  time: number
  values: readonly number[]
}

/**
 * The fewest of some samples, the first and the last among them, between which straight lines miss none of the others by more than a tolerance in any number
 * (Ramer 1972; Douglas & Peucker, "Algorithms for the reduction of the number of points required to represent a digitized line", 1973).
 *
 * @param samples  in the order of time
 */
export function fewestKeys<T extends Timed>(samples: readonly T[], tolerance: number): T[] {
  const [first] = samples
  // One key says that nothing changes: that has to be so of all samples, not of the two ends alone.
  const isStill = samples.every(({ values }) => values.every((v, i) => Math.abs(v - first!.values[i]!) <= tolerance))
  if (isStill) return samples.slice(0, 1)
  if (samples.length <= 2) return [...samples]
  const kept = new Set([0, samples.length - 1])
  const split = (from: number, to: number) => {
    const [a, b] = [samples[from]!, samples[to]!]
    let [worst, at] = [tolerance, -1]
    for (let n = from + 1; n < to; n++) {
      const { time, values } = samples[n]!
      const share = (time - a.time) / (b.time - a.time)
      values.forEach((value, i) => {
        const miss = Math.abs(value - a.values[i]! - (b.values[i]! - a.values[i]!) * share)
        if (miss > worst) [worst, at] = [miss, n]
      })
    }
    if (at < 0) return
    kept.add(at)
    split(from, at)
    split(at, to)
  }
  split(0, samples.length - 1)
  return samples.filter((_, n) => kept.has(n))
}
