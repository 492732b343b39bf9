import { applyToPoint, invert, multiply, type Matrix3 } from '../geometry'
import { carryingWorldAt, parentWorldAt } from '../evaluation'
import {
  allOf,
  findObject,
  POSE,
  type Part,
  type RotoDocument,
  type Patch,
  poseKeys,
  pivotKeys,
  withKeys,
  withPoseKeys,
} from '../document'
import { withDescendants } from './descendants'
import { keptOnKeys } from './movers'
import { objectsChanged } from './objects'

/**
 * The Part carried by another one, or by none. On `frame` nothing moves; outlines of the Part and of what it carries stay
 * on their keys. A pivot that was pinned to the former parent is let go. An instance that is taken off what carried it lies where
 * its own motion puts it beside what it follows.
 *
 * @returns null when the Part carries the other one itself: it would carry itself then
 */
export function partReparented(
  document: RotoDocument,
  part: Part,
  parentId: string | null,
  frame: number,
): Patch[] | null {
  const family = withDescendants(document, part.id)
  if (family.some(({ id }) => id === parentId)) return null
  const objects = new Map(document.objects)
  const after: RotoDocument = { objects }
  objects.set(part.id, { ...withPinInOtherSpace(document, part, parentId), parentId })
  for (const member of family) {
    // The place of an instance is told from what it follows, whatever carries it.
    if (member.instance) continue
    // From the space that carried it to the one that does now, as they lie on the frame.
    const now = findObject(after, 'part', member.id)!
    const map = multiply(invert(carryingWorldAt(after, now, frame)), carryingWorldAt(document, member, frame))
    objects.set(member.id, inOtherSpace(now, map))
  }
  for (const shape of allOf(document, 'shape')) {
    if (family.some(({ id }) => id === shape.partId)) objects.set(shape.id, keptOnKeys(shape, document, after))
  }
  return objectsChanged(document, after)
}

/** Keyed places of a pivot stay where they are on their frames; one pinned to the former parent is let go. */
function withPinInOtherSpace(document: RotoDocument, part: Part, parentId: string | null): Part {
  if (part.pin?.to === 'parent') return { ...part, pin: null }
  const keys = pivotKeys(part).map((key) => {
    const [now, then] = [{ parentId }, part].map((carried) => parentWorldAt(document, carried, key.time))
    return {
      ...key,
      values: Float64Array.from(applyToPoint(multiply(invert(now!), then!), key.values[0]!, key.values[1]!)),
    }
  })
  return { ...part, channels: withKeys(part.channels, 'pivot', keys) }
}

/** Pivot and the way of the pose's keys seen from another space. */
function inOtherSpace(part: Part, map: Matrix3): Part {
  const mapped = (x: number, y: number): [number, number] => {
    const [u, v] = applyToPoint(map, x, y)
    return [u!, v!]
  }
  const pivot = mapped(part.pivot[0], part.pivot[1])
  const keys = poseKeys(part).map((key) => {
    const [x, y] = mapped(part.pivot[0] + key.values[POSE.x]!, part.pivot[1] + key.values[POSE.y]!)
    const values = key.values.slice()
    values[POSE.x] = x - pivot[0]
    values[POSE.y] = y - pivot[1]
    return { ...key, values }
  })
  return withPoseKeys({ ...part, pivot }, keys)
}
