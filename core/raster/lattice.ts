import { boxesOverlap, type Box } from '../geometry'
import type { PartBoundaries } from './scene'

export const MOST_SUB_TIMES = 64

/** Sub-times of the open shutter, u = (k + 0.5) / count: each Part maps them to its own shutter. */
export interface Lattice {
  count: number
}

/**
 * One lattice for all Parts that touch while the shutter is open, directly or through others, or are tied by Seams: a
 * Part's matte and what it leaves of another add up to at most one only when both are averaged over the same sub-times,
 * whatever is rendered together, in whatever part of the picture. N = largest sweep in plate pixels, 1 to 64, so that a
 * preview of any size has those of the hand-off.
 *
 * @param parts  all Parts of the frame
 * @param scale  target pixels per plate pixel
 */
export function latticesOf(parts: readonly PartBoundaries[], scale: number): Map<PartBoundaries, Lattice> {
  const boxes = parts.map((part) => platePixelsOf(part, scale))
  const found = new Map<PartBoundaries, Lattice>()
  for (const start of parts) {
    if (found.has(start)) continue
    const lattice: Lattice = { count: 1 }
    found.set(start, lattice)
    const members = [parts.indexOf(start)]
    for (const at of members) {
      const part = parts[at]!
      lattice.count = Math.max(lattice.count, Math.min(MOST_SUB_TIMES, Math.ceil(part.sweep / scale)))
      parts.forEach((other, i) => {
        if (found.has(other) || !(boxesOverlap(boxes[at]!, boxes[i]!) || areTied(part, other))) return
        found.set(other, lattice)
        members.push(i)
      })
    }
  }
  return found
}

const areTied = ({ part: a }: PartBoundaries, { part: b }: PartBoundaries) =>
  a.partitions?.includes(b.id) || b.partitions?.includes(a.id)

/** Whole plate pixels that a Part reaches and those beside them: two that abut share a pixel as soon as either is moved. */
function platePixelsOf(part: PartBoundaries, scale: number): Box {
  const { left, top, right, bottom } = part.reachedBox
  return {
    left: Math.floor(left / scale) - 1,
    top: Math.floor(top / scale) - 1,
    right: Math.ceil(right / scale) + 1,
    bottom: Math.ceil(bottom / scale) + 1,
  }
}
