import { SEGMENT_STRIDE, rationalPoint } from '../spline'
import { applyToPoint, identity, invert, multiply, type Matrix3 } from '../geometry'
import { FULL_STRENGTH } from '../motion'
import {
  carryingWorldAt,
  moverSamples,
  parentWorldAt,
  pointWorldsAt,
  shapeWorldAt,
  worldAt,
  outlineAt,
  pointsEachMapped,
} from '../evaluation'
import {
  allOf,
  findObject,
  type FrozenMover,
  type Key,
  type MotionSource,
  type MovedPoints,
  type Mover,
  type Part,
  type Pin,
  type RotoDocument,
  type Shape,
  withPatchesApplied,
  type Patch,
  outlineKeys,
  channelOf,
  withKeys,
  withOutlineKeys,
} from '../document'
import { withDescendants } from './descendants'
import { valuesKeyed } from './keys'
import { objectsChanged } from './objects'

/** What a track moves: a Part, a shape, or some points of a shape. */
export type MoverTarget = Part | Shape | { kind: 'points'; shape: Shape; pointIds: readonly string[] }

/** Mover and frozen Movers of a target as they are. */
export function motionSourceOf(target: MoverTarget): MotionSource {
  if (target.kind !== 'points') return target
  return groupOf(target.shape, target.pointIds) ?? { mover: null, frozenMovers: [] }
}

/** The target carried by a track from `referenceFrame` on to both sides; on that frame nothing moves. */
export function moverAttached(
  document: RotoDocument,
  target: MoverTarget,
  trackId: string,
  referenceFrame: number,
): Patch[] {
  const { frozenMovers } = motionSourceOf(target)
  const base = frozenMovers.length ? identity() : carryingAt(document, target, referenceFrame)
  return motionSourceSet(document, target, {
    frozenMovers,
    mover: { trackId, referenceFrame, base, strength: FULL_STRENGTH },
  })
}

/** The present Mover as a carrier that no track changes any more. Null when it moves nothing. */
function frozen(document: RotoDocument, mover: Mover): FrozenMover | null {
  const samples = moverSamples(document, mover)
  if (!samples) return null
  return {
    firstFrame: samples.firstFrame,
    matrices: samples.matrices,
    present: Array.from(samples.present, (p) => (p ? 1 : 0)),
    pivot: [samples.pivot[0], samples.pivot[1]],
    pixelAspect: samples.pixelAspect,
    referenceFrame: mover.referenceFrame,
    base: mover.base,
  }
}

/** The Mover let go without any move at any time: its motion stays as a frozen carrier. */
export function moverDroppedExactly(document: RotoDocument, target: MoverTarget): Patch[] {
  const { mover, frozenMovers } = motionSourceOf(target)
  const carrier = mover && frozen(document, mover)
  if (!carrier) return []
  return motionSourceSet(document, target, { mover: null, frozenMovers: [...frozenMovers, carrier] })
}

/** Another track takes over: M_new(t) . M_new(r)^-1 . M_old(t), nothing moves on `referenceFrame`. */
export function moverReplacedExactly(
  document: RotoDocument,
  target: MoverTarget,
  trackId: string,
  referenceFrame: number,
): Patch[] {
  const { mover, frozenMovers } = motionSourceOf(target)
  const carrier = mover && frozen(document, mover)
  if (!carrier) return moverAttached(document, target, trackId, referenceFrame)
  const next = { trackId, referenceFrame, base: identity(), strength: FULL_STRENGTH }
  return motionSourceSet(document, target, { mover: next, frozenMovers: [...frozenMovers, carrier] })
}

/** Other shares of the track's channels; on the Mover's reference frame nothing moves. */
export function moverStrengthSet(document: RotoDocument, target: MoverTarget, strength: Mover['strength']): Patch[] {
  const { mover, frozenMovers } = motionSourceOf(target)
  return mover ? motionSourceSet(document, target, { mover: { ...mover, strength }, frozenMovers }) : []
}

/** The frame from which the track moves the target made another: on that frame nothing moves. */
export function moverReferenceSet(document: RotoDocument, target: MoverTarget, referenceFrame: number): Patch[] {
  const { mover, frozenMovers } = motionSourceOf(target)
  if (!mover || mover.referenceFrame === referenceFrame) return []
  const samples = moverSamples(document, mover)
  if (!samples) return []
  // What the Mover makes of the frame becomes its constant part, so that there all stays.
  const rest = motionSourceSet(document, target, {
    mover: { ...mover, referenceFrame, base: identity() },
    frozenMovers,
  })
  const without = withPatchesApplied(document, rest)
  const [now, then] = [targetWorldAt(document, target, referenceFrame), targetWorldAt(without, target, referenceFrame)]
  const base = multiply(now, invert(then))
  return motionSourceSet(document, target, { mover: { ...mover, referenceFrame, base }, frozenMovers })
}

/**
 * Mover and frozen Movers let go, every key re-expressed, so that the outlines stay on their keys; between them they may
 * differ. Shapes that went along with the target are re-expressed, too.
 *
 * @param frames  frames over which the difference is measured
 * @returns patches, and the largest distance in pixels between old and new outline with the frame where it is
 */
export function moverDroppedAtKeys(
  document: RotoDocument,
  target: MoverTarget,
  frames: readonly number[],
): { patches: Patch[]; largest: { pixels: number; frame: number } } {
  const bareDocument = withPatchesApplied(
    document,
    motionSourceSet(document, target, { mover: null, frozenMovers: [] }),
  )
  const carried = shapesCarriedBy(document, target)
  const after = new Map(bareDocument.objects)
  const largest = { pixels: 0, frame: frames[0] ?? 0 }
  for (const shape of carried) after.set(shape.id, keptOnKeys(shape, document, bareDocument))
  const afterDocument = { objects: after }
  for (const shape of carried) {
    const now = findObject(afterDocument, 'shape', shape.id)!
    for (const frame of frames) {
      const pixels = largestDistance(outlineAt(document, shape, frame), outlineAt(afterDocument, now, frame))
      if (pixels > largest.pixels) Object.assign(largest, { pixels, frame })
    }
  }
  return { patches: objectsChanged(document, afterDocument), largest }
}

/** What can hold a pivot: the parent, keys of its own, a track, or nothing. */
export type PinTo = 'parent' | 'keys' | { trackId: string } | null

/**
 * The pivot of a Part held at its place on the frame: by what carries the Part, by keys of its own, or by a track. Null
 * lets it go.
 */
export function pinSet(document: RotoDocument, part: Part, frame: number, to: PinTo): Patch[] {
  const [x, y] = applyToPoint(worldAt(document, part, frame), part.pivot[0], part.pivot[1])
  return [objectReplaced(part, pinAt(document, part, frame, to, [x!, y!])(part))]
}

/** Puts the pivot of a Part into another hold, at a place of the plate on a frame. */
export function pinAt(
  document: RotoDocument,
  part: Part,
  frame: number,
  to: PinTo,
  onPlate: [number, number],
): (moved: Part) => Part {
  const place = to === 'parent' || to === 'keys' ? inCarryingSpace(document, part, frame, onPlate) : onPlate
  const keys: Key[] = to === 'keys' ? [{ time: frame, interpolation: 'linear', values: Float64Array.from(place) }] : []
  const pin = pinTo(part, frame, to, place)
  return (moved) => ({ ...moved, pin, channels: withKeys(moved.channels, 'pivot', keys) })
}

function pinTo(part: Part, frame: number, to: PinTo, place: [number, number]): Pin | null {
  if (to === null || (part.parentId === null && to === 'parent')) return null
  if (typeof to === 'object') return { to: 'track', trackId: to.trackId, referenceFrame: frame, place }
  return to === 'parent' ? { to, place } : { to }
}

/** A place of the plate in the space of the Part that carries this one. */
export function inCarryingSpace(
  document: RotoDocument,
  part: Part,
  frame: number,
  onPlate: readonly [number, number],
): [number, number] {
  const [x, y] = applyToPoint(invert(parentWorldAt(document, part, frame)), onPlate[0], onPlate[1])
  return [x!, y!]
}

/** A key of a pivot that has keys of its own: it is at a place of the plate on a frame. */
export function pivotKeyed(document: RotoDocument, part: Part, frame: number, x: number, y: number): Patch[] {
  if (part.pin?.to !== 'keys') return []
  const place = inCarryingSpace(document, part, frame, [x, y])
  return valuesKeyed(channelOf(part, 'pivot'), frame, Float64Array.from(place))
}

/** What a shape is turned about from now on: a place of the plate on a frame, kept by the shape or carried by a track. */
export function shapePivotSet(
  document: RotoDocument,
  shape: Shape,
  frame: number,
  to: 'shape' | { trackId: string } | null,
  onPlate: readonly [number, number],
): Patch[] {
  const place: [number, number] = [onPlate[0], onPlate[1]]
  if (to === null) return [objectReplaced(shape, { ...shape, pivot: null })]
  if (to !== 'shape') {
    return [
      objectReplaced(shape, { ...shape, pivot: { to: 'track', trackId: to.trackId, referenceFrame: frame, place } }),
    ]
  }
  const [x, y] = applyToPoint(invert(shapeWorldAt(document, shape, frame)), place[0], place[1])
  return [objectReplaced(shape, { ...shape, pivot: { to, place: [x!, y!] } })]
}

function objectReplaced<T extends Part | Shape>(before: T, after: T): Patch {
  return { kind: 'object', id: before.id, before, after }
}

/** Patches that give a target another Mover and frozen Movers. */
function motionSourceSet(document: RotoDocument, target: MoverTarget, moved: MotionSource): Patch[] {
  if (target.kind === 'part') return [objectReplaced(target, { ...target, ...moved })]
  if (target.kind === 'shape') return [objectReplaced(target, { ...target, ...moved })]
  const shape = findObject(document, 'shape', target.shape.id) ?? target.shape
  // Points belong to one group: taken out of any other, they make their own.
  const others = shape.movedPoints.flatMap((group) => {
    const left = group.pointIds.filter((id) => !target.pointIds.includes(id))
    return left.length ? [{ ...group, pointIds: left }] : []
  })
  const isMoved = moved.mover !== null || moved.frozenMovers.length > 0
  const own: MovedPoints[] = isMoved ? [{ pointIds: [...target.pointIds], ...moved }] : []
  return [objectReplaced(shape, { ...shape, movedPoints: [...others, ...own] })]
}

/** The group that holds all of these points. */
function groupOf(shape: Shape, pointIds: readonly string[]): MovedPoints | undefined {
  return shape.movedPoints.find((group) => pointIds.every((id) => group.pointIds.includes(id)))
}

/** What carries a target on a frame: of a Part without its pose, which stays on top of a Mover. */
function carryingAt(document: RotoDocument, target: MoverTarget, frame: number): Matrix3 {
  return target.kind === 'part' ? carryingWorldAt(document, target, frame) : targetWorldAt(document, target, frame)
}

function targetWorldAt(document: RotoDocument, target: MoverTarget, frame: number): Matrix3 {
  if (target.kind === 'part') return worldAt(document, findObject(document, 'part', target.id) ?? target, frame)
  if (target.kind === 'shape') return shapeWorldAt(document, findObject(document, 'shape', target.id) ?? target, frame)
  const shape = findObject(document, 'shape', target.shape.id) ?? target.shape
  const first = shape.pointIds.indexOf(target.pointIds[0]!)
  return pointWorldsAt(document, shape, frame)[first] ?? identity()
}

/** Shapes that a change of what moves the target would move. */
function shapesCarriedBy(document: RotoDocument, target: MoverTarget): Shape[] {
  if (target.kind === 'shape') return [target]
  if (target.kind === 'points') return [target.shape]
  const partIds = new Set(withDescendants(document, target.id).map(({ id }) => id))
  return allOf(document, 'shape').filter((shape) => partIds.has(shape.partId))
}

/** A shape as it is in `after`, its keys re-expressed so that its outline lies on each where it lay in `before`. */
export function keptOnKeys(shape: Shape, before: RotoDocument, after: RotoDocument): Shape {
  const now = findObject(after, 'shape', shape.id)!
  const keys = outlineKeys(shape).map((key) => {
    const [from, to] = [pointWorldsAt(before, shape, key.time), pointWorldsAt(after, now, key.time)]
    const maps = from.map((old, i) => multiply(invert(to[i]!), old))
    return { ...key, values: pointsEachMapped(key.values, maps) }
  })
  const { pivot } = shape
  const kept = withOutlineKeys(now, keys)
  if (pivot?.to !== 'shape') return kept
  // It stays where it was on the first key.
  const { time } = outlineKeys(shape)[0]!
  const map = multiply(invert(shapeWorldAt(after, now, time)), shapeWorldAt(before, shape, time))
  const [x, y] = applyToPoint(map, pivot.place[0], pivot.place[1])
  return { ...kept, pivot: { ...pivot, place: [x!, y!] } }
}

/** Largest distance between equal parameters of two homogeneous outlines, eight samples a segment. */
function largestDistance(a: Float64Array, b: Float64Array): number {
  let worst = 0
  const count = a.length / SEGMENT_STRIDE
  for (let i = 0; i < count; i++) {
    for (let k = 0; k < 8; k++) {
      const p = rationalPoint(a, i, k / 8)
      const q = rationalPoint(b, i, k / 8)
      worst = Math.max(worst, Math.hypot(p[0] - q[0], p[1] - q[1]))
    }
  }
  return worst
}
