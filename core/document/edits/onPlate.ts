import { applyToPoint, identity, invert, multiply, type Matrix3 } from '../../geometry'
import { pointWorldsAt, shapePointsAt, worldAt } from '../evaluate'
import { find, newId, POINT, POINT_STRIDE, type RotoDocument, type Shape } from '../objects'
import { mappedPoints } from './movers'

/**
 * Points of a shape sent through a map of the plate, as the artist sees it on one frame; stored back in moved space.
 *
 * @param isChosen  which points go along; tangents go with their point
 * @param map       plate pixels to plate pixels: a move, a turn, a scale
 * @returns the shape's values on that frame, ready for valuesKeyed
 */
export function valuesMovedOnPlate(
  document: RotoDocument,
  shape: Shape,
  frame: number,
  isChosen: (pointId: string) => boolean,
  map: Matrix3,
): Float64Array {
  const values = shapePointsAt(shape, frame)
  const worlds = pointWorldsAt(document, shape, frame)
  for (const world of new Set(worlds)) {
    const moved = mappedPoints(values, multiply(invert(world), multiply(map, world)))
    shape.pointIds.forEach((id, i) => {
      if (worlds[i] !== world || !isChosen(id)) return
      values.set(moved.subarray(i * POINT_STRIDE, (i + 1) * POINT_STRIDE), i * POINT_STRIDE)
    })
  }
  return values
}

/** One tangent's end put at a plate position; the other turns with it unless the point is a corner or `alone`. */
export function valuesWithTangentAt(
  document: RotoDocument,
  shape: Shape,
  frame: number,
  index: number,
  tangent: 'in' | 'out',
  plateX: number,
  plateY: number,
  alone: boolean,
): Float64Array {
  const values = shapePointsAt(shape, frame)
  const [x, y] = applyToPoint(invert(pointWorldsAt(document, shape, frame)[index]!), plateX, plateY)
  const at = index * POINT_STRIDE
  const own = at + (tangent === 'in' ? POINT.inX : POINT.outX)
  const other = at + (tangent === 'in' ? POINT.outX : POINT.inX)
  const dx = x! - values[at]!
  const dy = y! - values[at + 1]!
  values[own] = dx
  values[own + 1] = dy
  if (!alone && !shape.corners[index]) {
    const length = Math.hypot(dx, dy)
    const otherLength = Math.hypot(values[other]!, values[other + 1]!)
    if (length > 0) {
      values[other] = (-dx / length) * otherLength
      values[other + 1] = (-dy / length) * otherLength
    }
  }
  return values
}

function worldOf(document: RotoDocument, partId: string, frame: number): Matrix3 {
  const part = find(document, 'part', partId)
  return part ? worldAt(document, part, frame) : identity()
}

/** A drawn point: place and both tangents relative to it, plate pixels. */
export interface DrawnPoint {
  x: number
  y: number
  inX: number
  inY: number
  outX: number
  outY: number
  isCorner: boolean
}

/** A closed shape drawn on one frame, with one key there, stored in the moved space of its Part. */
export function shapeDrawn(
  document: RotoDocument,
  partId: string,
  frame: number,
  points: readonly DrawnPoint[],
  name: string,
  order: number,
): Shape {
  const onPlate = new Float64Array(points.length * POINT_STRIDE)
  points.forEach((p, i) => onPlate.set([p.x, p.y, p.inX, p.inY, p.outX, p.outY], i * POINT_STRIDE))
  return {
    kind: 'shape',
    id: newId(),
    partId,
    name,
    order,
    pointIds: points.map(() => newId()),
    corners: points.map((p) => p.isCorner),
    edge: { innerFeather: 0, outerFeather: 0, grow: 0 },
    opacity: 1,
    visible: true,
    mover: null,
    carriers: [],
    movedPoints: [],
    keys: [
      {
        time: frame,
        interpolation: 'smooth',
        values: mappedPoints(onPlate, invert(worldOf(document, partId, frame))),
      },
    ],
  }
}
