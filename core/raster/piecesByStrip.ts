import type { BoundaryPieces } from './union'

/** Rows that are computed together: the buffers of a strip across a 2K picture stay in the processor's cache. */
export const STRIP_HEIGHT = 64

/** Boundary pieces sorted by the strips of {@link STRIP_HEIGHT} rows that they touch. */
export class PiecesByStrip {
  private readonly firstStrip: number
  /** Where the pieces of each strip begin in `sorted`. */
  private readonly starts: Int32Array
  /** Strip after strip; a piece that touches several stands in each. */
  private readonly sorted: BoundaryPieces

  /** @param all  in the order of their outlines */
  constructor(readonly all: BoundaryPieces) {
    const pieces = this.all
    let top = Infinity
    let bottom = -Infinity
    for (let i = 1; i < pieces.length; i += 2) {
      if (pieces[i]! < top) top = pieces[i]!
      if (pieces[i]! > bottom) bottom = pieces[i]!
    }
    this.firstStrip = pieces.length ? stripOf(top) : 0
    const strips = pieces.length ? stripOf(bottom) - this.firstStrip + 1 : 0
    this.starts = new Int32Array(strips + 1)
    for (let i = 0; i < pieces.length; i += 4) {
      const last = stripOf(lowerEnd(pieces, i)) - this.firstStrip
      for (let strip = stripOf(upperEnd(pieces, i)) - this.firstStrip; strip <= last; strip++) {
        this.starts[strip + 1]! += 4
      }
    }
    for (let strip = 0; strip < strips; strip++) this.starts[strip + 1]! += this.starts[strip]!
    this.sorted = new Float64Array(this.starts[strips]!)
    const filled = this.starts.slice()
    for (let i = 0; i < pieces.length; i += 4) {
      const last = stripOf(lowerEnd(pieces, i)) - this.firstStrip
      for (let strip = stripOf(upperEnd(pieces, i)) - this.firstStrip; strip <= last; strip++) {
        const at = filled[strip]!
        this.sorted[at] = pieces[i]!
        this.sorted[at + 1] = pieces[i + 1]!
        this.sorted[at + 2] = pieces[i + 2]!
        this.sorted[at + 3] = pieces[i + 3]!
        filled[strip] = at + 4
      }
    }
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
const lowerEnd = (pieces: BoundaryPieces, i: number) => Math.max(pieces[i + 1]!, pieces[i + 3]!)
const stripOf = (y: number) => Math.floor(y / STRIP_HEIGHT)

const NO_PIECES: BoundaryPieces = new Float64Array(0)
