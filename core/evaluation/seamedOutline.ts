import type { HomogeneousOutline } from '../spline'
import {
  findObject,
  type RotoDocument,
  type Seam,
  type Shape,
  ownersByIndex,
  seamsBorrowedBy,
  sharedSegments,
} from '../document'

/** Numbers of a point in a homogeneous outline: anchor, leaving handle, arriving handle of the next. */
const STRIDE = 9
const LEAVING = 3
const ARRIVING_AT_NEXT = 6

/**
 * A borrower's outline with the stretches of its seams taken from their owners, as they lie at that moment: the same
 * rational cubics, so that no gap can open between two Parts that are moved differently.
 *
 * Beside a seam the borrower's own handles go along with the point that was taken over. Its weight is another's, so the
 * weights of the two handles are scaled with it: a rational cubic stays the same curve when its weights are multiplied by
 * a geometric series (Farin, Curves and Surfaces for CAGD, 5th ed., section 13.5).
 *
 * @param outline     the borrower's own outline; written over
 * @param outlineOf   the outline of another shape at the same moment, its own seams taken over
 */
export function seamedOutline(
  document: RotoDocument,
  shape: Shape,
  outline: HomogeneousOutline,
  outlineOf: (owner: Shape) => HomogeneousOutline,
): HomogeneousOutline {
  const seams = seamsBorrowedBy(document, shape.id)
  const own = outline.slice()
  const shared = new Set<number>()
  for (const seam of seams) {
    const owner = findObject(document, 'shape', seam.ownerId)
    if (owner) takeOver(seam, shape, owner, outlineOf(owner), outline, shared)
  }
  const count = shape.pointIds.length
  for (let i = 0; i < count; i++) if (!shared.has(i)) bendAlong(own, outline, i, (i + 1) % count)
  return outline
}

/** Points and whole segments of the seam as the owner has them; `shared` gets the indices of these segments. */
function takeOver(
  seam: Seam,
  shape: Shape,
  owner: Shape,
  from: HomogeneousOutline,
  to: HomogeneousOutline,
  shared: Set<number>,
) {
  const ownerOf = ownersByIndex(seam, owner, shape)
  const [count, ownerCount] = [shape.pointIds.length, owner.pointIds.length]
  for (const [b, o] of ownerOf) {
    if (b < 0 || o < 0) continue
    to.set(from.subarray(o * STRIDE, o * STRIDE + 3), b * STRIDE)
  }
  for (const b of sharedSegments(seam, owner, shape)) {
    const [o, next] = [ownerOf.get(b)!, ownerOf.get((b + 1) % count)!]
    if (next === (o + 1) % ownerCount) {
      to.set(from.subarray(o * STRIDE + LEAVING, (o + 1) * STRIDE), b * STRIDE + LEAVING)
    } else {
      to.set(from.subarray(next * STRIDE + ARRIVING_AT_NEXT, (next + 1) * STRIDE), b * STRIDE + LEAVING)
      to.set(from.subarray(next * STRIDE + LEAVING, next * STRIDE + ARRIVING_AT_NEXT), b * STRIDE + ARRIVING_AT_NEXT)
    }
    shared.add(b)
  }
}

/** Handles of a segment that the borrower keeps, carried along with its ends. */
function bendAlong(own: HomogeneousOutline, out: HomogeneousOutline, i: number, next: number) {
  const [a, b] = [i * STRIDE, next * STRIDE]
  const isMoved = [0, 1, 2].some((k) => own[a + k] !== out[a + k] || own[b + k] !== out[b + k])
  if (!isMoved) return
  const [ka, kb] = [out[a + 2]! / own[a + 2]!, out[b + 2]! / own[b + 2]!]
  const put = (at: number, anchor: number, weight: number) => {
    const w = own[at + 2]! * weight
    for (let axis = 0; axis < 2; axis++) {
      const way = own[at + axis]! / own[at + 2]! - own[anchor + axis]! / own[anchor + 2]!
      out[at + axis] = (out[anchor + axis]! / out[anchor + 2]! + way) * w
    }
    out[at + 2] = w
  }
  put(a + LEAVING, a, Math.cbrt(ka * ka * kb))
  put(a + ARRIVING_AT_NEXT, b, Math.cbrt(ka * kb * kb))
}
