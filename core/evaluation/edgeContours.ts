import { contourAtDistance, signedArea } from '../geometry'
import { unionBoundary, variedContour, widePieces, widePolygon, WIDTHS_STRIDE, type EdgeProfile } from '../raster'
import { flattenOutline, SEGMENT, SEGMENT_STRIDE } from '../spline'
import type { RotoDocument, Shape } from '../document'
import { edgeOn } from './edge'
import { areasAt, outlineAt } from './outlines'
import { hasPointFocus, hasPointWidths, pointFocusAt, pointWidthsAt } from './pointWidths'

/** Plate pixels by which the flattened outline may deviate: contours are hairlines. */
const TOLERANCE = 0.15

/** What softens an edge: its feather, or its focus blur, which goes as far to both sides. */
export type Softening = 'feather' | 'focus'

/** Sigmas of focus blur at which its contours are drawn: all but a fortieth of the step lies between them. */
export const FOCUS_REACH = 2

/** The edge as a softening makes it, and what points add to it. */
function softEdge(shape: Shape, frame: number, of: Softening): { edge: EdgeProfile; pointWidths: Float64Array | null } {
  const { edge, focus } = edgeOn(shape, frame)
  if (of === 'feather') return { edge, pointWidths: pointWidthsAt(shape, frame) }
  const reach = FOCUS_REACH * focus
  const own = hasPointFocus(shape) ? pointFocusAt(shape, frame, focus) : null
  return {
    edge: { ...edge, innerFeather: reach, outerFeather: reach },
    pointWidths: own && Float64Array.from({ length: own.length * WIDTHS_STRIDE }, (_, i) => FOCUS_REACH * own[Math.floor(i / WIDTHS_STRIDE)]! - reach), // prettier-ignore
  }
}

/** Whether points of a shape differ in a softening. */
export const isSoftAtPoints = (shape: Shape, of: Softening): boolean =>
  of === 'feather' ? hasPointWidths(shape) : hasPointFocus(shape)

/** Open polylines x0, y0, x1, y1 ... in plate pixels. */
export interface EdgeContours {
  /** Where the edge fades out. */
  outer: number[][]
  /** Where it is full. */
  inner: number[][]
}

/** The contours of a shape's softened edge; where the edge has no width on a side and is not grown, that one is its line and left out. */
export function edgeContours(document: RotoDocument, shape: Shape, frame: number, of: Softening): EdgeContours {
  const { edge, pointWidths } = softEdge(shape, frame, of)
  const outlines = areasAt(document, shape, frame)
  if (pointWidths) {
    const polygons = outlines.map((outline) => widePolygon({ outline, pointWidths }, edge, TOLERANCE))
    const pieces = widePieces(unionBoundary(polygons.map(({ polygon }) => polygon)), polygons)
    return { outer: variedContour(pieces, 'outer', edge.grow), inner: variedContour(pieces, 'inner', edge.grow) }
  }
  const polygons = outlines.map((outline) => flattenOutline(outline, TOLERANCE))
  const at = (distance: number) =>
    distance === 0 ? [] : polygons.flatMap((polygon) => contourAtDistance(polygon, distance + edge.grow))
  return { outer: at(edge.outerFeather), inner: at(-edge.innerFeather) }
}

/** A point of a shape with the way straight out from it and how wide the edge is there, plate pixels. */
export interface EdgeBar {
  pointId: string
  x: number
  y: number
  /** Unit vector away from the shape. */
  outX: number
  outY: number
  inner: number
  outer: number
}

/** The edge at each point of a closed shape; of a stroke none. */
export function edgeBars(document: RotoDocument, shape: Shape, frame: number, of: Softening): EdgeBar[] {
  if (!shape.isClosed) return []
  const { edge, pointWidths: widths } = softEdge(shape, frame, of)
  const outline = outlineAt(document, shape, frame)
  const side = signedArea(flattenOutline(outline, TOLERANCE)) > 0 ? 1 : -1
  const count = shape.pointIds.length
  const place = (at: number) => [outline[at]! / outline[at + 2]!, outline[at + 1]! / outline[at + 2]!] as const
  return shape.pointIds.map((pointId, i) => {
    const before = ((i + count - 1) % count) * SEGMENT_STRIDE
    const at = i * SEGMENT_STRIDE
    const [x, y] = place(at)
    // Where a tangent is drawn in the curve leaves towards the next control point that lies elsewhere.
    const arriving = directionFrom([x, y], [before + SEGMENT.arriving, before + SEGMENT.leaving, before].map(place))
    const leaving = directionFrom([x, y], [at + SEGMENT.leaving, at + SEGMENT.arriving, ((i + 1) % count) * SEGMENT_STRIDE].map(place)) // prettier-ignore
    const [dx, dy] = [leaving[0] - arriving[0], leaving[1] - arriving[1]]
    const length = Math.hypot(dx, dy)
    // In a cusp both run the same way: straight on from it.
    const [tx, ty] = length > 1e-6 ? [dx / length, dy / length] : [-leaving[1], leaving[0]]
    return {
      pointId,
      x,
      y,
      outX: side * ty,
      outY: -side * tx,
      inner: Math.max(0, edge.innerFeather + (widths?.[2 * i] ?? 0)),
      outer: Math.max(0, edge.outerFeather + (widths?.[2 * i + 1] ?? 0)),
    }
  })
}

function directionFrom([x, y]: readonly [number, number], others: readonly (readonly [number, number])[]) {
  for (const [ox, oy] of others) {
    const length = Math.hypot(ox - x, oy - y)
    if (length > 1e-6) return [(ox - x) / length, (oy - y) / length] as const
  }
  return [0, 0] as const
}
