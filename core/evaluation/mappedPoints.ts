import { applyToPoint, type Matrix3 } from '../geometry'
import { POINT, POINT_STRIDE } from '../document'

/** Points and tangent ends sent through a map; tangents stay relative to their point. */
export function mappedPoints(values: Float64Array, map: Matrix3): Float64Array {
  const out = values.slice()
  mapPoints(values, map, out)
  return out
}

/** The same, into an array that has the points' other numbers already. */
export function mapPoints(values: Float64Array, map: Matrix3, out: Float64Array) {
  if (!isAffine(map)) {
    for (let at = 0; at < values.length; at += POINT_STRIDE) mapPoint(values, at, map, out)
    return
  }
  // Numbers by themselves: this is asked for each key of each shape at each move of the pointer.
  const w = 1 / map[8]!
  const a = map[0]! * w
  const b = map[1]! * w
  const c = map[2]! * w
  const d = map[3]! * w
  const e = map[4]! * w
  const f = map[5]! * w
  for (let at = 0; at < values.length; at += POINT_STRIDE) {
    const x = values[at]!
    const y = values[at + 1]!
    out[at] = a * x + b * y + c
    out[at + 1] = d * x + e * y + f
    // By the linear part alone: a mere move leaves tangents as they are, to the last digit.
    const inX = values[at + 2]!
    const inY = values[at + 3]!
    const outX = values[at + 4]!
    const outY = values[at + 5]!
    out[at + 2] = a * inX + b * inY
    out[at + 3] = d * inX + e * inY
    out[at + 4] = a * outX + b * outY
    out[at + 5] = d * outX + e * outY
  }
}

const isAffine = (map: Matrix3) => map[6] === 0 && map[7] === 0

/** One point and its tangent ends sent through a map; its other numbers are left as they are in `out`. */
export function mapPoint(values: Float64Array, at: number, map: Matrix3, out: Float64Array) {
  const x = values[at]!
  const y = values[at + 1]!
  applyToPoint(map, x, y, anchor)
  out[at] = anchor[0]!
  out[at + 1] = anchor[1]!
  for (let tangent: number = POINT.inX; tangent <= POINT.outX; tangent += POINT.outX - POINT.inX) {
    const dx = values[at + tangent]!
    const dy = values[at + tangent + 1]!
    if (isAffine(map)) {
      out[at + tangent] = (map[0]! * dx + map[1]! * dy) / map[8]!
      out[at + tangent + 1] = (map[3]! * dx + map[4]! * dy) / map[8]!
      continue
    }
    applyToPoint(map, x + dx, y + dy, end)
    out[at + tangent] = end[0]! - anchor[0]!
    out[at + tangent + 1] = end[1]! - anchor[1]!
  }
}

const anchor = [0, 0]
const end = [0, 0]

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
