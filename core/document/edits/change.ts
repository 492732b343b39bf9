import { poseAt } from '../evaluate'
import { POINT_STRIDE, type Key, type Keyed } from '../objects'
import type { Patch } from '../patches'
import { shapePointsAt, wholeKeys } from '../shapePoints'
import { keyPatch, keySet, valuesSet } from './keyPatches'

/** Which frames one edit touches: the frame where it is made is always among them. */
export type Reach =
  | { kind: 'here' | 'onward' | 'back' | 'everywhere' }
  /** Frames `from` to `to` in full, fading over `falloff` frames on both sides. */
  | { kind: 'span'; from: number; to: number; falloff: number }

/** How edits make keys. */
export interface Keying {
  reach: Reach
  /** false: a frame without a key gets none; keys that the edit reaches change all the same. */
  makesKeys: boolean
  /** A new key of a shape holds only the points that the edit moves. */
  onlyTouched: boolean
}

export const HERE: Reach = { kind: 'here' }
export const KEY_HERE: Keying = { reach: HERE, makesKeys: true, onlyTouched: false }

/**
 * What an edit does to the numbers of one key, in the space they are stored in; returns new ones. It knows no time: the
 * same move is applied to every key in reach, to each as it is.
 */
export type KeyedChange = (values: Float64Array) => Float64Array

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

/** Numbers of a shape or of a Part's pose at a time. */
export const keyedValuesAt = (keyed: Keyed, time: number) =>
  keyed.kind === 'part' ? poseAt(keyed, time) : shapePointsAt(keyed, time)

/**
 * A change made on one frame and carried over its Reach. Keys in reach change, each by its share; the frame itself gets a
 * key where it has none, except where all keys change alike: then it has what it should without one.
 */
export function changed(keyed: Keyed, frame: number, change: KeyedChange, how: Keying = KEY_HERE): Patch[] {
  const whole = keyed.kind === 'shape' ? wholeKeys(keyed) : keyed.keys
  const patches = whole.flatMap((key, i): Patch[] => {
    const weight = reachWeight(how.reach, frame, key.time)
    if (weight === 0) return []
    const after = change(key.values)
    if (weight < 1) for (let n = 0; n < after.length; n++) after[n] = key.values[n]! * (1 - weight) + after[n]! * weight
    return valuesChanged(keyed, keyed.keys[i]!, key.values, after)
  })
  const hasKey = keyed.keys.some((key) => key.time === frame)
  const isAlike = how.reach.kind === 'everywhere' && keyed.keys.length > 0
  if (hasKey || isAlike || !how.makesKeys) return patches
  const before = keyedValuesAt(keyed, frame)
  const values = change(before)
  const touched = how.onlyTouched && keyed.kind === 'shape' ? touchedPoints(keyed.pointIds, before, values) : null
  if (touched?.length === 0) return patches
  const isPart = touched && touched.length < before.length / POINT_STRIDE
  return [...patches, keySet(keyed, frame, values, isPart ? touched : undefined)]
}

/** Numbers of one key changed; points that it did not hold and that move now are held from then on. */
function valuesChanged(keyed: Keyed, key: Key, before: Float64Array, after: Float64Array): Patch[] {
  if (!key.touched || keyed.kind === 'part') return valuesSet(keyed, key, after)
  const touched = touchedPoints(keyed.pointIds, before, after)
  if (touched.length === 0) return []
  const held = [...new Set([...key.touched, ...touched])]
  const { touched: _, ...rest } = key
  const isWhole = held.length === keyed.pointIds.length
  return [keyPatch(keyed, key.time, key, { ...rest, values: after, ...(isWhole ? {} : { touched: held }) })]
}

function touchedPoints(pointIds: readonly string[], before: Float64Array, after: Float64Array): string[] {
  return pointIds.filter((_, i) => {
    for (let at = i * POINT_STRIDE; at < (i + 1) * POINT_STRIDE; at++) if (before[at] !== after[at]) return true
    return false
  })
}
