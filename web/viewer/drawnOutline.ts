import type { RotoDocument, Shape } from '@tender-lasso/core/document'
import { outlineAt, Rooms } from '@tender-lasso/core/evaluation'
import type { Matrix3 } from '@tender-lasso/core/geometry'
import { SEGMENT_STRIDE } from '@tender-lasso/core/spline'

const rooms = new Rooms()

/**
 * Outline of a shape in CSS pixels, to be drawn at once: the next call may write over it.
 *
 * @param carried  where it is seen from where it is on the plate, plate pixels to plate pixels
 */
export function drawnOutlineAt(
  document: RotoDocument,
  shape: Shape,
  time: number,
  toScreen: Matrix3,
  carried: Matrix3 | null = null,
): Float64Array {
  const room = rooms.of(shape.pointIds.length * SEGMENT_STRIDE)
  return putOnScreen(outlineAt(document, shape, time, carried, undefined, room), toScreen)
}

/** A homogeneous outline under one more map; written over. */
export function putOnScreen(outline: Float64Array, map: Matrix3): Float64Array {
  // By name: this runs for every point of every outline on every frame.
  const [a, b, c, d, e, f, g, h, k] = map as unknown as [
    number, number, number, number, number, number, number, number, number,
  ] // prettier-ignore
  for (let i = 0; i < outline.length; i += 3) {
    const x = outline[i]!
    const y = outline[i + 1]!
    const w = outline[i + 2]!
    outline[i] = a * x + b * y + c * w
    outline[i + 1] = d * x + e * y + f * w
    outline[i + 2] = g * x + h * y + k * w
  }
  return outline
}
