import type { BoundaryPieces } from './union'

/** Rows that are computed together: the buffers of a strip across a 2K picture stay in the processor's cache. */
export const STRIP_HEIGHT = 96

/** The strips of each piece, used again by each call. */
let scratch = { first: new Int32Array(0), last: new Int32Array(0) }

function roomForStrips(count: number): typeof scratch {
  if (scratch.first.length < count) scratch = { first: new Int32Array(2 * count), last: new Int32Array(2 * count) }
  return scratch
}

/** Boundary pieces sorted by the strips of {@link STRIP_HEIGHT} rows that they touch. */
export class PiecesByStrip {
  private readonly firstStrip: number
  /** Where the pieces of each strip begin in `sorted`. */
  private readonly starts: Int32Array
  /** Strip after strip; a piece that touches several stands in each. */
  private readonly sorted: BoundaryPieces

  /** @param all  may be written again afterwards */
  constructor(all: BoundaryPieces) {
    const count = all.length / 4
    const { first, last } = roomForStrips(count)
    let [least, most] = [Infinity, -Infinity]
    for (let p = 0, i = 1; p < count; p++, i += 4) {
      const [start, end] = [stripOf(all[i]!), stripOf(all[i + 2]!)]
      first[p] = start < end ? start : end
      last[p] = start < end ? end : start
      if (first[p]! < least) least = first[p]!
      if (last[p]! > most) most = last[p]!
    }
    const strips = count ? most - least + 1 : 0
    const starts = new Int32Array(strips + 1)
    for (let p = 0; p < count; p++) for (let s = first[p]!; s <= last[p]!; s++) starts[s - least + 1]! += 4
    for (let s = 0; s < strips; s++) starts[s + 1]! += starts[s]!
    const sorted = new Float64Array(starts[strips]!)
    const filled = starts.slice()
    for (let p = 0, i = 0; p < count; p++, i += 4) {
      for (let s = first[p]!; s <= last[p]!; s++) {
        const at = filled[s - least]!
        sorted[at] = all[i]!
        sorted[at + 1] = all[i + 1]!
        sorted[at + 2] = all[i + 2]!
        sorted[at + 3] = all[i + 3]!
        filled[s - least] = at + 4
      }
    }
    this.firstStrip = count ? least : 0
    this.starts = starts
    this.sorted = sorted
  }

  /** The pieces that touch the rows top to bottom, and perhaps some near them, each once. */
  touching(top: number, bottom: number): BoundaryPieces {
    const first = Math.max(0, stripOf(top) - this.firstStrip)
    const end = Math.min(this.starts.length - 1, stripOf(bottom) - this.firstStrip + 1)
    if (first >= end) return NO_PIECES
    const all = this.sorted.subarray(this.starts[first]!, this.starts[end]!)
    if (end === first + 1) return all
    const once = new Float64Array(all.length)
    once.set(this.sorted.subarray(this.starts[first]!, this.starts[first + 1]!))
    let length = this.starts[first + 1]! - this.starts[first]!
    for (let strip = first + 1; strip < end; strip++) {
      for (let i = this.starts[strip]!; i < this.starts[strip + 1]!; i += 4) {
        // What begins higher up was taken with the strip above.
        if (stripOf(upperEnd(this.sorted, i)) - this.firstStrip < strip) continue
        for (let n = 0; n < 4; n++) once[length++] = this.sorted[i + n]!
      }
    }
    return once.subarray(0, length)
  }
}

const upperEnd = (pieces: BoundaryPieces, i: number) => Math.min(pieces[i + 1]!, pieces[i + 3]!)
const stripOf = (y: number) => Math.floor(y / STRIP_HEIGHT)

const NO_PIECES: BoundaryPieces = new Float64Array(0)
