import { smoothStretchAt, TurningKeys, valuesAt, type SmoothStretch, type TimedValues } from '../animation'
import { bsplineAsBezier } from '../spline'
import { outlineKeys, POINT, POINT_STRIDE, type Key, type Shape } from '../document'

/** What is worked out once for a shape: keys of points that not every key holds, or keys that turn. */
interface Plan {
  groups: { keys: readonly TimedValues[]; points: readonly number[] }[] | null
  turning: TurningKeys | null
}

const NOTHING_SPECIAL: Plan = { groups: null, turning: null }
const plans = new WeakMap<Shape, Plan>()

/** Control points of a shape at a time, in the moved space of its Part; POINT_STRIDE numbers a point. */
export function shapePointsAt(
  shape: Shape,
  time: number,
  out: Float64Array = new Float64Array(shape.pointIds.length * POINT_STRIDE),
): Float64Array {
  const { groups, turning } = planOf(shape)
  if (turning) return turning.valuesAt(time, out)
  return groups ? groupedValuesAt(groups, time, out) : valuesAt(outlineKeys(shape), time, out)
}

/** What the points of a closed Bezier outline are the sum of at a time; null where there is more to it. */
export function summedPointsAt(shape: Shape, time: number): SmoothStretch | null {
  const isBare = shape.curve === 'bezier' && shape.isClosed && planOf(shape) === NOTHING_SPECIAL
  return isBare ? smoothStretchAt(outlineKeys(shape), time) : null
}

/** The shape's keys as whole outlines: points that a key does not hold have the values that they have there. */
export function wholeKeys(shape: Shape): Key[] {
  const groups = groupsOf(shape)
  if (!groups) return outlineKeys(shape)
  return outlineKeys(shape).map((key) => {
    if (!key.touched) return key
    return { ...key, values: groupedValuesAt(groups, key.time, new Float64Array(key.values.length)) }
  })
}

/** The same points as a Bezier outline: place and tangents of the curve. */
export function bezierPointsAt(shape: Shape, time: number): Float64Array {
  return bezierPoints(shape, shapePointsAt(shape, time))
}

/** Control points of a shape, whatever its kind, as those of a Bezier outline. */
export function bezierPoints(shape: Pick<Shape, 'curve' | 'isClosed'>, values: Float64Array): Float64Array {
  const points = shape.curve === 'bspline' ? bsplineAsBezier(values, BSPLINE, shape.isClosed) : values
  return shape.isClosed ? points : closedStraight(points)
}

const BSPLINE = { stride: POINT_STRIDE, tension: POINT.tension }

/** The way from the last point of a stroke back to its first: straight, so that it adds nothing to what is drawn. */
function closedStraight(points: Float64Array): Float64Array {
  const out = points.slice()
  const last = points.length - POINT_STRIDE
  const [dx, dy] = [(points[0]! - points[last]!) / 3, (points[1]! - points[last + 1]!) / 3]
  out[last + POINT.outX] = dx
  out[last + POINT.outY] = dy
  out[POINT.inX] = -dx
  out[POINT.inY] = -dy
  return out
}

function planOf(shape: Shape): Plan {
  let plan = plans.get(shape)
  if (!plan) plans.set(shape, (plan = planned(shape)))
  return plan
}

function planned(shape: Shape): Plan {
  if (shape.interpolateBy === 'turning')
    return { groups: null, turning: new TurningKeys(wholeKeys(shape), POINT_STRIDE) }
  return outlineKeys(shape).some((key) => key.touched) ? { groups: groupsOf(shape), turning: null } : NOTHING_SPECIAL
}

/** Points put together by the keys that hold them; null when every key holds all. */
function groupsOf(shape: Shape): Plan['groups'] {
  const held = outlineKeys(shape).map((key) => (key.touched ? new Set(key.touched) : null))
  if (held.every((ids) => ids === null)) return null
  const groups = new Map<string, { keys: Key[]; points: number[] }>()
  shape.pointIds.forEach((id, i) => {
    const has = held.map((ids) => ids === null || ids.has(id))
    // A point that no key holds any more has what all of them say.
    const keys = has.includes(true) ? outlineKeys(shape).filter((_, k) => has[k]) : outlineKeys(shape)
    const name = has.map(Number).join('')
    const group = groups.get(name) ?? { keys, points: [] }
    groups.set(name, group)
    group.points.push(i)
  })
  return [...groups.values()]
}

function groupedValuesAt(groups: NonNullable<Plan['groups']>, time: number, out: Float64Array): Float64Array {
  const values = new Float64Array(out.length)
  for (const { keys, points } of groups) {
    valuesAt(keys, time, values)
    for (const point of points) {
      const at = point * POINT_STRIDE
      out.set(values.subarray(at, at + POINT_STRIDE), at)
    }
  }
  return out
}
