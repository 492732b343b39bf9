import { outlineKeys, POINT, POINT_STRIDE, type Shape } from '../document'
import { WIDTHS_STRIDE } from '../raster'
import { shapePointsAt } from './shapePoints'

const known = new WeakMap<Shape, boolean>()

/** Whether a point of a closed shape adds anything to the feather of the shape, on any key. */
export function hasPointWidths(shape: Shape): boolean {
  let has = known.get(shape)
  if (has === undefined) known.set(shape, (has = shape.isClosed && outlineKeys(shape).some((key) => isVaried(key.values)))) // prettier-ignore
  return has
}

function isVaried(values: Float64Array): boolean {
  for (let at = 0; at < values.length; at += POINT_STRIDE) {
    if (values[at + POINT.innerFeather] !== 0 || values[at + POINT.outerFeather] !== 0) return true
  }
  return false
}

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
