import { TANGENT_STRIDE, valuesAt } from '../animation'
import type { ChannelOf, Key, Patch } from '../document'
import { keyPatch, keyReplaced } from './keyPatches'

export type TangentEnd = 'in' | 'out'

const keyAt = (channel: ChannelOf, time: number) => channel.keys.find((key) => key.time === time)

/**
 * One number of a key at another value within its bounds, and the whole key at another frame, in place of one that stands
 * there.
 *
 * @param to  frames are rounded
 */
export function keyPlaced(
  channel: ChannelOf,
  time: number,
  index: number,
  to: { time: number; value: number },
): Patch[] {
  const key = keyAt(channel, time)
  if (!key) return []
  const { bounds } = channel.definition.numbers[index]!
  const values = key.values.slice()
  values[index] = Math.min(bounds[1], Math.max(bounds[0], to.value))
  return keyReplaced(channel, key, { ...key, time: Math.round(to.time), values })
}

/**
 * The end of a tangent of one number, as a way from its key; a leaving tangent goes forward in time, an arriving one back.
 *
 * @param isAlone  false: the other one stays on one line with it, and as long as it is
 */
export function tangentSet(
  channel: ChannelOf,
  time: number,
  index: number,
  end: TangentEnd,
  way: { frames: number; value: number },
  isAlone: boolean,
): Patch[] {
  const key = keyAt(channel, time)
  if (!key) return []
  const tangents = tangentsOf(channel, key, index)
  const at = index * TANGENT_STRIDE
  const sign = end === 'out' ? 1 : -1
  const frames = Math.max(0.05, sign * way.frames) * sign
  const [own, other] = end === 'out' ? [at + 2, at] : [at, at + 2]
  tangents.set([frames, way.value], own)
  if (!isAlone) tangents[other + 1] = (way.value / frames) * tangents[other]!
  return [keyPatch(channel, time, key, { ...key, tangents })]
}

/** Tangents of one number laid level: the value rests at these keys. */
export function tangentsFlattened(channel: ChannelOf, times: readonly number[], index: number): Patch[] {
  return channel.keys.flatMap((key) => {
    if (!times.includes(key.time)) return []
    const tangents = tangentsOf(channel, key, index)
    tangents[index * TANGENT_STRIDE + 1] = 0
    tangents[index * TANGENT_STRIDE + 3] = 0
    return [keyPatch(channel, key.time, key, { ...key, tangents })]
  })
}

/** Tangents of one number given up: smooth by themselves again. */
export function tangentsFreed(channel: ChannelOf, times: readonly number[], index: number): Patch[] {
  return channel.keys.flatMap((key) => {
    if (!times.includes(key.time) || !key.tangents) return []
    const tangents = key.tangents.slice()
    tangents.fill(0, index * TANGENT_STRIDE, (index + 1) * TANGENT_STRIDE)
    const { tangents: _, ...rest } = key
    return [keyPatch(channel, key.time, key, tangents.some((v) => v !== 0) ? { ...rest, tangents } : rest)]
  })
}

/** The key's tangents with those of one number as they act now: set by hand, or as smoothness makes them. */
export function tangentsOf({ keys }: ChannelOf, key: Key, index: number): Float64Array {
  const tangents = key.tangents?.slice() ?? new Float64Array(key.values.length * TANGENT_STRIDE)
  const at = index * TANGENT_STRIDE
  const i = keys.indexOf(key)
  const [before, after] = [keys[i - 1], keys[i + 1]]
  const [back, on] = [((key.time - (before?.time ?? key.time - 6)) / 3) || 2, (((after?.time ?? key.time + 6) - key.time) / 3) || 2] // prettier-ignore
  if (tangents[at] === 0) tangents.set([-back, -back * slopeAt(keys, key, index, before ? -1 : 1)], at)
  if (tangents[at + 2] === 0) tangents.set([on, on * slopeAt(keys, key, index, after ? 1 : -1)], at + 2)
  return tangents
}

const NEAR = 1e-4

/** Slope of a number just beside a key. */
function slopeAt(keys: readonly Key[], key: Key, index: number, side: 1 | -1): number {
  const near = valuesAt(keys, key.time + side * NEAR, new Float64Array(key.values.length))
  return ((near[index]! - key.values[index]!) / NEAR) * side
}
