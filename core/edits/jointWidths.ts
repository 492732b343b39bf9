import { applyToPoint, invert } from '../geometry'
import { POINT, POINT_STRIDE, type RotoDocument, type Shape, type Patch } from '../document'
import { shapeWorldAt, shotPixelAspect, shapePointsAt, controlPlacesAt } from '../evaluation'
import { formChanged, KEY_HERE, type KeyedChange, type Keying } from './change'

/**
 * One end of a starter outline, see `boneOutline`: the joint lies in the middle between two points of the sides, and a third
 * point rounds the end beyond it.
 */
export interface JointEnd {
  shape: Shape
  end: 'from' | 'to'
  /** Plate pixels. */
  joint: readonly [number, number]
  left: readonly [number, number]
  right: readonly [number, number]
  /** Half of what the outline measures across the joint as it is seen, square pixels. */
  half: number
}

/** Points of a starter outline round each of its ends: left, beyond, right. */
const ROUND_END = { from: [1, 0, 5], to: [2, 3, 4] } as const
/** Plate pixels within which two bones meet. */
const SAME_JOINT = 3

/** Both ends of those shapes that are outlines of bones: closed, of six smooth points. */
export function jointEnds(document: RotoDocument, shapes: readonly Shape[], frame: number): JointEnd[] {
  const aspect = shotPixelAspect(document)
  return shapes.filter(isBone).flatMap((shape) => {
    const places = controlPlacesAt(document, shape, frame)
    const at = (i: number) => [places[2 * i]!, places[2 * i + 1]!] as const
    return (['from', 'to'] as const).map((end): JointEnd => {
      const [i, , k] = ROUND_END[end]
      const [left, right] = [at(i), at(k)]
      const joint = [(left[0] + right[0]) / 2, (left[1] + right[1]) / 2] as const
      return { shape, end, joint, left, right, half: Math.hypot((left[0] - right[0]) * aspect, left[1] - right[1]) / 2 }
    })
  })
}

const isBone = ({ curve, isClosed, pointIds, corners }: Shape) =>
  curve === 'bezier' && isClosed && pointIds.length === 6 && !corners.includes(true)

/**
 * The outlines of all bones that meet at a joint made as wide there, on both sides at once; the other ends stay.
 *
 * @param half  half of the width as it is seen, square pixels
 */
export function jointWidened(
  document: RotoDocument,
  ends: readonly JointEnd[],
  [x, y]: readonly [number, number],
  frame: number,
  half: number,
  how: Keying = KEY_HERE,
): Patch[] {
  const meeting = ends.filter(({ joint }) => Math.hypot(joint[0] - x, joint[1] - y) <= SAME_JOINT)
  const shapes = [...new Set(meeting.map(({ shape }) => shape))]
  // A bone whose both ends meet here is too short to be told apart; each of its ends changes, in one patch.
  return shapes.flatMap((shape) => {
    const own = meeting.filter((end) => end.shape === shape)
    const changes = own.map((end) => widened(document, end, frame, half / Math.max(0.5, end.half)))
    const all: KeyedChange = (values, out) => changes.forEach((change) => change(values, out))
    return formChanged(shape, frame, all, how)
  })
}

/** What lies round an end goes away from the joint by a factor; tangents along the sides stay. */
function widened(document: RotoDocument, { shape, end, joint }: JointEnd, frame: number, factor: number): KeyedChange {
  const [jx, jy] = applyToPoint(invert(shapeWorldAt(document, shape, frame)), joint[0], joint[1])
  const here = shapePointsAt(shape, frame)
  const [first, beyond, last] = ROUND_END[end]
  // The outline runs left, beyond, right at its second end and right, beyond, left at its first.
  const [before, after] = end === 'to' ? [first, last] : [last, first]
  return (values, out) => {
    const moved = (i: number, tangents: readonly number[]) => {
      const at = i * POINT_STRIDE
      for (const [axis, middle] of [
        [0, jx!],
        [1, jy!],
      ] as const) {
        out[at + axis] = values[at + axis]! + (here[at + axis]! - middle) * (factor - 1)
      }
      for (const tangent of tangents) {
        for (const axis of [0, 1]) out[at + tangent + axis] = values[at + tangent + axis]! * factor
      }
    }
    moved(before, [POINT.outX])
    moved(beyond, [POINT.inX, POINT.outX])
    moved(after, [POINT.inX])
  }
}
