import { keyIndexBefore } from '../animation'
import { channelValuesAt, wholeKeys } from '../evaluation'
import { channelOf, POINT_STRIDE, type ChannelOf, type Key, type Keyed, type Patch, type Shape } from '../document'
import { ChangedNumbers, keyPatch, keySet } from './keyPatches'

/** Which frames one edit touches: the frame where it is made is always among them. */
export type Reach =
  | { kind: 'here' | 'onward' | 'back' | 'everywhere' }
  /** Frames `from` to `to` in full, fading over `falloff` frames on both sides. */
  | {
      kind: 'span'
      from: number
      to: number
      falloff: number
      /** Frames that get a key where there is none. */
      ends: readonly number[]
    }

/** How edits make keys. */
export interface Keying {
  reach: Reach
  /** false: a frame without a key gets none; keys that the edit reaches change all the same. */
  makesKeys: boolean
  /** A new key of a shape holds only the points that the edit moves. */
  onlyTouched: boolean
  /**
   * On the way of a gesture: times that are looked at, first and last. Keys that say nothing of them stay as they are,
   * since nobody sees them change before the gesture ends.
   */
  seen?: readonly [number, number]
}

export const HERE: Reach = { kind: 'here' }
export const KEY_HERE: Keying = { reach: HERE, makesKeys: true, onlyTouched: false }

/**
 * What an edit does to the numbers of one key, in the space they are stored in. It knows no time: the same move is applied
 * to every key in reach, to each as it is.
 *
 * @param values  numbers of the key, not to be written
 * @param out     the same numbers, to be written over where they change; used again for the next key
 */
export type KeyedChange = (values: Float64Array, out: Float64Array) => void

/** Share of an edit on `frame` that arrives at `time`: 1 in reach, less within a falloff, 0 beyond. */
export function reachWeight(reach: Reach, frame: number, time: number): number {
  switch (reach.kind) {
    case 'here':
      return time === frame ? 1 : 0
    case 'onward':
      return time >= frame ? 1 : 0
    case 'back':
      return time <= frame ? 1 : 0
    case 'everywhere':
      return 1
    case 'span': {
      const beyond = Math.max(reach.from - time, time - reach.to, 0)
      if (beyond === 0 || time === frame) return 1
      const left = 1 - beyond / (reach.falloff + 1)
      return left <= 0 ? 0 : left * left * (3 - 2 * left)
    }
  }
}

/**
 * A change made on one frame and carried over its Reach. Keys in reach change, each by its share; the frame itself gets a
 * key where it has none, except where all keys change alike: then it has what it should without one.
 */
export function channelChanged(
  channel: ChannelOf,
  frame: number,
  change: KeyedChange,
  how: Keying = KEY_HERE,
): Patch[] {
  const { keys } = channel
  const shape = outlineOf(channel)
  const whole = shape ? wholeKeys(shape) : keys
  const patches: Patch[] = []
  const numbers = new ChangedNumbers(channel)
  let after = new Float64Array(0)
  const [firstKey, lastKey] = how.seen ? keysSeen(channel, how.seen) : [0, whole.length - 1]
  for (let i = firstKey; i <= lastKey; i++) {
    const key = whole[i]!
    const weight = reachWeight(how.reach, frame, key.time)
    if (weight === 0) continue
    if (after.length !== key.values.length) after = new Float64Array(key.values.length)
    after.set(key.values)
    change(key.values, after)
    if (weight < 1) for (let n = 0; n < after.length; n++) after[n] = key.values[n]! * (1 - weight) + after[n]! * weight
    const own = keys[i]!
    if (!own.touched || !shape) {
      numbers.add(own, after)
      continue
    }
    const patch = touchedChanged(channel, shape, own, key.values, after)
    if (patch) patches.push(patch)
  }
  patches.push(...numbers.finished())
  if (!how.makesKeys) return patches
  const isAlike = how.reach.kind === 'everywhere' && keys.length > 0
  // What lies outside a Span must not follow it from key to key, nor its own ends lag behind.
  const ends = how.reach.kind === 'span' && keys.length > 0 ? how.reach.ends : []
  for (const time of new Set(isAlike ? [] : [frame, ...ends])) {
    if (keys.some((key) => key.time === time)) continue
    const made = keyMadeAt(channel, time, change, reachWeight(how.reach, frame, time), how.onlyTouched)
    if (made) patches.push(made)
  }
  return patches
}

/** {@link channelChanged} of the outline of a shape or the pose of a Part. */
export const formChanged = (keyed: Keyed, frame: number, change: KeyedChange, how?: Keying) =>
  channelChanged(channelOf(keyed), frame, change, how)

/** The shape whose outline a channel is. */
function outlineOf({ object, channel }: ChannelOf): Shape | null {
  return object.kind === 'shape' && channel === 'outline' ? object : null
}

/** A key where there is none, with that share of a change; null where it would hold nothing. */
function keyMadeAt(
  channel: ChannelOf,
  time: number,
  change: KeyedChange,
  weight: number,
  onlyTouched: boolean,
): Patch | null {
  const before = channelValuesAt(channel, time)
  if (!before) return null
  const shape = outlineOf(channel)
  const values = before.slice()
  change(before, values)
  const touched = onlyTouched && shape ? touchedPoints(shape.pointIds, before, values) : null
  if (touched?.length === 0) return null
  for (let n = 0; n < values.length; n++) values[n] = before[n]! * (1 - weight) + values[n]! * weight
  const isPart = touched && touched.length < before.length / POINT_STRIDE
  return keySet(channel, time, values, isPart ? touched : undefined)
}

/** First and last index of the keys that what stands at some times can depend on. */
function keysSeen(channel: ChannelOf, [from, to]: readonly [number, number]): [number, number] {
  const { keys } = channel
  const shape = outlineOf(channel)
  // Where keys hold other points each, or turn, values may come from keys farther away.
  const isPlain = !shape || (shape.interpolateBy === 'coordinates' && !keys.some((key) => key.touched))
  if (!isPlain) return [0, keys.length - 1]
  // The slope at a key is that from the one before it to the one after it.
  return [Math.max(0, keyIndexBefore(keys, from) - 1), Math.min(keys.length - 1, keyIndexBefore(keys, to) + 2)]
}

/** Numbers of a key that holds only some points changed; points that it did not hold and that move now are held from then on. */
function touchedChanged(
  channel: ChannelOf,
  { pointIds }: Shape,
  key: Key,
  before: Float64Array,
  after: Float64Array,
): Patch | null {
  const touched = touchedPoints(pointIds, before, after)
  if (touched.length === 0) return null
  const held = [...new Set([...key.touched!, ...touched])]
  const { touched: _, ...rest } = key
  const isWhole = held.length === pointIds.length
  return keyPatch(channel, key.time, key, { ...rest, values: after.slice(), ...(isWhole ? {} : { touched: held }) })
}

function touchedPoints(pointIds: readonly string[], before: Float64Array, after: Float64Array): string[] {
  return pointIds.filter((_, i) => {
    for (let at = i * POINT_STRIDE; at < (i + 1) * POINT_STRIDE; at++) if (before[at] !== after[at]) return true
    return false
  })
}
