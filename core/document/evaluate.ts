import { valuesAt } from '../animation'
import { motionAt, type MotionSamples } from '../motion'
import { identity, invert, multiply, type Matrix3 } from '../geometry'
import { homogeneousOutline, type HomogeneousOutline } from '../spline'
import {
  allOf,
  find,
  POINT_STRIDE,
  type Carrier,
  type Mover,
  type Part,
  type RotoDocument,
  type Shape,
} from './objects'
import { motionSamplesOf } from './trackMotion'

/**
 * World(t) of a Part: from the space its points are stored in to plate pixels at time t.
 *
 * With a Mover: Mover(t) . carriers, where Mover(t) = H(t) . H(reference)^-1 . base. Carriers are Movers of earlier days,
 * frozen; like a Mover they stand in place of inherited motion. With neither: the parent's World.
 */
export function worldAt(document: RotoDocument, part: Part, time: number): Matrix3 {
  const mover = moverAt(document, part, time)
  if (!mover && part.carriers.length === 0) {
    const parent = part.parentId === null ? undefined : find(document, 'part', part.parentId)
    return parent ? worldAt(document, parent, time) : identity()
  }
  let world = mover ?? identity()
  for (let i = part.carriers.length - 1; i >= 0; i--) world = multiply(world, carrierAt(part.carriers[i]!, time))
  return world
}

function moverAt(document: RotoDocument, part: Part, time: number): Matrix3 | null {
  const track = part.mover && find(document, 'track', part.mover.trackId)
  if (!track || !part.mover) return null
  return relativeMotion(motionSamplesOf(track), part.mover, time)
}

const samplesOfCarrier = new WeakMap<Carrier, MotionSamples>()

function carrierAt(carrier: Carrier, time: number): Matrix3 {
  let samples = samplesOfCarrier.get(carrier)
  if (!samples) {
    samples = { ...carrier, present: Uint8Array.from(carrier.present) }
    samplesOfCarrier.set(carrier, samples)
  }
  return relativeMotion(samples, carrier, time)
}

/** H(t) . H(reference)^-1 . base; only the base when there are no samples. */
function relativeMotion(samples: MotionSamples, mover: Pick<Mover, 'referenceFrame' | 'base'>, time: number): Matrix3 {
  const now = motionAt(samples, time).matrix
  const reference = motionAt(samples, mover.referenceFrame).matrix
  return now && reference ? multiply(multiply(now, invert(reference)), mover.base) : mover.base
}

/** Control points of a shape at a time, in the moved space of its Part; POINT_STRIDE numbers a point. */
export function shapePointsAt(
  shape: Shape,
  time: number,
  out: Float64Array = new Float64Array(shape.pointIds.length * POINT_STRIDE),
): Float64Array {
  return valuesAt(shape.keys, time, out)
}

/** Outline of a shape in plate pixels at a time, as homogeneous control points. */
export function outlineAt(document: RotoDocument, shape: Shape, time: number): HomogeneousOutline {
  const part = find(document, 'part', shape.partId)
  const world = part ? worldAt(document, part, time) : identity()
  return homogeneousOutline(shapePointsAt(shape, time), POINT_STRIDE, world)
}

export function shapesOf(document: RotoDocument, partId: string): Shape[] {
  return allOf(document, 'shape')
    .filter((shape) => shape.partId === partId)
    .sort((a, b) => a.order - b.order)
}

/** Parts from nearest to farthest. */
export function partsByDepth(document: RotoDocument): Part[] {
  return allOf(document, 'part').sort((a, b) => a.depth - b.depth || (a.id < b.id ? -1 : 1))
}

/** True when the Part exists on that frame. */
export function isAlive(part: Part, frame: number): boolean {
  return part.life === null || (frame >= part.life[0] && frame <= part.life[1])
}
