import { outlineKeys, POINT, POINT_STRIDE, type Shape } from '../document'
import { WIDTHS_STRIDE } from '../raster'
import { shapePointsAt } from './shapePoints'

/** Whether a point of a closed shape adds anything to some numbers of the shape, on any key. */
function asksPoints(numbers: readonly number[]): (shape: Shape) => boolean {
  const known = new WeakMap<Shape, boolean>()
  const isVaried = (values: Float64Array) => {
    for (let at = 0; at < values.length; at += POINT_STRIDE) {
      for (const number of numbers) if (values[at + number] !== 0) return true
    }
    return false
  }
  return (shape) => {
    let has = known.get(shape)
    if (has === undefined) {
      has = shape.isClosed && outlineKeys(shape).some((key) => isVaried(key.values))
      known.set(shape, has)
    }
    return has
  }
}

/** Whether points differ in feather. */
export const hasPointWidths = asksPoints([POINT.innerFeather, POINT.outerFeather])

/** Whether points differ in focus. */
export const hasPointFocus = asksPoints([POINT.focus])

/**
 * What the points of a shape add to its feather at a time: inner, outer of each.
 *
 * @param scale  target pixels per plate pixel
 * @returns      null where none adds anything
 */
export function pointWidthsAt(shape: Shape, time: number, scale = 1): Float64Array | null {
  if (!hasPointWidths(shape)) return null
  const points = shapePointsAt(shape, time)
  const out = new Float64Array(WIDTHS_STRIDE * shape.pointIds.length)
  for (let i = 0; i < shape.pointIds.length; i++) {
    out[WIDTHS_STRIDE * i] = points[i * POINT_STRIDE + POINT.innerFeather]! * scale
    out[WIDTHS_STRIDE * i + 1] = points[i * POINT_STRIDE + POINT.outerFeather]! * scale
  }
  return out
}

/** The widest inner feather of a shape anywhere along its outline, plate pixels, given that of the shape. */
export function widestInnerFeather(shape: Shape, time: number, ofShape: number): number {
  const widths = pointWidthsAt(shape, time)
  let widest = 0
  for (let i = 0; widths && i < widths.length; i += WIDTHS_STRIDE) widest = Math.max(widest, widths[i]!)
  return ofShape + widest
}

/** Sigma at each point of a shape at a time, given that of the shape, plate pixels. */
export function pointFocusAt(shape: Shape, time: number, ofShape: number): Float64Array {
  const points = shapePointsAt(shape, time)
  return Float64Array.from(shape.pointIds, (_, i) => Math.max(0, ofShape + points[i * POINT_STRIDE + POINT.focus]!))
}

/** The largest focus blur of a shape anywhere along its outline, plate pixels, given that of the shape. */
export const widestFocus = (shape: Shape, time: number, ofShape: number): number =>
  hasPointFocus(shape) ? Math.max(...pointFocusAt(shape, time, ofShape)) : ofShape
