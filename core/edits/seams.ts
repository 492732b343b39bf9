import { SEGMENT, SEGMENT_STRIDE } from '../spline'
import { applyToPoint, invert } from '../geometry'
import { pointWorldsAt, controlPlacesAt, outlineAt, wholeKeys } from '../evaluation'
import {
  findObject,
  newId,
  POINT,
  POINT_STRIDE,
  type RotoDocument,
  type Seam,
  type Shape,
  withPatchesApplied,
  type Patch,
  otherShape,
  runsBackwards,
  seamsOf,
  sharedSegments,
  tiedPoint,
  withOutlineKeys,
} from '../document'
import { pointInserted, pointsRemoved } from './points'
import type { Restructured } from './curveKind'
import { pointShares } from './softSelection'

/** The chosen points in the order of the outline when they are one unbroken stretch of it; null when they are not. */
export function stretchOf(shape: Shape, chosen: ReadonlySet<string>): string[] | null {
  const count = shape.pointIds.length
  const isIn = shape.pointIds.map((id) => chosen.has(id))
  const size = isIn.filter(Boolean).length
  if (size === 0 || size === count) return null
  const starts = shape.pointIds.flatMap((_, i) => (isIn[i] && !isIn[(i + count - 1) % count] ? [i] : []))
  if (starts.length !== 1) return null
  return Array.from({ length: size }, (_, k) => shape.pointIds[(starts[0]! + k) % count]!)
}

/**
 * A stretch of one shape tied to a stretch of another, which it takes over from then on. Where it has fewer or more points
 * between its ends than the owner, it gets the owner's. Its keys lie on the owner's line, so that it stays near when the
 * Seam is broken.
 *
 * @param ownerIds, borrowerIds  points in the order of their outlines; which ends belong together the frame tells
 */
export function seamTied(
  document: RotoDocument,
  owner: Shape,
  ownerIds: readonly string[],
  borrower: Shape,
  borrowerIds: readonly string[],
  frame: number,
): { patches: Patch[]; seam: Seam } {
  const along = isOtherWayRound(document, owner, ownerIds, borrower, borrowerIds, frame)
    ? ownerIds.toReversed()
    : ownerIds
  const fitted = withStretch(borrower, borrowerIds, along.length)
  const pairs = along.map((id, i) => ({ owner: id, borrower: fitted.stretch[i]! }))
  const merged = mergedWith(document, owner, fitted.shape, pairs)
  const seam: Seam = { kind: 'seam', id: merged.former?.id ?? newId(), ownerId: owner.id, borrowerId: borrower.id, pairs: merged.pairs } // prettier-ignore
  const tied = laidOn(document, fitted.shape, owner, seam)
  const patches: Patch[] = [{ kind: 'object', id: borrower.id, before: borrower, after: tied }]
  patches.push({ kind: 'object', id: seam.id, before: merged.former, after: seam })
  // Points that had to go may have been tied to a third shape.
  const gone = new Set(borrower.pointIds.filter((id) => !tied.pointIds.includes(id)))
  const others = seamsWithoutPoints(document, borrower.id, gone).filter(({ id }) => id !== seam.id)
  return { patches: [...others, ...patches], seam }
}

/** Whether the outlines run against each other along the stretches: the nearer ends on the frame belong together. */
function isOtherWayRound(
  document: RotoDocument,
  owner: Shape,
  ownerIds: readonly string[],
  borrower: Shape,
  borrowerIds: readonly string[],
  frame: number,
): boolean {
  const placeOf = (shape: Shape, id: string | undefined) => {
    const at = 2 * shape.pointIds.indexOf(id ?? '')
    return controlPlacesAt(document, shape, frame).subarray(at, at + 2)
  }
  const [a, b] = [ownerIds[0], ownerIds.at(-1)].map((id) => placeOf(owner, id)) as [Float64Array, Float64Array]
  const [p, q] = [borrowerIds[0], borrowerIds.at(-1)].map((id) => placeOf(borrower, id)) as [Float64Array, Float64Array]
  const apart = (u: Float64Array, v: Float64Array) => Math.hypot(u[0]! - v[0]!, u[1]! - v[1]!)
  return apart(a, q) + apart(b, p) < apart(a, p) + apart(b, q)
}

/** The shape with so many points in the stretch: its ends stay, points between are left out or put in. */
function withStretch(shape: Shape, ids: readonly string[], count: number): { shape: Shape; stretch: string[] } {
  if (ids.length === count || count === 1) return { shape, stretch: [...ids].slice(0, count) }
  if (ids.length > count) {
    const superfluous = new Set(ids.slice(1, 1 + ids.length - count))
    const patches = pointsRemoved(shape, superfluous).patches
    return { shape: afterOf(patches, shape), stretch: ids.filter((id) => !superfluous.has(id)) }
  }
  let now = shape
  let stretch = [...ids]
  while (stretch.length < count) {
    const at = now.pointIds.indexOf(stretch.at(-2) ?? stretch[0]!)
    const { patches, pointId } = pointInserted(now, at, 0.5)
    now = afterOf(patches, now)
    stretch = [...stretch.slice(0, -1), pointId, stretch.at(-1)!]
  }
  return { shape: now, stretch }
}

function afterOf(patches: readonly Patch[], shape: Shape): Shape {
  const [patch] = patches
  return patch?.kind === 'object' && patch.after?.kind === 'shape' ? patch.after : shape
}

/** A Seam that these two shapes have already gets the new pairs, in the order of the borrower's outline. */
function mergedWith(document: RotoDocument, owner: Shape, borrower: Shape, pairs: Seam['pairs']) {
  const former = seamsOf(document, owner.id).find(
    (seam) => seam.ownerId === owner.id && seam.borrowerId === borrower.id,
  )
  const kept = (former?.pairs ?? []).filter(
    (pair) =>
      borrower.pointIds.includes(pair.borrower) &&
      !pairs.some((own) => own.owner === pair.owner || own.borrower === pair.borrower),
  )
  const place = ({ borrower: id }: Seam['pairs'][number]) => borrower.pointIds.indexOf(id)
  return { former: former ?? null, pairs: [...kept, ...pairs].sort((a, b) => place(a) - place(b)) }
}

/** The borrower with its tied points, and the tangents along the Seam, where the owner's are, on each of its keys. */
function laidOn(document: RotoDocument, borrower: Shape, owner: Shape, seam: Seam): Shape {
  const isReversed = runsBackwards(seam, owner, borrower)
  const count = owner.pointIds.length
  const shared = sharedSegments(seam, owner, borrower)
  const isShared = (b: number, side: 'in' | 'out') =>
    shared.has(side === 'out' ? b : (b + borrower.pointIds.length - 1) % borrower.pointIds.length)
  const keys = wholeKeys(borrower).map(({ touched: _, ...key }) => {
    const outline = outlineAt(document, owner, key.time)
    const worlds = pointWorldsAt(document, borrower, key.time)
    const values = key.values.slice()
    for (const pair of seam.pairs) {
      const [b, o] = [borrower.pointIds.indexOf(pair.borrower), owner.pointIds.indexOf(pair.owner)]
      const back = invert(worlds[b]!)
      const placed = (at: number) =>
        applyToPoint(back, outline[at]! / outline[at + 2]!, outline[at + 1]! / outline[at + 2]!)
      const anchor = placed(o * SEGMENT_STRIDE)
      const leaving = placed(o * SEGMENT_STRIDE + SEGMENT.leaving)
      const arriving = placed(((o + count - 1) % count) * SEGMENT_STRIDE + SEGMENT.arriving)
      const [tangentIn, tangentOut] = isReversed ? [leaving, arriving] : [arriving, leaving]
      const at = b * POINT_STRIDE
      values.set([anchor[0]!, anchor[1]!], at)
      if (isShared(b, 'in')) values.set([tangentIn[0]! - anchor[0]!, tangentIn[1]! - anchor[1]!], at + POINT.inX)
      if (isShared(b, 'out')) values.set([tangentOut[0]! - anchor[0]!, tangentOut[1]! - anchor[1]!], at + POINT.outX)
    }
    return { ...key, values }
  })
  const corners = borrower.pointIds.map((id, b) => {
    const pair = seam.pairs.find((one) => one.borrower === id)
    const sides = [isShared(b, 'in'), isShared(b, 'out')].filter(Boolean).length
    if (!pair || sides === 0) return borrower.corners[b]!
    // At an end of the Seam one tangent is the owner's and the other one its own.
    return sides === 1 || owner.corners[owner.pointIds.indexOf(pair.owner)]!
  })
  return { ...withOutlineKeys(borrower, keys), corners }
}

/** A Seam let go: the borrower keeps its line on its own keys. */
export function seamBroken(document: RotoDocument, seam: Seam): Patch[] {
  const [owner, borrower] = [
    findObject(document, 'shape', seam.ownerId),
    findObject(document, 'shape', seam.borrowerId),
  ]
  const gone: Patch = { kind: 'object', id: seam.id, before: seam, after: null }
  if (!owner || !borrower) return [gone]
  return [gone, { kind: 'object', id: borrower.id, before: borrower, after: laidOn(document, borrower, owner, seam) }]
}

/** Several Seams let go one after the other: each sees what the last has left. */
export function seamsBroken(document: RotoDocument, seams: readonly Seam[]): Patch[] {
  let now = document
  return seams.flatMap((seam) => {
    const patches = seamBroken(now, seam)
    now = withPatchesApplied(now, patches)
    return patches
  })
}

/** What becomes of Seams when points of a shape go: pairs go with their points, and a Seam with its last pair. */
function seamsWithoutPoints(document: RotoDocument, shapeId: string, gone: ReadonlySet<string>): Patch[] {
  return seamsOf(document, shapeId).flatMap((seam): Patch[] => {
    const isOwner = seam.ownerId === shapeId
    const pairs = seam.pairs.filter((pair) => !gone.has(isOwner ? pair.owner : pair.borrower))
    if (pairs.length === seam.pairs.length) return []
    return [{ kind: 'object', id: seam.id, before: seam, after: pairs.length ? { ...seam, pairs } : null }]
  })
}

/** Points of a shape taken away, and what was tied to them let go first. */
export function pointsRemovedFrom(document: RotoDocument, shape: Shape, pointIds: ReadonlySet<string>): Restructured {
  const removed = pointsRemoved(shape, pointIds)
  if (removed.patches.length === 0) return removed
  return { ...removed, patches: [...seamsWithoutPoints(document, shape.id, pointIds), ...removed.patches] }
}

/** A point put on segment i of a shape at t; on a shared stretch of a Seam both shapes get it, tied. */
export function pointInsertedInto(
  document: RotoDocument,
  shape: Shape,
  i: number,
  t: number,
): Restructured & { pointId: string } {
  const made = pointInserted(shape, i, t)
  const [a, b] = [shape.pointIds[i]!, shape.pointIds[(i + 1) % shape.pointIds.length]!]
  const patches = [...made.patches]
  for (const seam of seamsOf(document, shape.id)) {
    const isOwner = seam.ownerId === shape.id
    const [own, others] = isOwner ? (['owner', 'borrower'] as const) : (['borrower', 'owner'] as const)
    const other = otherShape(document, seam, shape)
    const [first, second] = [a, b].map((id) => seam.pairs.find((pair) => pair[own] === id))
    if (!other || !first || !second) continue
    const [x, y] = [first[others], second[others]].map((id) => other.pointIds.indexOf(id)) as [number, number]
    const count = other.pointIds.length
    const isForward = (x + 1) % count === y
    if (!isForward && (y + 1) % count !== x) continue
    const twin = isForward ? pointInserted(other, x, t) : pointInserted(other, y, 1 - t)
    patches.push(...twin.patches)
    const pair = isOwner ? { owner: made.pointId, borrower: twin.pointId } : { owner: twin.pointId, borrower: made.pointId } // prettier-ignore
    const at = Math.max(seam.pairs.indexOf(first), seam.pairs.indexOf(second))
    const isWrapped = Math.abs(seam.pairs.indexOf(first) - seam.pairs.indexOf(second)) !== 1
    const pairs = isWrapped ? [...seam.pairs, pair] : seam.pairs.toSpliced(at, 0, pair)
    patches.push({ kind: 'object', id: seam.id, before: seam, after: { ...seam, pairs } })
  }
  return { ...made, patches }
}

/** One shape and how much each of its points goes along with an edit. */
export interface ShapeShares {
  shape: Shape
  share(pointId: string): number
}

/**
 * Which points of which shapes an edit of chosen points moves: of tied points those of their owners, each once.
 *
 * @param pointIds  empty: all points of the shapes
 * @param softness  as in pointShares
 */
export function sharesWithOwners(
  document: RotoDocument,
  shapes: readonly Shape[],
  frame: number,
  pointIds: ReadonlySet<string>,
  softness: number,
): ShapeShares[] {
  const sums = new Map<Shape, Map<string, number>>()
  const note = (shape: Shape, pointId: string, share: number) => {
    const known = sums.get(shape) ?? new Map<string, number>()
    sums.set(shape, known.set(pointId, Math.max(share, known.get(pointId) ?? 0)))
  }
  for (const shape of shapes) {
    if (pointIds.size && !shape.pointIds.some((id) => pointIds.has(id))) continue
    const share = pointShares(document, shape, frame, pointIds, softness)
    for (const id of shape.pointIds) {
      const amount = share(id)
      if (amount === 0) continue
      const tied = tiedPoint(document, shape, id)
      if (tied) note(tied.owner, tied.pointId, amount)
      else note(shape, id, amount)
    }
  }
  return [...sums].map(([shape, known]) => ({ shape, share: (id: string) => known.get(id) ?? 0 }))
}
