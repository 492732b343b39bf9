import { allOf, findObject, type Part, type RotoDocument } from '../document'

/** Two bones of a limb and what is taken hold of at their end. */
export interface Limb {
  upper: Part
  lower: Part
  /** The Part at the end whose pivot is pulled; null: a place of the lower bone itself. */
  end: Part | null
}

/**
 * The limb that a Part ends: as a hand or a foot its parent and grandparent, otherwise itself and its parent; null where
 * there are not two bones. A hand carries nothing, and what carries its arm is a bone: pinned itself, or with no other limb.
 */
export function limbOf(document: RotoDocument, part: Part): Limb | null {
  const parent = part.parentId === null ? undefined : findObject(document, 'part', part.parentId)
  if (!parent) return null
  const grandparent = parent.parentId === null ? undefined : findObject(document, 'part', parent.parentId)
  const isBone = grandparent?.pin?.to === 'parent' || (grandparent && carriedBy(document, grandparent).length === 1)
  return isBone && grandparent && carriedBy(document, part).length === 0
    ? { upper: grandparent, lower: parent, end: part }
    : { upper: parent, lower: part, end: null }
}

/** The limb with what its lower bone carries as its end, where that is one Part: the joint between its bones can be moved. */
export function withEnd(document: RotoDocument, limb: Limb): (Limb & { end: Part }) | null {
  const carried = carriedBy(document, limb.lower)
  const end = limb.end ?? (carried.length === 1 ? carried[0]! : null)
  return end && { ...limb, end }
}

/** A lower bone with a motion of its own does not go round with the upper. */
export const isCarried = ({ mover, frozenMovers }: Part) => !mover && frozenMovers.length === 0

const carriedBy = (document: RotoDocument, { id }: Part) =>
  allOf(document, 'part').filter((part) => part.parentId === id)
