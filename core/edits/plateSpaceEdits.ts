import { applyToPoint, identity, invert, multiply, type Matrix3 } from '../geometry'
import {
  pointWorldsAt,
  worldAt,
  mapPoint,
  mapPoints,
  mappedPoints,
  controlPlacesAt,
  shapePointsAt,
} from '../evaluation'
import { findObject, newId, POINT, POINT_STRIDE, type RotoDocument, type Shape } from '../document'
import type { KeyedChange } from './change'

/**
 * Points of a shape sent through a map of the plate, as the artist sees it on one frame, as a change in moved space.
 *
 * @param share  how much of the way a point goes along, 0 to 1; tangents go with their point
 * @param map    plate pixels to plate pixels: a move, a turn, a scale
 */
export function movedOnPlate(
  document: RotoDocument,
  shape: Shape,
  frame: number,
  share: (pointId: string) => number,
  map: Matrix3,
): KeyedChange {
  const worlds = pointWorldsAt(document, shape, frame)
  const shares = shape.pointIds.map(share)
  const inMovedSpace = new Map(
    [...new Set(worlds)].map((world) => [world, multiply(invert(world), multiply(map, world))]),
  )
  const maps = worlds.map((world) => inMovedSpace.get(world)!)
  const [only] = maps
  if (shares.every((part) => part === 1) && maps.every((one) => one === only)) {
    return (values, out) => mapPoints(values, only!, out)
  }
  return (values, out) => {
    for (let i = 0; i < shares.length; i++) {
      const part = shares[i]!
      if (part === 0) continue
      const at = i * POINT_STRIDE
      mapPoint(values, at, maps[i]!, out)
      if (part === 1) continue
      for (let n = at; n < at + POINT_STRIDE; n++) out[n] = values[n]! * (1 - part) + out[n]! * part
    }
  }
}

/** What happens to the other tangent of a point while one is dragged. */
export type OtherTangent = 'as the point is' | 'stays' | 'mirrored'

/** One tangent's end put at a plate position on a frame; on other keys it moves as far as it does there. */
export function tangentPutAt(
  document: RotoDocument,
  shape: Shape,
  frame: number,
  index: number,
  tangent: 'in' | 'out',
  plate: readonly [number, number],
  other: OtherTangent,
): KeyedChange {
  const back = invert(pointWorldsAt(document, shape, frame)[index]!)
  const [x, y] = applyToPoint(back, plate[0], plate[1])
  // A tied point lies where its owner has it.
  const places = controlPlacesAt(document, shape, frame)
  const [anchorX, anchorY] = applyToPoint(back, places[2 * index]!, places[2 * index + 1]!)
  const here = shapePointsAt(shape, frame)
  const at = index * POINT_STRIDE
  const own = at + (tangent === 'in' ? POINT.inX : POINT.outX)
  const opposite = at + (tangent === 'in' ? POINT.outX : POINT.inX)
  const [wayX, wayY] = [x! - anchorX! - here[own]!, y! - anchorY! - here[own + 1]!]
  return (values, out) => {
    const [dx, dy] = [values[own]! + wayX, values[own + 1]! + wayY]
    out[own] = dx
    out[own + 1] = dy
    const isFree = other === 'stays' || (other === 'as the point is' && shape.corners[index])
    const length = Math.hypot(dx, dy)
    if (isFree || length === 0) return
    const otherLength = other === 'mirrored' ? length : Math.hypot(values[opposite]!, values[opposite + 1]!)
    out[opposite] = (-dx / length) * otherLength
    out[opposite + 1] = (-dy / length) * otherLength
  }
}

function worldOf(document: RotoDocument, partId: string, frame: number): Matrix3 {
  const part = findObject(document, 'part', partId)
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

/** What a drawn shape is beside its points. */
export interface DrawnForm {
  name: string
  order: number
  curve?: Shape['curve']
  isClosed?: boolean
  /** Of a stroke, plate pixels. */
  width?: number
  /** Missing: add. */
  operation?: Shape['operation']
}

/** A shape drawn on one frame, with one key there, stored in the moved space of its Part. */
export function shapeDrawn(
  document: RotoDocument,
  partId: string,
  frame: number,
  points: readonly DrawnPoint[],
  { name, order, curve = 'bezier', isClosed = true, width = 0, operation = 'add' }: DrawnForm,
): Shape {
  const onPlate = new Float64Array(points.length * POINT_STRIDE)
  points.forEach((p, i) => {
    onPlate.set([p.x, p.y, p.inX, p.inY, p.outX, p.outY], i * POINT_STRIDE)
    onPlate[i * POINT_STRIDE + POINT.width] = width
  })
  return {
    kind: 'shape',
    id: newId(),
    partId,
    name,
    order,
    curve,
    isClosed,
    interpolateBy: 'coordinates',
    life: null,
    hidden: [],
    operation,
    falloff: 'smooth',
    falloffSlopes: [0, 0],
    motionBlur: true,
    blurWeights: {},
    pointIds: points.map(() => newId()),
    corners: points.map((p) => p.isCorner),
    visible: true,
    mover: null,
    frozenMovers: [],
    movedPoints: [],
    pivot: null,
    channels: {
      outline: {
        keys: [
          {
            time: frame,
            interpolation: 'smooth',
            values: mappedPoints(onPlate, invert(worldOf(document, partId, frame))),
          },
        ],
      },
    },
  }
}

/** Tangents of some points: both of their mean length on one line, or drawn in altogether. */
export function tangentsMade(shape: Shape, pointIds: ReadonlySet<string>, what: 'equal' | 'none'): KeyedChange {
  return (values, out) => {
    shape.pointIds.forEach((id, i) => {
      if (!pointIds.has(id)) return
      const at = i * POINT_STRIDE
      const [inX, inY, outX, outY] = values.subarray(at + POINT.inX, at + POINT.inX + 4)
      const [dx, dy] = [outX! - inX!, outY! - inY!]
      const length = what === 'none' ? 0 : (Math.hypot(inX!, inY!) + Math.hypot(outX!, outY!)) / 2
      const share = length / (Math.hypot(dx, dy) || 1)
      out.set([-dx * share, -dy * share, dx * share, dy * share], at + POINT.inX)
    })
  }
}
