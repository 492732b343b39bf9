import { PLACES, SIGMAS } from './edgeGrid'
import { edgeSpread } from './edgeSpread'

/** Step of the tables of the edge's spread, pixels. */
export const TABLE_STEP = 0.1

/** The edge's spread for each of {@link SIGMAS}, from some distance on, {@link TABLE_STEP} apart. */
export interface Tables {
  from: number
  tables: readonly Float64Array[]
}

/** Pixels to which lengths of motions are rounded: places beside one another share their tables. */
const BOX_STEP = 0.1
const MOST_TABLES = 200
const known = new Map<string, Tables>()

export function tablesOf(box: number, half: number): Tables {
  const length = Math.round(box / BOX_STEP) * BOX_STEP
  const reach = Math.ceil(half + box / 2 + PLACES.at(-1)! + 1)
  const name = `${length.toFixed(1)}/${reach}`
  let found = known.get(name)
  if (!found) {
    const count = Math.ceil((2 * reach) / TABLE_STEP) + 2
    const tables = Array.from(SIGMAS, (sigma) =>
      Float64Array.from({ length: count }, (_, n) => edgeSpread(n * TABLE_STEP - reach, sigma, length)[0]),
    )
    if (known.size >= MOST_TABLES) known.clear()
    known.set(name, (found = { from: -reach, tables }))
  }
  return found
}
