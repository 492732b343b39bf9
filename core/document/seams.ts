import { allOf, findObject, type RotoDocument, type Seam, type Shape } from './objects'

/** Seams of a document by the shapes that have part in them. */
interface SeamIndex {
  borrowedBy: ReadonlyMap<string, readonly Seam[]>
  of: ReadonlyMap<string, readonly Seam[]>
}

const NONE: readonly Seam[] = []
const indices = new WeakMap<RotoDocument, SeamIndex>()

function indexOf(document: RotoDocument): SeamIndex {
  let index = indices.get(document)
  if (!index) {
    const borrowedBy = new Map<string, Seam[]>()
    const of = new Map<string, Seam[]>()
    const add = (map: Map<string, Seam[]>, id: string, seam: Seam) => map.set(id, [...(map.get(id) ?? []), seam])
    for (const seam of allOf(document, 'seam')) {
      add(borrowedBy, seam.borrowerId, seam)
      add(of, seam.borrowerId, seam)
      add(of, seam.ownerId, seam)
    }
    indices.set(document, (index = { borrowedBy, of }))
  }
  return index
}

/** Seams that a shape has points in, as the owner or the borrower. */
export function seamsOf(document: RotoDocument, shapeId: string): readonly Seam[] {
  return indexOf(document).of.get(shapeId) ?? NONE
}

/** The shape at the other side of a Seam. */
export function otherShape(document: RotoDocument, seam: Seam, shape: Shape): Shape | undefined {
  return findObject(document, 'shape', seam.ownerId === shape.id ? seam.borrowerId : seam.ownerId)
}

/** Seams in which a shape takes over another one's points. */
export function seamsBorrowedBy(document: RotoDocument, shapeId: string): readonly Seam[] {
  return indexOf(document).borrowedBy.get(shapeId) ?? NONE
}

/** A point of a borrower, and the point of another shape that it is. */
export interface TiedPoint {
  owner: Shape
  pointId: string
}

/** The point that decides where a point is: its owner's, through as many seams as there are; null when it is its own. */
export function tiedPoint(document: RotoDocument, shape: Shape, pointId: string): TiedPoint | null {
  for (const seam of seamsBorrowedBy(document, shape.id)) {
    const pair = seam.pairs.find(({ borrower }) => borrower === pointId)
    const owner = findObject(document, 'shape', seam.ownerId)
    if (!pair || !owner) continue
    return tiedPoint(document, owner, pair.owner) ?? { owner, pointId: pair.owner }
  }
  return null
}

/** True when the two outlines run against each other along the Seam, as neighbours drawn the same way round do. */
export function runsBackwards(seam: Seam, owner: Shape, borrower: Shape): boolean {
  const ownerOf = ownersByIndex(seam, owner, borrower)
  for (const [b, o] of ownerOf) {
    if (ownerOf.get((b + 1) % borrower.pointIds.length) === (o + 1) % owner.pointIds.length) return false
  }
  return true
}

/** Index of the owner's point for that of the borrower's. */
export function ownersByIndex(seam: Seam, owner: Shape, borrower: Shape): Map<number, number> {
  return new Map(
    seam.pairs.map((pair) => [borrower.pointIds.indexOf(pair.borrower), owner.pointIds.indexOf(pair.owner)]),
  )
}

/** Segments of the borrower that are the owner's: between pairs that are neighbours in both. By their first point. */
export function sharedSegments(seam: Seam, owner: Shape, borrower: Shape): Set<number> {
  const ownerOf = ownersByIndex(seam, owner, borrower)
  const [count, ownerCount] = [borrower.pointIds.length, owner.pointIds.length]
  const shared = new Set<number>()
  for (const [b, o] of ownerOf) {
    const next = ownerOf.get((b + 1) % count)
    if (next !== undefined && (next === (o + 1) % ownerCount || o === (next + 1) % ownerCount)) shared.add(b)
  }
  return shared
}

/** The tangent that is seen at a tied point, where a Seam goes on to that side: the owner's. Null: the shape's own. */
export function tiedTangent(
  document: RotoDocument,
  shape: Shape,
  index: number,
  tangent: 'in' | 'out',
): { owner: Shape; index: number; tangent: 'in' | 'out' } | null {
  const count = shape.pointIds.length
  const segment = tangent === 'out' ? index : (index + count - 1) % count
  for (const seam of seamsBorrowedBy(document, shape.id)) {
    const owner = findObject(document, 'shape', seam.ownerId)
    if (!owner || !sharedSegments(seam, owner, shape).has(segment)) continue
    const pair = seam.pairs.find(({ borrower }) => borrower === shape.pointIds[index])!
    const at = owner.pointIds.indexOf(pair.owner)
    const other = tangent === 'in' ? 'out' : 'in'
    const own = runsBackwards(seam, owner, shape) ? other : tangent
    return tiedTangent(document, owner, at, own) ?? { owner, index: at, tangent: own }
  }
  return null
}

/** Seams of which each owner borrows in turn end somewhere. */
export function hasSeamCycle(document: RotoDocument, shapeId: string): boolean {
  const seen = new Set<string>()
  const reaches = (id: string): boolean => {
    for (const { ownerId } of seamsBorrowedBy(document, id)) {
      if (ownerId === shapeId) return true
      if (seen.has(ownerId)) continue
      seen.add(ownerId)
      if (reaches(ownerId)) return true
    }
    return false
  }
  return reaches(shapeId)
}
