import { boxesOverlap, type Box } from '../geometry'
import { PartBoundaries, type Scene } from './scene'

const MOST_SUB_TIMES = 64

/** Sub-times of the open shutter, u = (k + 0.5) / count: each Part maps them to its own shutter. */
export interface Lattice {
  count: number
}

/**
 * One lattice for all Parts that touch while the shutter is open, directly or through others, or are tied by Seams: a
 * Part's matte and what it leaves of another add up to at most one only when both are averaged over the same sub-times,
 * whatever is rendered together, in whatever part of the picture. N = the most that one of them needs, see
 * {@link neededSubTimes}, so that a preview of any size has those of the hand-off.
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
      lattice.count = Math.max(lattice.count, neededSubTimes(part, scale))
      parts.forEach((other, i) => {
        if (found.has(other) || !(boxesOverlap(boxes[at]!, boxes[i]!) || areTied(part, other))) return
        found.set(other, lattice)
        members.push(i)
      })
    }
  }
  return found
}

/** Sub-times at which each Part of a scene is rendered, by id: a matter of all that touch, also of those behind. */
export function subTimesOf({ parts, scale = 1 }: Scene): Map<string, number> {
  const bounded = parts.map((part) => new PartBoundaries(part, true))
  const lattices = latticesOf(bounded, scale)
  return new Map(bounded.map((part) => [part.part.id, lattices.get(part)!.count]))
}

/**
 * Sub-times that a Part needs: of a hard edge one for each plate pixel of its largest sweep, and more of short ones; of soft edges fewer; 1 to 64.
 *
 * The mean of N evenly spaced copies of a ramp of width w differs from that over all of a sweep L by at most h^2 / (8 L) times the change of the slope where
 * the ramp has a corner, with h = L / N the way between two copies: the corner may lie anywhere between them. A hard edge along the pixels is such a ramp of width 1,
 * with two corners whose errors add up in part: of each less than 1/255 is asked. A smooth step has no corner; it differs by h^2 / (24 L) times the change of its slope, of which 1.5 / w is the
 * steepest (midpoint rule with its end terms, Euler and Maclaurin). N is the least for which that is small enough.
 */
export function neededSubTimes(part: PartBoundaries, scale: number): number {
  const sweep = part.sweep / scale
  const hard = Math.min(MOST_SUB_TIMES, Math.max(1, Math.ceil(Math.max(sweep, Math.sqrt(sweep / (8 * HARD_ERROR))))))
  const width = part.rampWidth / scale
  if (width < 1) return hard
  return Math.min(hard, Math.max(1, Math.ceil(Math.sqrt((2 * 1.5 * sweep) / (24 * SOFT_ERROR * width)))))
}

/** Alpha by which a pixel at a hard edge may be wrong for being taken at few sub-times. */
const HARD_ERROR = 1 / 340
/** The same of a soft edge, where steps of a ramp would be seen. */
const SOFT_ERROR = 1 / 900

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
