import { POINT, POINT_STRIDE } from '../document'

/** Cubic of segment i of a key's outline, in moved space. */
export function segmentOf(values: Float64Array, i: number): Float64Array {
  const count = values.length / POINT_STRIDE
  const a = i * POINT_STRIDE
  const b = ((i + 1) % count) * POINT_STRIDE
  const [x0, y0, x3, y3] = [values[a]!, values[a + 1]!, values[b]!, values[b + 1]!]
  return Float64Array.of(
    x0,
    y0,
    x0 + values[a + POINT.outX]!,
    y0 + values[a + POINT.outY]!,
    x3 + values[b + POINT.inX]!,
    y3 + values[b + POINT.inY]!,
    x3,
    y3,
  )
}
