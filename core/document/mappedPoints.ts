import { applyToPoint, type Matrix3 } from '../geometry'
import { POINT, POINT_STRIDE } from './objects'

/** Points and tangent ends sent through a map; tangents stay relative to their point. */
export function mappedPoints(values: Float64Array, map: Matrix3): Float64Array {
  const out = values.slice()
  const anchor = [0, 0]
  const end = [0, 0]
  for (let at = 0; at < values.length; at += POINT_STRIDE) {
    const x = values[at]!
    const y = values[at + 1]!
    applyToPoint(map, x, y, anchor)
    out[at] = anchor[0]!
    out[at + 1] = anchor[1]!
    for (const tangent of [POINT.inX, POINT.outX]) {
      applyToPoint(map, x + values[at + tangent]!, y + values[at + tangent + 1]!, end)
      out[at + tangent] = end[0]! - anchor[0]!
      out[at + tangent + 1] = end[1]! - anchor[1]!
    }
  }
  return out
}

/** The same with a map for each point; points of one map are few in kind, so each is worked out once. */
export function pointsEachMapped(values: Float64Array, maps: readonly Matrix3[]): Float64Array {
  const out = values.slice()
  const known = new Map<string, Float64Array>()
  maps.forEach((map, i) => {
    const name = map.join()
    const mapped = known.get(name) ?? mappedPoints(values, map)
    known.set(name, mapped)
    out.set(mapped.subarray(i * POINT_STRIDE, (i + 1) * POINT_STRIDE), i * POINT_STRIDE)
  })
  return out
}
