import { freeValueAt, TANGENT_STRIDE, type FreeStretch } from './freeTangents'

/** How values run from this key to the next. */
export type Interpolation = 'linear' | 'smooth' | 'ease' | 'hold'

/** Values at a time. `values` of all keys of one thing have the same length. */
export interface TimedValues {
  readonly time: number
  readonly interpolation: Interpolation
  readonly values: Float64Array
  /** TANGENT_STRIDE numbers a value, where tangents were set by hand. */
  readonly tangents?: Float64Array
}

/** Index of the last key at or before `time`, or -1. Keys are sorted by time. */
export function keyIndexBefore(keys: readonly TimedValues[], time: number): number {
  let low = 0
  let high = keys.length
  while (low < high) {
    const middle = (low + high) >> 1
    if (keys[middle]!.time <= time) low = middle + 1
    else high = middle
  }
  return low - 1
}

/**
 * Values of the keys at a time, ends held.
 *
 * Smooth stretches are cubic Hermite curves whose slopes at the keys are the finite differences of the neighbours over
 * uneven spacing (Catmull & Rom, "A class of local interpolating splines", 1974): the curve passes through every key
 * and its velocity is continuous. At the first and last key the slope is that of the only stretch. An eased stretch goes
 * straight from key to key and is at rest at both (3u^2 - 2u^3).
 *
 * @param out  receives the values; its length is theirs
 */
export function valuesAt(keys: readonly TimedValues[], time: number, out: Float64Array): Float64Array {
  const last = keys.length - 1
  const index = keyIndexBefore(keys, time)
  if (index < 0) return copy(keys[0]!.values, out)
  const from = keys[index]!
  if (index === last || from.time === time || from.interpolation === 'hold') return copy(from.values, out)
  const to = keys[index + 1]!
  if (from.interpolation !== 'smooth') {
    const u = (time - from.time) / (to.time - from.time)
    const share = from.interpolation === 'ease' ? u * u * (3 - 2 * u) : u
    for (let i = 0; i < out.length; i++) out[i] = from.values[i]! + (to.values[i]! - from.values[i]!) * share
    return out
  }
  const stretch = smoothStretch(keys, index, time)
  const { earlier, start, end, later, w0, w1, w2, w3 } = stretch
  for (let i = 0; i < out.length; i++) out[i] = w0 * earlier[i]! + w1 * start[i]! + w2 * end[i]! + w3 * later[i]!
  if (from.tangents || to.tangents) {
    const { startSpan, endSpan } = stretch
    const span = to.time - from.time
    for (let i = 0; i < out.length; i++) {
      const m0 = (end[i]! - (startSpan > 0 ? earlier : start)[i]!) / (startSpan || span)
      const m1 = ((endSpan > 0 ? later : end)[i]! - start[i]!) / (endSpan || span)
      const free = freeStretch(from, to, i, m0, m1)
      if (free) out[i] = freeValueAt(free, time - from.time)
    }
  }
  return out
}

/** A moment of a smooth stretch: values and slopes are linear in four keys, so every number is the sum of theirs with the same four weights. */
export interface SmoothStretch {
  readonly earlier: Float64Array
  readonly start: Float64Array
  readonly end: Float64Array
  readonly later: Float64Array
  readonly w0: number
  readonly w1: number
  readonly w2: number
  readonly w3: number
  /** Time over which the slope at the start is taken, from `earlier` to `end`, and that at the end; 0: it is that of the stretch alone. */
  readonly startSpan: number
  readonly endSpan: number
}

/** The sum that {@link valuesAt} is at a time; null where it is another: on a key, beyond the keys, on stretches that are not smooth or have tangents of their own. */
export function smoothStretchAt(keys: readonly TimedValues[], time: number): SmoothStretch | null {
  const index = keyIndexBefore(keys, time)
  if (index < 0 || index === keys.length - 1) return null
  const [from, to] = [keys[index]!, keys[index + 1]!]
  const isSum = from.time !== time && from.interpolation === 'smooth' && !from.tangents && !to.tangents
  return isSum ? smoothStretch(keys, index, time) : null
}

function smoothStretch(keys: readonly TimedValues[], index: number, time: number): SmoothStretch {
  const last = keys.length - 1
  const from = keys[index]!
  const to = keys[index + 1]!
  const span = to.time - from.time
  const u = (time - from.time) / span
  const before = index > 0 ? keys[index - 1]! : null
  const after = index + 1 < last ? keys[index + 2]! : null
  const startSpan = before && before.interpolation !== 'hold' ? to.time - before.time : 0
  const endSpan = after && to.interpolation !== 'hold' ? after.time - from.time : 0
  const h10 = u * (1 - u) * (1 - u)
  const h11 = u * u * (u - 1)
  const leaving = startSpan > 0 ? (h10 * span) / startSpan : h10
  const arriving = endSpan > 0 ? (h11 * span) / endSpan : h11
  return {
    earlier: (before ?? from).values,
    start: from.values,
    end: to.values,
    later: (after ?? to).values,
    w0: startSpan > 0 ? -leaving : 0,
    w1: (1 + 2 * u) * (1 - u) * (1 - u) - (startSpan > 0 ? 0 : leaving) - arriving,
    w2: u * u * (3 - 2 * u) + leaving + (endSpan > 0 ? 0 : arriving),
    w3: endSpan > 0 ? arriving : 0,
    startSpan,
    endSpan,
  }
}

/** The stretch of one value when either of its keys has a tangent of its own; the other is a third of the stretch long. */
function freeStretch(from: TimedValues, to: TimedValues, i: number, m0: number, m1: number): FreeStretch | null {
  const span = to.time - from.time
  const at = i * TANGENT_STRIDE
  const [leavingTime, arrivingTime] = [from.tangents?.[at + 2] ?? 0, -(to.tangents?.[at] ?? 0)]
  if (leavingTime <= 0 && arrivingTime <= 0) return null
  const third = span / 3
  return {
    span,
    from: from.values[i]!,
    to: to.values[i]!,
    leavingTime: leavingTime > 0 ? leavingTime : third,
    leavingValue: leavingTime > 0 ? from.tangents![at + 3]! : m0 * third,
    arrivingTime: arrivingTime > 0 ? arrivingTime : third,
    arrivingValue: arrivingTime > 0 ? -to.tangents![at + 1]! : m1 * third,
  }
}

function copy(values: Float64Array, out: Float64Array): Float64Array {
  out.set(values)
  return out
}
