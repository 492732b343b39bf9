import { valuesAt } from '../animation'
import { isFullStrength, motionAt, strengthenedMotion, type MotionSamples } from '../motion'
import {
  applyToPoint,
  homographyOf,
  identity,
  invert,
  multiply,
  reflectionAbout,
  translation,
  type Matrix3,
} from '../geometry'
import { centredShutter, type Shutter } from '../timing'
import {
  allOf,
  channelOf,
  findObject,
  POSE,
  POSE_STRIDE,
  poseKeys,
  type FrozenMover,
  type Instance,
  type MotionSource,
  type Mover,
  type Part,
  type Pin,
  type RotoDocument,
  type Shape,
  type Shot,
} from '../document'
import { channelValuesAt, numberAt } from './channelValues'
import { motionSamplesOf } from './trackMotion'

/**
 * World(t) of a Part: from the space its points are stored in to plate pixels at time t.
 *
 * What carries it, {@link carryingWorldAt}, times its pose. A pinned pivot is then put where it belongs: T(d) . World.
 * The matrix is shared: not to be written to.
 */
export function worldAt(document: RotoDocument, part: Part, time: number): Matrix3 {
  let known = lastWorlds.get(document)
  if (!known) lastWorlds.set(document, (known = new WeakMap()))
  const last = known.get(part)
  if (last?.time === time) return last.world
  const world = evaluatedWorld(document, part, time)
  known.set(part, { time, world })
  return world
}

/** The last World of each Part: all its shapes, and the Parts that it carries, ask for the same time one after the other. */
const lastWorlds = new WeakMap<RotoDocument, WeakMap<Part, { time: number; world: Matrix3 }>>()

function evaluatedWorld(document: RotoDocument, part: Part, time: number): Matrix3 {
  const carrying = carryingWorldAt(document, part, time)
  const world = poseKeys(part).length ? multiply(carrying, poseMatrix(document, part, poseAt(part, time))) : carrying
  const place = part.pin && pinnedPlaceAt(document, part, part.pin, time)
  if (!place) return world
  const [x, y] = applyToPoint(world, part.pivot[0], part.pivot[1])
  return multiply(translation(place[0] - x!, place[1] - y!), world)
}

/**
 * What carries a Part before its own pose. With a Mover: Mover(t) . frozen Movers, where Mover(t) = H(t) . H(reference)^-1 .
 * base. Carriers are Movers of earlier days, frozen; like a Mover they stand in place of inherited motion. With neither:
 * the parent's World.
 */
export function carryingWorldAt(document: RotoDocument, part: Part, time: number): Matrix3 {
  return (
    ownMotionAt(document, part, time) ?? followedWorldAt(document, part, time) ?? parentWorldAt(document, part, time)
  )
}

/** World(t) of what a Part is an instance of, reflected where it is a mirror image, taken along by its parent where that comes on top; null where it is none. */
function followedWorldAt(document: RotoDocument, part: Part, time: number): Matrix3 | null {
  const { instance } = part
  const original = instance && findObject(document, 'part', instance.of)
  if (!original) return null
  const world = worldAt(document, original, time)
  const shown = instance.mirror ? multiply(reflectionAt(document, instance.mirror, time), world) : world
  return instance.withParent ? multiply(parentWorldAt(document, part, time), shown) : shown
}

type Mirror = NonNullable<Instance['mirror']>

/** The reflection about the line of a mirror image, which its track carries; in square pixels. */
function reflectionAt(document: RotoDocument, mirror: Mirror, time: number): Matrix3 {
  const reflection = reflectionAbout(mirror.line, shotPixelAspect(document))
  const carried = lineCarriedAt(document, mirror, time)
  return multiply(multiply(carried, reflection), invert(carried))
}

function lineCarriedAt(document: RotoDocument, { trackId, referenceFrame }: Mirror, time: number): Matrix3 {
  const track = trackId === null ? undefined : findObject(document, 'track', trackId)
  return track ? motionSince(motionSamplesOf(track), referenceFrame, time) : identity()
}

/** Two places of the line of a mirror image at a time, plate pixels; null where the Part is none. */
export function mirrorLineAt(
  document: RotoDocument,
  { instance }: Part,
  time: number,
): [x0: number, y0: number, x1: number, y1: number] | null {
  const mirror = instance?.mirror
  if (!mirror) return null
  const carried = lineCarriedAt(document, mirror, time)
  const [ax, ay] = applyToPoint(carried, mirror.line[0]!, mirror.line[1]!)
  const [bx, by] = applyToPoint(carried, mirror.line[2]!, mirror.line[3]!)
  return [ax!, ay!, bx!, by!]
}

/**
 * The shapes that a Part shows, its own or those that it follows, and what brings these from where they are on the plate to where they are shown; null: they are
 * its own.
 */
export function shownShapesOf(
  document: RotoDocument,
  part: Part,
): { shapes: Shape[]; mapAt: ((time: number) => Matrix3) | null } {
  const original = part.instance ? findObject(document, 'part', part.instance.of) : undefined
  if (!original) return { shapes: shapesOf(document, part.id), mapAt: null }
  const followed = shownShapesOf(document, original)
  const { shapeIds } = part.instance!
  return {
    shapes: shapeIds ? followed.shapes.filter(({ id }) => shapeIds.includes(id)) : followed.shapes,
    mapAt(time) {
      const moved = multiply(worldAt(document, part, time), invert(worldAt(document, original, time)))
      return followed.mapAt ? multiply(moved, followed.mapAt(time)) : moved
    },
  }
}

/** Parts that show the shapes of others, nearest first on a frame; without any, nothing is looked at. */
export function instancesByDepth(document: RotoDocument, frame: number): Part[] {
  const isAny = allOf(document, 'part').some(({ instance }) => instance !== null)
  return isAny ? partsByDepth(document, frame).filter(({ instance }) => instance !== null) : []
}

/** Numbers of a Part's pose at a time; without keys all are 0. */
export function poseAt(part: Part, time: number): Float64Array {
  const values = new Float64Array(POSE_STRIDE)
  return poseKeys(part).length ? valuesAt(poseKeys(part), time, values) : values
}

/** A pose as a map: turned and scaled about the pivot of the Part, which goes by (x, y). */
export function poseMatrix(document: RotoDocument, part: Part, pose: Float64Array): Matrix3 {
  const [px, py] = part.pivot
  const channels = [px + pose[POSE.x]!, py + pose[POSE.y]!, ...pose.subarray(POSE.rotation), 0, 0, 0]
  return homographyOf(channels, px, py, shotPixelAspect(document))
}

/** World(t) of the Part that carries this one; none: the plate itself. */
export function parentWorldAt(document: RotoDocument, part: Pick<Part, 'parentId'>, time: number): Matrix3 {
  const parent = part.parentId === null ? undefined : findObject(document, 'part', part.parentId)
  return parent ? worldAt(document, parent, time) : identity()
}

function pinnedPlaceAt(document: RotoDocument, part: Part, pin: Pin, time: number): [number, number] | null {
  if (pin.to === 'track') return trackedPlaceAt(document, pin, time)
  if (pin.to === 'parent' && part.parentId === null) return null
  const held = pin.to === 'parent' ? pin.place : channelValuesAt(channelOf(part, 'pivot'), time)
  if (!held) return null
  const [x, y] = applyToPoint(parentWorldAt(document, part, time), held[0]!, held[1]!)
  return [x!, y!]
}

/** Where a track carries a place of its reference frame; null when the track is gone. */
function trackedPlaceAt(
  document: RotoDocument,
  { trackId, referenceFrame, place }: Extract<Pin, { to: 'track' }>,
  time: number,
): [number, number] | null {
  const track = findObject(document, 'track', trackId)
  if (!track) return null
  const [x, y] = applyToPoint(motionSince(motionSamplesOf(track), referenceFrame, time), place[0], place[1])
  return [x!, y!]
}

/** Plate pixels of a shape's own pivot on a frame; null where it has none. */
export function shapePivotOnPlate(document: RotoDocument, shape: Shape, time: number): [number, number] | null {
  const { pivot } = shape
  if (!pivot) return null
  if (pivot.to === 'track') return trackedPlaceAt(document, pivot, time)
  const [x, y] = applyToPoint(shapeWorldAt(document, shape, time), pivot.place[0], pivot.place[1])
  return [x!, y!]
}

/** World(t) of a shape: what moves it itself, or else its Part. */
export function shapeWorldAt(document: RotoDocument, shape: Shape, time: number): Matrix3 {
  const own = ownMotionAt(document, shape, time)
  if (own) return own
  const part = findObject(document, 'part', shape.partId)
  return part ? worldAt(document, part, time) : identity()
}

/** World(t) of each point of a shape: of points that a track moves otherwise than the shape, theirs. */
export function pointWorldsAt(document: RotoDocument, shape: Shape, time: number): readonly Matrix3[] {
  const world = shapeWorldAt(document, shape, time)
  const worlds = shape.pointIds.map(() => world)
  for (const group of shape.movedPoints) {
    const own = ownMotionAt(document, group, time)
    if (!own) continue
    shape.pointIds.forEach((id, i) => {
      if (group.pointIds.includes(id)) worlds[i] = own
    })
  }
  return worlds
}

/** Mover and frozen Movers of one thing at a time; null when it has neither and goes with what it belongs to. */
function ownMotionAt(document: RotoDocument, { mover, frozenMovers }: MotionSource, time: number): Matrix3 | null {
  const moved = mover && moverAt(document, mover, time)
  if (!moved && frozenMovers.length === 0) return null
  let world = moved ?? identity()
  for (let i = frozenMovers.length - 1; i >= 0; i--) world = multiply(world, frozenMoverAt(frozenMovers[i]!, time))
  return world
}

function moverAt(document: RotoDocument, mover: Mover, time: number): Matrix3 | null {
  const samples = moverSamples(document, mover)
  return samples && multiply(motionSince(samples, mover.referenceFrame, time), mover.base)
}

const strengthened = new WeakMap<Mover, { of: MotionSamples; samples: MotionSamples }>()

/** The motion that a Mover gives, its channels at their shares; null when its track is gone. */
export function moverSamples(document: RotoDocument, mover: Mover): MotionSamples | null {
  const track = findObject(document, 'track', mover.trackId)
  if (!track) return null
  const of = motionSamplesOf(track)
  if (isFullStrength(mover.strength)) return of
  let known = strengthened.get(mover)
  if (known?.of !== of) {
    known = { of, samples: strengthenedMotion(of, mover.referenceFrame, mover.strength) }
    strengthened.set(mover, known)
  }
  return known.samples
}

const samplesOfFrozen = new WeakMap<FrozenMover, MotionSamples>()

function frozenMoverAt(carrier: FrozenMover, time: number): Matrix3 {
  let samples = samplesOfFrozen.get(carrier)
  if (!samples) {
    samples = { ...carrier, present: Uint8Array.from(carrier.present) }
    samplesOfFrozen.set(carrier, samples)
  }
  return multiply(motionSince(samples, carrier.referenceFrame, time), carrier.base)
}

/** H(t) . H(reference)^-1; no motion when there are no samples. */
function motionSince(samples: MotionSamples, referenceFrame: number, time: number): Matrix3 {
  const now = motionAt(samples, time).matrix
  const reference = motionAt(samples, referenceFrame).matrix
  return now && reference ? multiply(now, invert(reference)) : identity()
}

export function shapesOf(document: RotoDocument, partId: string): Shape[] {
  return allOf(document, 'shape')
    .filter((shape) => shape.partId === partId)
    .sort((a, b) => a.order - b.order)
}

/** Depth of a Part on a frame: smaller is nearer to the camera. */
export const depthOn = (part: Part, frame: number): number => numberAt(part, 'depth', frame)

/** Parts from nearest to farthest, as they stand on a frame. */
export function partsByDepth(document: RotoDocument, frame: number): Part[] {
  const depths = new Map(allOf(document, 'part').map((part) => [part, depthOn(part, frame)]))
  return [...depths.keys()].sort((a, b) => depths.get(a)! - depths.get(b)! || (a.id < b.id ? -1 : 1))
}

/** Width of a pixel of the plate over its height. */
export function shotPixelAspect(document: RotoDocument): number {
  return findObject(document, 'shot', 'shot')?.pixelAspect ?? 1
}

/** The shutter of Parts that have none of their own, on a frame. */
export function shotShutter(document: RotoDocument, frame: number): Shutter {
  const shot = findObject(document, 'shot', 'shot')
  return shot ? ownShutter(shot, frame) : centredShutter(180)
}

/** The shutter of a Part on a frame. */
export const partShutter = (document: RotoDocument, part: Part, frame: number): Shutter =>
  part.hasOwnShutter ? ownShutter(part, frame) : shotShutter(document, frame)

const ownShutter = (object: Part | Shot, frame: number): Shutter => ({
  angle: numberAt(object, 'shutterAngle', frame),
  phase: numberAt(object, 'shutterPhase', frame),
})

/** True when the Part or the shape exists on that frame. */
export function isAlive({ life }: Part | Shape, frame: number): boolean {
  return life === null || (frame >= life[0] && frame <= life[1])
}

/** True on frames that are marked as hidden: it goes on as ever, but its matte is empty. */
export function isHidden({ hidden }: Part | Shape, frame: number): boolean {
  return hidden.some(([first, last]) => frame >= first && frame <= last)
}

/** True when a shape is there to be seen on a frame, and its Part with it. */
export function isShown(shape: Shape, part: Part | undefined, frame: number): boolean {
  return !!part && part.visible && shape.visible && isAlive(part, frame) && isAlive(shape, frame)
}

/** True when a shape that is there is part of a matte: it and its Part are not hidden on the frame. */
export function isInMatte(shape: Shape, part: Part | undefined, frame: number): boolean {
  return isShown(shape, part, frame) && !isHidden(shape, frame) && !isHidden(part!, frame)
}
