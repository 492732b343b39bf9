/**
 * Directed boundary pieces x0, y0, x1, y1 of a filled region. The region lies to the right of pieces that run down and
 * to the left of pieces that run up, below those that run left and above those that run right. Pieces never cross, and their
 * order does not matter: signed-area accumulation and distance need no closed loops. Level pieces bound no area to their
 * left or right, so coverage passes over them; distances need them as much as any other.
 */
export type BoundaryPieces = Float64Array

/** Heights are rounded to this part of a pixel: far below what shows, and no piece is left so flat that its slope overflows. */
const HEIGHT_STEPS = 2 ** 24

/** A growing list of pieces without garbage. */
export class PieceBuffer {
  private data = new Float64Array(4096)
  length = 0

  /** Heights go to the grid; a piece without length is left out. */
  push(x0: number, y0: number, x1: number, y1: number) {
    y0 = Math.round(y0 * HEIGHT_STEPS) / HEIGHT_STEPS
    y1 = Math.round(y1 * HEIGHT_STEPS) / HEIGHT_STEPS
    if (y0 === y1 && x0 === x1) return
    if (this.length + 4 > this.data.length) {
      const grown = new Float64Array(this.data.length * 2)
      grown.set(this.data)
      this.data = grown
    }
    const { data } = this
    data[this.length] = x0
    data[this.length + 1] = y0
    data[this.length + 2] = x1
    data[this.length + 3] = y1
    this.length += 4
  }

  clear() {
    this.length = 0
  }

  /** What is in the buffer now; good until it is written again. */
  view(): BoundaryPieces {
    return this.data.subarray(0, this.length)
  }

  toPieces(): BoundaryPieces {
    return this.data.slice(0, this.length)
  }
}
