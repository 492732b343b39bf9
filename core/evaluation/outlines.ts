import { applyToPoint, invert, multiply, type Matrix3 } from '../geometry'
import {
  homogeneousOutline,
  mixedOutline,
  outlineOfPolygon,
  ribbonPolygons,
  ribbonRuns,
  stepsFor,
  type HomogeneousOutline,
  type RibbonSegment,
} from '../spline'
import { pointWorldsAt, shapeWorldAt } from './evaluate'
import { pointsEachMapped } from './mappedPoints'
import {
  findObject,
  POINT,
  POINT_STRIDE,
  type RotoDocument,
  type Shape,
  seamsBorrowedBy,
  outlineKeys,
} from '../document'
import { Rooms } from './rooms'
import { seamedOutline } from './seamedOutline'
import { segmentOf } from './segment'
import { bezierPoints, bezierPointsAt, shapePointsAt, summedPointsAt } from './shapePoints'
import { summedOutline } from './summedOutline'

/**
 * Outline of a shape at a time, or the centre line of a stroke and the straight way back, as homogeneous control points;
 * along its seams that of their owners.
 *
 * @param toTarget  plate pixels to those wanted
 * @param timeOf    when other shapes are looked at, where Parts have shutters of their own; else at the same time
 * @param out       receives the outline; SEGMENT_STRIDE numbers a point
 */
export function outlineAt(
  document: RotoDocument,
  shape: Shape,
  time: number,
  toTarget: Matrix3 | null = null,
  timeOf?: (other: Shape) => number,
  out?: HomogeneousOutline,
): HomogeneousOutline {
  const own = carried(document, shape, time, toTarget, out)
  // Most have none, and are asked for by the hundred.
  if (seamsBorrowedBy(document, shape.id).length === 0) return own
  return seamedOutline(document, shape, own, (owner) => outlineAt(document, owner, timeOf?.(owner) ?? time, toTarget, timeOf)) // prettier-ignore
}

/** Closed outlines whose union is what a shape covers at a time: its outline, or the pieces of a stroke. */
export function areasAt(
  document: RotoDocument,
  shape: Shape,
  time: number,
  toTarget: Matrix3 | null = null,
  timeOf: (other: Shape) => number = () => time,
): HomogeneousOutline[] {
  if (shape.isClosed) return [outlineAt(document, shape, time, toTarget, timeOf)]
  const map = shapeWorldAt(document, shape, time)
  const target = toTarget ? multiply(toTarget, map) : map
  const polygons = ribbonPolygons(ribbonSegments(document, shape, time), strokeSteps(shape))
  return polygons.map((polygon) => outlineOfPolygon(polygon, target))
}

/** Both sides of a stroke as lines in the space of its points, x0, y0, x1, y1 ... */
export function strokeSidesAt(document: RotoDocument, shape: Shape, time: number): (readonly number[])[] {
  const runs = ribbonRuns(ribbonSegments(document, shape, time), strokeSteps(shape))
  return runs.flatMap(({ left, right }) => [left, right])
}

function ribbonSegments(document: RotoDocument, shape: Shape, time: number): RibbonSegment[] {
  const points = inShapeSpace(document, shape, bezierPointsAt(shape, time), time)
  return segmentsOf(points).map((cubic, i) => ({
    cubic,
    widthFrom: Math.abs(points[i * POINT_STRIDE + POINT.width]!),
    widthTo: Math.abs(points[(i + 1) * POINT_STRIDE + POINT.width]!),
  }))
}

/** Control points on the plate at a time, x0, y0, x1, y1 ...: of a B-spline the corners of its polygon, of tied points their owner. */
export function controlPlacesAt(document: RotoDocument, shape: Shape, time: number): Float64Array {
  const points = shapePointsAt(shape, time)
  const worlds = pointWorldsAt(document, shape, time)
  const out = new Float64Array(2 * worlds.length)
  worlds.forEach((world, i) => {
    const [x, y] = applyToPoint(world, points[i * POINT_STRIDE]!, points[i * POINT_STRIDE + 1]!)
    out[2 * i] = x!
    out[2 * i + 1] = y!
  })
  for (const seam of seamsBorrowedBy(document, shape.id)) {
    const owner = findObject(document, 'shape', seam.ownerId)
    const places = owner && controlPlacesAt(document, owner, time)
    for (const pair of seam.pairs) {
      const [b, o] = [shape.pointIds.indexOf(pair.borrower), owner?.pointIds.indexOf(pair.owner) ?? -1]
      if (places && b >= 0 && o >= 0) out.set(places.subarray(2 * o, 2 * o + 2), 2 * b)
    }
  }
  return out
}

/** Where control points are put that are not kept. */
const rooms = new Rooms()

function carried(
  document: RotoDocument,
  shape: Shape,
  time: number,
  toTarget: Matrix3 | null,
  out?: HomogeneousOutline,
): HomogeneousOutline {
  if (shape.movedPoints.length > 0) {
    const maps = pointWorldsAt(document, shape, time)
    const targeted = toTarget ? maps.map((map) => multiply(toTarget, map)) : maps
    return mixedOutline(bezierPointsAt(shape, time), POINT_STRIDE, targeted, out)
  }
  const world = shapeWorldAt(document, shape, time)
  const map = toTarget ? multiply(toTarget, world) : world
  const sum = summedPointsAt(shape, time)
  if (sum) return summedOutline(sum, map, out)
  const room = rooms.of(shape.pointIds.length * POINT_STRIDE)
  return homogeneousOutline(bezierPoints(shape, shapePointsAt(shape, time, room)), POINT_STRIDE, map, out)
}

/** Points that a track moves otherwise than the shape, where they are seen from the shape's own space. */
function inShapeSpace(document: RotoDocument, shape: Shape, points: Float64Array, time: number): Float64Array {
  if (shape.movedPoints.length === 0) return points
  const back = invert(shapeWorldAt(document, shape, time))
  return pointsEachMapped(
    points,
    pointWorldsAt(document, shape, time).map((world) => multiply(back, world)),
  )
}

/** The cubics of an open stroke, the way back left out. */
function segmentsOf(points: Float64Array): Float64Array[] {
  return Array.from({ length: points.length / POINT_STRIDE - 1 }, (_, i) => segmentOf(points, i))
}

/** Pixels by which the pieces of a stroke may be off its curve. */
const STROKE_TOLERANCE = 0.02
const stepsOfStroke = new WeakMap<Shape, number[]>()

/** Steps of each segment: enough for every key. */
function strokeSteps(shape: Shape): number[] {
  let steps = stepsOfStroke.get(shape)
  if (!steps) {
    steps = outlineKeys(shape)
      .map((key) => segmentsOf(bezierPoints(shape, key.values)).map((cubic) => stepsFor(cubic, STROKE_TOLERANCE)))
      .reduce((most, own) => most.map((count, i) => Math.max(count, own[i]!)))
    stepsOfStroke.set(shape, steps)
  }
  return steps
}
