import { flattenOutline, SEGMENT_STRIDE } from '@tender-lasso/core/spline'
import { strokeCased } from './strokeCased'

/** Strokes a polygon or an open line, CSS pixels. */
export function strokePolygon(context: CanvasRenderingContext2D, polygon: ArrayLike<number>, isClosed = true) {
  context.beginPath()
  for (let i = 0; i < polygon.length; i += 2) context.lineTo(polygon[i]!, polygon[i + 1]!)
  if (isClosed) context.closePath()
  strokeCased(context)
}

/** Largest deviation of a drawn curve that has to be flattened, CSS pixels. */
const FLATNESS = 0.15

/**
 * Strokes an outline of homogeneous control points in CSS pixels. Without perspective its curves are drawn as such, which
 * takes half the time of flattening them first.
 */
export function strokeOutline(context: CanvasRenderingContext2D, outline: Float64Array, isClosed: boolean) {
  const w = outline[2]!
  let isPolynomial = isClosed && w > 0
  for (let i = 2; i < outline.length && isPolynomial; i += 3) isPolynomial = outline[i] === w
  if (!isPolynomial) return strokePolygon(context, flattenOutline(outline, FLATNESS), isClosed)
  context.beginPath()
  context.moveTo(outline[0]! / w, outline[1]! / w)
  for (let a = 0; a < outline.length; a += SEGMENT_STRIDE) {
    const next = (a + SEGMENT_STRIDE) % outline.length
    context.bezierCurveTo(
      outline[a + 3]! / w,
      outline[a + 4]! / w,
      outline[a + 6]! / w,
      outline[a + 7]! / w,
      outline[next]! / w,
      outline[next + 1]! / w,
    )
  }
  context.closePath()
  strokeCased(context)
}
