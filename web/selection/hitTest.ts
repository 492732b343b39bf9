import { allOf, findObject, type RotoDocument, type Shape } from '@tender-lasso/core/document'
import { areasAt, isShown, controlPlacesAt, outlineAt, partsByDepth } from '@tender-lasso/core/evaluation'
import { windingNumber } from '@tender-lasso/core/geometry'
import { flattenOutline, SEGMENT, SEGMENT_STRIDE, rationalPoint } from '@tender-lasso/core/spline'

/** Screen pixels around a point or a line within which the pointer means it. */
export const GRAB_PIXELS = 7

export type Hit =
  | { kind: 'point'; shape: Shape; index: number }
  | { kind: 'tangent'; shape: Shape; index: number; tangent: 'in' | 'out' }
  | { kind: 'outline'; shape: Shape; segment: number; t: number }
  | { kind: 'inside'; shape: Shape }

/** Shapes that can be taken hold of on a frame, nearest Part first, selected ones before all. */
export function reachableShapes(document: RotoDocument, frame: number, selectedIds: readonly string[]): Shape[] {
  const order = new Map(partsByDepth(document, frame).map((part, i) => [part.id, i]))
  const depthOf = (shape: Shape) => order.get(shape.partId) ?? 0
  return allOf(document, 'shape')
    .filter((shape) => {
      const part = findObject(document, 'part', shape.partId)
      return isShown(shape, part, frame) && !part!.locked
    })
    .sort((a, b) => {
      const selected = Number(selectedIds.includes(b.id)) - Number(selectedIds.includes(a.id))
      return selected || depthOf(a) - depthOf(b)
    })
}

/** What lies under the pointer: points and tangents of selected shapes, then points, then outlines, then insides. */
export function hitTest(
  document: RotoDocument,
  frame: number,
  selectedIds: readonly string[],
  selectedPoints: ReadonlySet<string>,
  x: number,
  y: number,
  scale: number,
): Hit | null {
  const reach = GRAB_PIXELS / scale
  const isAround = hullTest(document, frame, x, y, reach)
  // This is asked at every move of the pointer: most shapes are nowhere near it.
  const shapes = reachableShapes(document, frame, selectedIds).filter(isAround)
  for (const shape of shapes) {
    if (!selectedIds.includes(shape.id)) continue
    const outline = outlineAt(document, shape, frame)
    const tangent = shape.curve === 'bspline' ? null : nearestTangent(shape, outline, selectedPoints, x, y, reach)
    const index = nearestPoint(controlPlacesAt(document, shape, frame), x, y, reach)
    // A point under its own short tangent must stay within reach.
    if (index !== null) return { kind: 'point', shape, index }
    if (tangent) return { kind: 'tangent', shape, ...tangent }
  }
  for (const shape of shapes) {
    const index = nearestPoint(controlPlacesAt(document, shape, frame), x, y, reach)
    if (index !== null) return { kind: 'point', shape, index }
  }
  for (const shape of shapes) {
    const near = nearestOnOutline(outlineAt(document, shape, frame), x, y, shape.isClosed)
    if (near.distance <= reach) return { kind: 'outline', shape, segment: near.segment, t: near.t }
  }
  for (const shape of shapes) {
    if (isInside(document, shape, frame, x, y)) return { kind: 'inside', shape }
  }
  return null
}

/**
 * Whether a place may be on a shape: within the box round its control points and its curve, which lies within their hull, with
 * as much room as a hand or a stroke's own width needs.
 */
function hullTest(document: RotoDocument, frame: number, x: number, y: number, reach: number) {
  return (shape: Shape): boolean => {
    // What a stroke covers is wider than its line; there are few.
    if (!shape.isClosed) return true
    const outline = outlineAt(document, shape, frame)
    const places = shape.curve === 'bspline' ? controlPlacesAt(document, shape, frame) : null
    let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity]
    for (let i = 0; i < outline.length; i += 3) {
      const [px, py] = [outline[i]! / outline[i + 2]!, outline[i + 1]! / outline[i + 2]!]
      left = Math.min(left, px)
      right = Math.max(right, px)
      top = Math.min(top, py)
      bottom = Math.max(bottom, py)
    }
    // The polygon of a B-spline, whose corners are taken hold of, lies outside of its curve.
    for (let i = 0; places && i < places.length; i += 2) {
      left = Math.min(left, places[i]!)
      right = Math.max(right, places[i]!)
      top = Math.min(top, places[i + 1]!)
      bottom = Math.max(bottom, places[i + 1]!)
    }
    return x >= left - reach && x <= right + reach && y >= top - reach && y <= bottom + reach
  }
}

/** Shapes under a place of the plate, nearest first: those that cover it, and those whose line it is near. */
export function shapesUnder(document: RotoDocument, frame: number, x: number, y: number, scale: number): Shape[] {
  const reach = GRAB_PIXELS / scale
  const isAround = hullTest(document, frame, x, y, reach)
  return reachableShapes(document, frame, []).filter(
    (shape) =>
      isAround(shape) &&
      (isInside(document, shape, frame, x, y) ||
        nearestOnOutline(outlineAt(document, shape, frame), x, y, shape.isClosed).distance <= reach),
  )
}

function isInside(document: RotoDocument, shape: Shape, frame: number, x: number, y: number): boolean {
  return areasAt(document, shape, frame).some((area) => windingNumber(flattenOutline(area, 0.25), x, y) !== 0)
}

function nearestPoint(places: Float64Array, x: number, y: number, reach: number): number | null {
  let best: number | null = null
  let least = reach
  for (let i = 0; i < places.length / 2; i++) {
    const distance = Math.hypot(places[2 * i]! - x, places[2 * i + 1]! - y)
    if (distance <= least) {
      least = distance
      best = i
    }
  }
  return best
}

function nearestTangent(
  shape: Shape,
  outline: Float64Array,
  selectedPoints: ReadonlySet<string>,
  x: number,
  y: number,
  reach: number,
): { index: number; tangent: 'in' | 'out' } | null {
  const count = outline.length / SEGMENT_STRIDE
  for (let i = 0; i < count; i++) {
    if (!selectedPoints.has(shape.pointIds[i]!)) continue
    const before = ((i + count - 1) % count) * SEGMENT_STRIDE
    for (const [at, tangent] of [
      [i * SEGMENT_STRIDE + SEGMENT.leaving, 'out'],
      [before + SEGMENT.arriving, 'in'],
    ] as const) {
      const w = outline[at + 2]!
      if (Math.hypot(outline[at]! / w - x, outline[at + 1]! / w - y) <= reach) return { index: i, tangent }
    }
  }
  return null
}

/** Nearest place on a homogeneous outline, the way back of an open one left out: segment, parameter, distance in pixels. */
function nearestOnOutline(outline: Float64Array, x: number, y: number, isClosed = true) {
  const best = { segment: 0, t: 0, distance: Infinity }
  const consider = (segment: number, t: number) => {
    const [px, py] = rationalPoint(outline, segment, t)
    const distance = Math.hypot(px - x, py - y)
    if (distance < best.distance) Object.assign(best, { segment, t, distance })
  }
  const segments = outline.length / SEGMENT_STRIDE - (isClosed ? 0 : 1)
  for (let segment = 0; segment < segments; segment++) for (let k = 0; k < 16; k++) consider(segment, k / 16)
  for (let step = 1 / 32; step > 1e-4; step /= 2) {
    const { segment, t } = best
    consider(segment, Math.max(0, t - step))
    consider(segment, Math.min(1, t + step))
  }
  return best
}
