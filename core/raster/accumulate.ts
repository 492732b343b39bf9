import type { Box } from '../geometry'
import type { BoundaryPieces } from './boundary'

/** Pieces that go less far to the side than this, in pixels, count as upright. */
const NARROWEST = 1e-9

/**
 * Signed-area accumulation: every boundary piece adds to the pixels it crosses the change of coverage that a running
 * sum along the row turns into exact area. Linear in the pieces, so the sub-times of a motion can share one buffer.
 */
export class CoverageAccumulator {
  readonly width: number
  readonly height: number
  private readonly stride: number
  private readonly change: Float32Array

  /** @param box  whole pixels of the target, in the space of the pieces */
  constructor(private readonly box: Box) {
    this.width = box.right - box.left
    this.height = box.bottom - box.top
    this.stride = this.width + 2
    this.change = new Float32Array(this.stride * this.height)
  }

  clear() {
    this.change.fill(0)
  }

  add(pieces: BoundaryPieces, weight = 1) {
    const { left, top } = this.box
    for (let i = 0; i < pieces.length; i += 4) {
      this.addPiece(pieces[i]! - left, pieces[i + 1]! - top, pieces[i + 2]! - left, pieces[i + 3]! - top, weight)
    }
  }

  private addPiece(x0: number, y0: number, x1: number, y1: number, weight: number) {
    if (y0 === y1) return
    let sign = weight
    if (y0 > y1) {
      sign = -weight
      let swap = x0
      x0 = x1
      x1 = swap
      swap = y0
      y0 = y1
      y1 = swap
    }
    if (y1 <= 0 || y0 >= this.height) return
    if (x0 >= this.width && x1 >= this.width) return
    const slope = (x1 - x0) / (y1 - y0)
    if (y0 < 0) {
      x0 -= y0 * slope
      y0 = 0
    }
    if (y1 > this.height) {
      x1 = x0 + (this.height - y0) * slope
      y1 = this.height
    }
    let x = x0
    let y = y0
    const lastRow = Math.min(this.height - 1, Math.ceil(y1) - 1)
    for (let row = Math.floor(y0); row <= lastRow; row++) {
      const end = row + 1 < y1 ? row + 1 : y1
      const xEnd = end === y1 ? x1 : x + (end - y) * slope
      this.addRowPiece(row * this.stride, x, xEnd, (end - y) * sign)
      x = xEnd
      y = end
    }
  }

  /** A piece within one row, from x to xEnd, carrying the signed height `d`. */
  private addRowPiece(row: number, x: number, xEnd: number, d: number) {
    const change = this.change
    let a = x < xEnd ? x : xEnd
    let b = x < xEnd ? xEnd : x
    const width = this.width
    if (a >= width) return
    if (b <= 0) {
      change[row]! += d
      return
    }
    if (b - a < NARROWEST) {
      // As good as upright, and the division below could overflow.
      a = b = Math.min(width, Math.max(0, (a + b) / 2))
    } else if (a < 0 || b > width) {
      // Cut at the buffer's sides: what lies left covers the whole row, what lies right covers nothing of it.
      const perX = d / (b - a)
      if (a < 0) {
        change[row]! += -a * perX
        d += a * perX
        a = 0
      }
      if (b > width) {
        d -= (b - width) * perX
        b = width
      }
    }
    if (a >= width) return
    const first = Math.floor(a)
    const last = Math.ceil(b) - 1
    if (last <= first) {
      const middle = (a + b) / 2 - first
      change[row + first]! += d * (1 - middle)
      change[row + first + 1]! += d * middle
      return
    }
    const perPixel = d / (b - a)
    const inFirst = first + 1 - a
    const firstArea = 0.5 * perPixel * inFirst * inFirst
    change[row + first]! += firstArea
    // Coverage reached so far inside pixel p is the integral of the height passed up to its right side.
    let covered = firstArea
    for (let p = first + 1; p < last; p++) {
      const area = perPixel * (p + 0.5 - a)
      change[row + p]! += area - covered
      covered = area
    }
    const inLast = b - last
    const area = d - 0.5 * perPixel * inLast * inLast
    change[row + last]! += area - covered
    change[row + last + 1]! += d - area
  }

  /** Coverage 0..1 of every pixel, row-major, clamped. */
  writeTo(out: Float32Array) {
    const { change, width, height, stride } = this
    for (let row = 0; row < height; row++) {
      let sum = 0
      let from = row * stride
      let to = row * width
      for (const end = to + width; to < end; to++, from++) {
        sum += change[from]!
        out[to] = sum <= 0 ? 0 : sum >= 1 ? 1 : sum
      }
    }
  }
}
