import type { Box } from '../../geometry'
import type { Accumulator } from '../accumulate'

/** Alpha of one Part on the pixels of a strip that it can touch at all. */
export interface Plane {
  box: Box
  values: Float32Array
}

/** Room for the planes of a strip, given back in the order in which it was taken, and the arithmetic on them that takes most of a frame's time. */
export interface Planes {
  /** How much room is taken; set back, all that was taken since is free. */
  taken: number
  /** Room for at least `size` numbers; they are what was there before. */
  take(size: number): Float32Array
  readonly accumulator: Accumulator
  /** Adds a share of the first `size` values. */
  addShare(sum: Float32Array, values: Float32Array, size: number, share: number): void
  /** What is left of a plane where another one stands in front, written to `out`, which may be its own; both boxes are of one strip. */
  cut(own: Plane, front: Plane, out: Float32Array): void
  /** Adds a share of the same to a plane over the box of `own`. */
  addCut(sum: Float32Array, own: Plane, front: Plane, share: number): void
}

/** Columns that two boxes of one strip share, at least none, and how wide each is. */
export function overlapOf(box: Box, front: Box) {
  const left = Math.min(Math.max(box.left, front.left), box.right)
  return {
    rows: box.bottom - box.top,
    width: box.right - box.left,
    frontWidth: front.right - front.left,
    /** Where the shared columns begin in the one and in the other. */
    at: left - box.left,
    frontAt: left - front.left,
    columns: Math.max(0, Math.min(box.right, front.right) - left),
  }
}
