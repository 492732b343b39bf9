import { identity, invert, multiply, reflectionAbout } from '../geometry'
import {
  carryingWorldAt,
  partsByDepth,
  depthOn,
  pointsEachMapped,
  pointWorldsAt,
  shotPixelAspect,
  shownShapesOf,
  worldAt,
} from '../evaluation'
import {
  allOf,
  constantChannel,
  findObject,
  NEW_PART_FIELDS,
  newId,
  outlineKeys,
  withOutlineKeys,
  type FrozenMover,
  type Instance,
  type Part,
  type Patch,
  type RotoDocument,
  type Shape,
} from '../document'
import { familyMirrored, shapeRenewed } from './copies'
import { depthBetween, fieldSet, objectAdded } from './objects'

/**
 * A Part that shows the shapes of another one, directly behind it: where that is, or as its reflection about a line.
 *
 * @param name      of the new Part
 * @param shapeIds  the shapes that it shows; null: all
 */
export function instanceMade(
  document: RotoDocument,
  original: Part,
  name: string,
  mirror: Instance['mirror'],
  frame: number,
  shapeIds: Instance['shapeIds'] = null,
): { part: Part; patches: Patch[] } {
  const order = partsByDepth(document, frame)
  const place = order.findIndex(({ id }) => id === original.id)
  const behind = order[place + 1]
  const depth = depthBetween(depthOn(original, frame), behind && depthOn(behind, frame))
  const shades = allOf(document, 'part').filter(({ subjectId }) => subjectId === original.subjectId).length
  const part: Part = {
    ...NEW_PART_FIELDS,
    id: newId(),
    subjectId: original.subjectId,
    parentId: null,
    name,
    shade: shades % 12,
    pivot: original.pivot,
    // A reflection lies in what it is seen in: it hides nothing that stands there.
    holdsOut: mirror === null && original.holdsOut,
    instance: { of: original.id, shapeIds, mirror },
    channels: { depth: constantChannel(depth) },
  }
  return { part, patches: [objectAdded(part)] }
}

/** The line of a mirror image laid elsewhere, or carried by another track. */
export function mirrorSet(part: Part, mirror: NonNullable<Instance['mirror']>): Patch[] {
  return part.instance ? [fieldSet(part, 'instance', { ...part.instance, mirror })] : []
}

/**
 * An instance made a Part of its own: it gets copies of the shapes that it showed, and its motion stays as a frozen carrier with a sample on each frame.
 * On whole frames nothing moves.
 *
 * @param range  frames on which it is to stay, both included
 */
export function brokenOff(document: RotoDocument, part: Part, range: readonly [number, number]): Patch[] {
  if (!part.instance) return []
  const original = findObject(document, 'part', part.instance.of)
  if (!original) return []
  // Of a reflection the shapes are turned round, so that what carries them is a motion that can be followed from frame to frame.
  const isReflected = isMirrored(document, part)
  const fold = isReflected ? reflectionAbout([part.pivot[0], 0, part.pivot[0], 1]) : identity()
  const { shapes } = shownShapesOf(document, part)
  const own = shapes.map((shape): Shape => {
    const keys = outlineKeys(shape).map((key) => {
      const toOriginal = ownSpaceAt(document, original, key.time)
      const maps = pointWorldsAt(document, shape, key.time).map((world) => multiply(toOriginal, world))
      return { ...key, values: pointsEachMapped(key.values, maps) }
    })
    return shapeRenewed({ ...withOutlineKeys(shape, keys), partId: part.id, mover: null, frozenMovers: [], movedPoints: [], pivot: null }) // prettier-ignore
  })
  const free: Part = { ...part, instance: null, mover: null, frozenMovers: [] }
  const family = isReflected
    ? familyMirrored({ parts: [free], shapes: own }, part.pivot[0])
    : { parts: [free], shapes: own }
  const [moved] = family.parts
  const carrier = sampledCarrier(document, part, range, fold)
  return [
    { kind: 'object', id: part.id, before: part, after: { ...moved!, frozenMovers: [carrier] } },
    ...family.shapes.map(objectAdded),
  ]
}

/** Plate pixels on a frame to the space in which a Part keeps its shapes, through all that it follows. */
function ownSpaceAt(document: RotoDocument, part: Part, time: number) {
  const back = invert(worldAt(document, part, time))
  const { mapAt } = shownShapesOf(document, part)
  return mapAt ? multiply(back, mapAt(time)) : back
}

/** Whether an odd number of reflections lies between a Part and the shapes that it shows. */
function isMirrored(document: RotoDocument, part: Part): boolean {
  let isOdd = false
  for (let one: Part | undefined = part; one?.instance; one = findObject(document, 'part', one.instance.of)) {
    if (one.instance.mirror && !one.mover && one.frozenMovers.length === 0) isOdd = !isOdd
  }
  return isOdd
}

function sampledCarrier(
  document: RotoDocument,
  part: Part,
  [first, last]: readonly [number, number],
  fold: Float64Array,
): FrozenMover {
  const count = last - first + 1
  const matrices = new Float64Array(9 * count)
  for (let i = 0; i < count; i++) matrices.set(multiply(carryingWorldAt(document, part, first + i), fold), 9 * i)
  return {
    firstFrame: first,
    matrices,
    present: new Array<0 | 1>(count).fill(1),
    pivot: [part.pivot[0], part.pivot[1]],
    pixelAspect: shotPixelAspect(document),
    referenceFrame: first,
    base: matrices.slice(0, 9),
  }
}
