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
  channelOf,
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
  type Subject,
} from '../document'
import { familyMirrored, shapeRenewed } from './copies'
import { depthBetween, depthsOf, fieldSet, objectAdded } from './objects'

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
  const part = followerOf(
    original,
    { shapeIds, withParent: false, mirror },
    {
      subjectId: original.subjectId,
      parentId: null,
      name,
      shade: shades % 12,
      channels: { depth: constantChannel(depth) },
    },
  )
  return { part, patches: [objectAdded(part)] }
}

/** A new Part that follows another one. */
const followerOf = (
  original: Part,
  shown: Omit<Instance, 'of'>,
  own: Pick<Part, 'subjectId' | 'parentId' | 'name' | 'shade' | 'channels'>,
): Part => ({
  ...NEW_PART_FIELDS,
  ...own,
  id: newId(),
  pivot: original.pivot,
  // A reflection lies in what it is seen in: it hides nothing that stands there.
  holdsOut: shown.mirror === null && original.holdsOut,
  instance: { of: original.id, ...shown },
})

/**
 * A Subject that shows all Parts of another one, each following its own, behind them all and in their order on every frame. All hang on one Part without shapes, by which they are placed,
 * moved and turned as one. Parts that the other one gets later are not among them.
 *
 * @param subject  the new one, without Parts
 * @param nameOf   the name of what follows a Part
 * @returns        null where the other one has no Parts
 */
export function subjectInstanced(
  document: RotoDocument,
  original: Subject,
  subject: Subject,
  nameOf: (part: Part) => string,
  frame: number,
): { carrier: Part; patches: Patch[] } | null {
  const isIts = (part: Part) => part.subjectId === original.id
  const order = partsByDepth(document, frame)
  const followed = order.filter(isIts)
  const [first] = followed
  if (!first) return null
  const depths = followed.flatMap(depthsOf)
  const [nearest, farthest] = [Math.min(...depths), Math.max(...depths)]
  const last = order.findLastIndex(isIts)
  const behind = order[last + 1]
  // Between the farthest of them and what stands behind, in the same order.
  const room = behind ? Math.max(depthOn(behind, frame) - farthest, LEAST_ROOM) : 1
  const scale = room / (farthest - nearest + 2)
  const farther = (depth: number) => farthest + scale * (depth - nearest + 1)
  const carrier: Part = {
    ...NEW_PART_FIELDS,
    id: newId(),
    subjectId: subject.id,
    parentId: null,
    name: subject.name,
    shade: 0,
    pivot: first.pivot,
    channels: { depth: constantChannel(farther(nearest - 0.5)) },
  }
  const parts = followed.map((part, i) => {
    const { constant, keys } = channelOf(part, 'depth')
    const depth = {
      constant: Float64Array.from(constant!, farther),
      keys: keys.map((key) => ({ ...key, values: key.values.map(farther) })),
    }
    return followerOf(
      part,
      { shapeIds: null, withParent: true, mirror: null },
      { subjectId: subject.id, parentId: carrier.id, name: nameOf(part), shade: i % 12, channels: { depth } },
    )
  })
  return { carrier, patches: [subject, carrier, ...parts].map(objectAdded) }
}

/** Depth that is made for Parts where there is none between two that are there, as one keyed is elsewhere. */
const LEAST_ROOM = 1e-6

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
