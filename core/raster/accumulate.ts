import type { Box } from '../geometry'
import type { FittedMatte } from './fittedMatte'
import type { BoundaryPieces } from './union'

/** Log2 of the pixels in a block: blocks that no piece touches are filled at once. */
export const BLOCK_BITS = 4

/**
 * Rows lie this much further apart than their pixels need. One pixel of room is used; the rest keeps the rows of a
 * picture whose width is a power of two out of one another's place in the processor's cache.
 */
export const ROW_PADDING = 24

/** Pieces that go less far to the side than this, in pixels, count as upright. */
const NARROWEST = 1e-9

/** What many additions in 32 bits may leave of a coverage of nothing, or take from one of all. */
const ROUNDING = 1e-6

/** Sums up what boundary pieces cover. */
export interface Accumulator {
  /** Begins anew. @param box  whole pixels, in the space of the pieces */
  begin(box: Box): void
  /** Adds pieces with a weight. */
  add(pieces: BoundaryPieces, weight?: number): void
  /**
   * Writes the coverage 0..1 of every pixel of the box, clamped, to `matte`, whose box holds this one.
   *
   * @param isCleared  all of `matte` is 0: what is not covered is passed over, and fresh memory there never touched
   */
  finish(matte: FittedMatte, isCleared?: boolean): void
}

/**
 * Signed-area accumulation: every boundary piece adds to the pixels it crosses the change of coverage that a running
 * sum along the row turns into exact area. Linear in the pieces, so the sub-times of a motion can share one buffer.
 */
export class CoverageAccumulator implements Accumulator {
  private box: Box = { left: 0, top: 0, right: 0, bottom: 0 }
  private width = 0
  private height = 0
  private stride = 0
  private blocksInRow = 0
  /** All zero between {@link finish} and {@link add}. */
  private change = new Float32Array(0)
  private touched = new Uint8Array(0)

  private isFinished = true

  begin(box: Box) {
    // What came before broke off.
    if (!this.isFinished) {
      this.change.fill(0)
      this.touched.fill(0)
    }
    this.isFinished = false
    this.box = box
    this.width = box.right - box.left
    this.height = box.bottom - box.top
    this.stride = this.width + ROW_PADDING
    this.blocksInRow = (this.stride >> BLOCK_BITS) + 1
    if (this.change.length < this.stride * this.height) this.change = new Float32Array(this.stride * this.height)
    const blocks = this.blocksInRow * this.height
    if (this.touched.length < blocks) this.touched = new Uint8Array(blocks)
  }

  /** One long function: handing the numbers of every row on to another one costs more than the arithmetic. */
  add(pieces: BoundaryPieces, weight = 1) {
    const { change, touched, width, height, stride, blocksInRow } = this
    const { left, top } = this.box
    for (let i = 0; i < pieces.length; i += 4) {
      const isDown = pieces[i + 1]! < pieces[i + 3]!
      const upper = isDown ? i : i + 2
      const lower = isDown ? i + 2 : i
      let y = pieces[upper + 1]! - top
      let yEnd = pieces[lower + 1]! - top
      // A level piece changes the coverage of nothing.
      if (yEnd <= 0 || y >= height || y === yEnd) continue
      let x = pieces[upper]! - left
      const xLast = pieces[lower]! - left
      if (x >= width && xLast >= width) continue
      const sign = isDown ? weight : -weight
      const slope = (xLast - x) / (yEnd - y)
      let isCut = false
      if (y < 0) {
        x -= y * slope
        y = 0
      }
      if (yEnd > height) {
        yEnd = height
        isCut = true
      }
      for (let row = y | 0; y < yEnd; row++) {
        const isLastRow = row + 1 >= yEnd
        const yNext = isLastRow ? yEnd : row + 1
        const xNext = isLastRow && !isCut ? xLast : x + (yNext - y) * slope
        // The piece within this row, from a to b from left to right, carries the signed height d.
        let d = (yNext - y) * sign
        let a = x < xNext ? x : xNext
        let b = x < xNext ? xNext : x
        x = xNext
        y = yNext
        if (a >= width) continue
        const first = row * stride
        const blocks = row * blocksInRow
        if (b <= 0) {
          touched[blocks] = 1
          change[first]! += d
          continue
        }
        if (b - a < NARROWEST) {
          // As good as upright, and the division below could overflow.
          a = (a + b) / 2
          a = b = a < 0 ? 0 : a > width ? width : a
        } else if (a < 0 || b > width) {
          // Cut at the buffer's sides: what lies left covers the whole row, what lies right covers nothing of it.
          const perX = d / (b - a)
          if (a < 0) {
            touched[blocks] = 1
            change[first]! += -a * perX
            d += a * perX
            a = 0
          }
          if (b > width) {
            d -= (b - width) * perX
            b = width
          }
        }
        if (a >= width) continue
        // Both are in 0..width here, so cutting the fraction off is rounding down.
        const p = a | 0
        let q = b | 0
        if (q === b) q--
        touched[blocks + (p >> BLOCK_BITS)] = 1
        if (q <= p) {
          touched[blocks + ((p + 1) >> BLOCK_BITS)] = 1
          const middle = (a + b) / 2 - p
          change[first + p]! += d * (1 - middle)
          change[first + p + 1]! += d * middle
          continue
        }
        for (let block = (p >> BLOCK_BITS) + 1; block <= (q + 1) >> BLOCK_BITS; block++) touched[blocks + block] = 1
        const perPixel = d / (b - a)
        const inFirst = p + 1 - a
        // Coverage reached so far inside a pixel is the integral of the height passed up to its right side.
        let covered = 0.5 * perPixel * inFirst * inFirst
        change[first + p]! += covered
        for (let pixel = p + 1; pixel < q; pixel++) {
          const area = perPixel * (pixel + 0.5 - a)
          change[first + pixel]! += area - covered
          covered = area
        }
        const inLast = b - q
        const area = d - 0.5 * perPixel * inLast * inLast
        change[first + q]! += area - covered
        change[first + q + 1]! += d - area
      }
    }
  }

  finish(matte: FittedMatte, isCleared = false) {
    const { change, touched, width, height, stride } = this
    const { alpha: out, box: whole } = matte
    const outStride = whole.right - whole.left
    const first = (this.box.top - whole.top) * outStride + this.box.left - whole.left
    for (let row = 0; row < height; row++) {
      let sum = 0
      const from = row * stride
      const to = first + row * outStride
      const blocks = row * this.blocksInRow
      let x = 0
      while (x < width) {
        let block = x >> BLOCK_BITS
        if (touched[blocks + block]) {
          const end = Math.min(width, (block + 1) << BLOCK_BITS)
          for (; x < end; x++) {
            sum += change[from + x]!
            change[from + x] = 0
            out[to + x] = sum <= 0 ? 0 : sum >= 1 ? 1 : sum
          }
        } else {
          do block++
          while (block << BLOCK_BITS < width && !touched[blocks + block])
          const end = Math.min(width, block << BLOCK_BITS)
          if (sum < ROUNDING) sum = 0
          else if (sum > 1 - ROUNDING) sum = 1
          if (!isCleared || sum !== 0) out.fill(sum, to + x, to + end)
          x = end
        }
      }
      change[from + width] = 0
    }
    touched.fill(0, 0, this.blocksInRow * height)
    this.isFinished = true
  }
}
