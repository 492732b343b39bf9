import { POINT, POINT_STRIDE, type Shape, type Patch, outlineKeys, channelOf } from '../document'
import { shapePointsAt, wholeKeys } from '../evaluation'
import { keyReplaced } from './keyPatches'

/** Numbers of points that are no less than nothing. */
const NOT_NEGATIVE: readonly number[] = [POINT.innerFeather, POINT.outerFeather, POINT.width]

/** Mean of one number of some points of a shape at a time; no points: of all. */
export function pointsMeanAt(shape: Shape, pointIds: ReadonlySet<string>, channel: number, time: number): number {
  return meanOf(shape, pointIds, channel, shapePointsAt(shape, time))
}

/** The keys that hold any of some points, and the mean of one number of these at each; no points: of all. */
export function pointsMeanAtKeys(shape: Shape, pointIds: ReadonlySet<string>, channel: number) {
  return wholeKeys(shape)
    .filter((key) => !key.touched || pointIds.size === 0 || key.touched.some((id) => pointIds.has(id)))
    .map((key) => ({ key, value: meanOf(shape, pointIds, channel, key.values) }))
}

/**
 * A key at another frame, in place of one that stands there, and one number of some points changed so that their mean is
 * another: each that the key holds by as much, tension and what cannot be negative within their bounds. No points: all.
 *
 * @param to  frames are rounded
 */
export function pointsKeyPlaced(
  shape: Shape,
  pointIds: ReadonlySet<string>,
  channel: number,
  time: number,
  to: { time: number; value: number },
): Patch[] {
  const i = outlineKeys(shape).findIndex((key) => key.time === time)
  const key = outlineKeys(shape)[i]
  if (!key) return []
  const values = wholeKeys(shape)[i]!.values.slice()
  const chosen = indicesOf(shape, pointIds)
  const held = key.touched ? chosen.filter((point) => key.touched!.includes(shape.pointIds[point]!)) : chosen
  const by = ((to.value - meanOf(shape, pointIds, channel, values)) * chosen.length) / held.length
  for (const point of held) {
    const at = point * POINT_STRIDE + channel
    values[at] = bounded(channel, values[at]! + by)
  }
  return keyReplaced(channelOf(shape), key, { ...key, time: Math.round(to.time), values })
}

function bounded(channel: number, value: number): number {
  if (channel === POINT.tension) return Math.min(1, Math.max(0, value))
  return NOT_NEGATIVE.includes(channel) ? Math.max(0, value) : value
}

function indicesOf(shape: Shape, pointIds: ReadonlySet<string>): number[] {
  const chosen = shape.pointIds.flatMap((id, i) => (pointIds.has(id) ? [i] : []))
  return chosen.length ? chosen : shape.pointIds.map((_, i) => i)
}

function meanOf(shape: Shape, pointIds: ReadonlySet<string>, channel: number, values: Float64Array): number {
  const indices = indicesOf(shape, pointIds)
  return indices.reduce((sum, i) => sum + values[i * POINT_STRIDE + channel]!, 0) / indices.length
}
