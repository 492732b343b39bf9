/** Median; reorders `values`. */
export const medianOf = (values: Float32Array, count: number): number => ranked(values, count, count >> 1)

/** The value that has `rank` of the first `count` before it in order, by Hoare's selection; reorders `values`. */
export function ranked(values: Float32Array, count: number, rank: number): number {
  let low = 0
  let high = count - 1
  while (low < high) {
    const pivot = values[(low + high) >> 1]!
    let i = low
    let j = high
    while (i <= j) {
      while (values[i]! < pivot) i++
      while (values[j]! > pivot) j--
      if (i <= j) {
        const swap = values[i]!
        values[i] = values[j]!
        values[j] = swap
        i++
        j--
      }
    }
    if (rank <= j) high = j
    else if (rank >= i) low = i
    else break
  }
  return values[rank]!
}

/** Median and median absolute deviation; reorders `values`. */
export function medianAndSpread(values: Float32Array): [number, number] {
  const middle = medianOf(values, values.length)
  for (let i = 0; i < values.length; i++) values[i] = Math.abs(values[i]! - middle)
  return [middle, medianOf(values, values.length)]
}
