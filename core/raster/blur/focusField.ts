import type { Box } from '../../geometry'
import { valuesAlong, type HomogeneousOutline } from '../../spline'

/** An outline whose focus differs from point to point. */
export interface FocusedOutline {
  outline: HomogeneousOutline
  /** Sigma of each point, pixels of the target; none is negative. */
  sigmas: Float64Array
}

/** Pixels from one node of the field to the next: it changes slowly, and is read between them. */
const SPACING = 8
/** What keeps the weight of a place finite on the outline itself, square pixels. */
const NEAREST = 0.25
/** Pixels by which the outline may be flattened: what is read from it is blurred. */
const TOLERANCE = 0.5

/**
 * Sigma of the blur at every pixel about outlines whose points differ in focus. It is the mean of what all places of the
 * outlines have, weighted by one over the third power of their distance (inverse distance weighting: Shepard, A two-dimensional
 * interpolation function for irregularly-spaced data, 1968), integrated along each piece in closed form: on the line it is that of the line, and nowhere it jumps.
 */
export class FocusField {
  /** x0, y0, sigma0, x1, y1, sigma1 of each piece. */
  private readonly pieces: Float64Array
  readonly least: number
  readonly most: number
  private readonly nodes = new Map<number, number>()
  /** Variance of the blur that is done otherwise, square pixels. */
  private doneAlready = 0

  constructor(outlines: readonly FocusedOutline[]) {
    const pieces: number[] = []
    for (const { outline, sigmas } of outlines) {
      const { polygon, values } = valuesAlong(outline, sigmas, 1, TOLERANCE)
      for (let i = 0; i < values.length; i++) {
        const next = (i + 1) % values.length
        pieces.push(polygon[2 * i]!, polygon[2 * i + 1]!, values[i]!, polygon[2 * next]!, polygon[2 * next + 1]!, values[next]!) // prettier-ignore
      }
    }
    this.pieces = Float64Array.from(pieces)
    let [least, most] = [Infinity, 0]
    for (let at = 2; at < pieces.length; at += 3) {
      least = Math.min(least, pieces[at]!)
      most = Math.max(most, pieces[at]!)
    }
    this.least = Math.min(least, most)
    this.most = most
  }

  /** Leaves variance out of what is told of every pixel from now on, at most that of the least sigma; square pixels. */
  leaveOut(variance: number) {
    this.doneAlready = variance
  }

  /** Sigma at the pixels of a box, row-major, pixels of the target. */
  over(box: Box, out: Float32Array) {
    const { doneAlready } = this
    let at = 0
    for (let y = box.top; y < box.bottom; y++) {
      const v = (y + 0.5) / SPACING
      const row = Math.floor(v)
      let column = Infinity
      let [left, right] = [0, 0]
      for (let x = box.left; x < box.right; x++) {
        const u = (x + 0.5) / SPACING
        if (Math.floor(u) !== column) {
          column = Math.floor(u)
          left = this.nodeAt(column, row) * (row + 1 - v) + this.nodeAt(column, row + 1) * (v - row)
          right = this.nodeAt(column + 1, row) * (row + 1 - v) + this.nodeAt(column + 1, row + 1) * (v - row)
        }
        const sigma = left + (right - left) * (u - column)
        out[at++] = doneAlready > 0 ? Math.sqrt(Math.max(0, sigma * sigma - doneAlready)) : sigma
      }
    }
  }

  private nodeAt(column: number, row: number): number {
    // Pictures are at most 16384 wide, and their borders less.
    const name = (row + 8192) * 32768 + column + 8192
    let sigma = this.nodes.get(name)
    if (sigma === undefined) this.nodes.set(name, (sigma = this.sigmaAt(column * SPACING, row * SPACING)))
    return sigma
  }

  /** Weighted mean at one place, pixels of the target. */
  sigmaAt(x: number, y: number): number {
    const { pieces } = this
    let sum = 0
    let weight = 0
    for (let at = 0; at < pieces.length; at += 6) {
      const x0 = pieces[at]!
      const y0 = pieces[at + 1]!
      const s0 = pieces[at + 2]!
      const dx = pieces[at + 3]! - x0
      const dy = pieces[at + 4]! - y0
      const length = Math.sqrt(dx * dx + dy * dy)
      if (length === 0) continue
      // Along the piece from the foot of the place, and across it.
      const a = -((x - x0) * dx + (y - y0) * dy) / length
      const b = a + length
      const across = ((x - x0) * dy - (y - y0) * dx) / length
      const h2 = across * across + NEAREST
      const qa = 1 / Math.sqrt(a * a + h2)
      const qb = 1 / Math.sqrt(b * b + h2)
      // Integrals of 1 / (s^2 + h^2)^(3/2) and s / (s^2 + h^2)^(3/2) from a to b.
      const even = (b * qb - a * qa) / h2
      const odd = qa - qb
      const slope = (pieces[at + 5]! - s0) / length
      sum += (s0 - slope * a) * even + slope * odd
      weight += even
    }
    return weight > 0 ? Math.min(this.most, Math.max(this.least, sum / weight)) : 0
  }
}
