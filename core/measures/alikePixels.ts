import type { AcrossPixels } from './acrossPixels'

/** More than a picture is wide. */
const ROW = 65536
const MOST_ALIKE = 0.65

/**
 * How many pixels count for one, as neighbours both ways say nearly the same: texture does, and the grain of a picture that was compressed. Of a noise whose
 * neighbours correlate by r it is (1 + r) / (1 - r) in a row, and as many rows.
 */
export function alikeIn({ columns, rows }: AcrossPixels, rests: Float64Array, weights: Float64Array): number {
  const known = new Map<number, number>()
  let [products, squares] = [0, 0]
  for (let n = 0; n < rests.length; n++) {
    const name = rows[n]! * ROW + columns[n]!
    for (const before of [known.get(name - 1), known.get(name - ROW)]) {
      if (before === undefined) continue
      const weight = Math.sqrt(weights[n]! * weights[before]!)
      products += weight * rests[n]! * rests[before]!
      squares += (weight * (rests[n]! ** 2 + rests[before]! ** 2)) / 2
    }
    known.set(name, n)
  }
  const r = squares > 0 ? Math.min(MOST_ALIKE, Math.max(0, products / squares)) : 0
  return ((1 + r) / (1 - r)) ** 2
}
