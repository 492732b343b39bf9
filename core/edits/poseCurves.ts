import { TANGENT_STRIDE, valuesAt } from '../animation'
import { POSE_STRIDE, type Key, type Part, type Patch } from '../document'
import { keyPatch, keyReplaced } from './keyPatches'

export type TangentEnd = 'in' | 'out'

const keyAt = (part: Part, time: number) => part.keys.find((key) => key.time === time)

/**
 * One channel of a pose key at another value, and the whole key at another frame, in place of one that stands there.
 *
 * @param to  frames are rounded
 */
export function poseKeyPlaced(part: Part, time: number, channel: number, to: { time: number; value: number }): Patch[] {
  const key = keyAt(part, time)
  if (!key) return []
  const values = key.values.slice()
  values[channel] = to.value
  return keyReplaced(part, key, { ...key, time: Math.round(to.time), values })
}

/**
 * The end of a tangent of one channel, as a way from its key; a leaving tangent goes forward in time, an arriving one back.
 *
 * @param isAlone  false: the other one stays on one line with it, and as long as it is
 */
export function poseTangentSet(
  part: Part,
  time: number,
  channel: number,
  end: TangentEnd,
  way: { frames: number; value: number },
  isAlone: boolean,
): Patch[] {
  const key = keyAt(part, time)
  if (!key) return []
  const tangents = tangentsOf(part, key, channel)
  const at = channel * TANGENT_STRIDE
  const sign = end === 'out' ? 1 : -1
  const frames = Math.max(0.05, sign * way.frames) * sign
  const [own, other] = end === 'out' ? [at + 2, at] : [at, at + 2]
  tangents.set([frames, way.value], own)
  if (!isAlone) tangents[other + 1] = (way.value / frames) * tangents[other]!
  return [keyPatch(part, time, key, { ...key, tangents })]
}

/** Tangents of one channel laid level: the value rests at these keys. */
export function poseFlattened(part: Part, times: readonly number[], channel: number): Patch[] {
  return part.keys.flatMap((key) => {
    if (!times.includes(key.time)) return []
    const tangents = tangentsOf(part, key, channel)
    tangents[channel * TANGENT_STRIDE + 1] = 0
    tangents[channel * TANGENT_STRIDE + 3] = 0
    return [keyPatch(part, key.time, key, { ...key, tangents })]
  })
}

/** Tangents of one channel given up: smooth by themselves again. */
export function poseTangentsFreed(part: Part, times: readonly number[], channel: number): Patch[] {
  return part.keys.flatMap((key) => {
    if (!times.includes(key.time) || !key.tangents) return []
    const tangents = key.tangents.slice()
    tangents.fill(0, channel * TANGENT_STRIDE, (channel + 1) * TANGENT_STRIDE)
    const { tangents: _, ...rest } = key
    return [keyPatch(part, key.time, key, tangents.some((v) => v !== 0) ? { ...rest, tangents } : rest)]
  })
}

/** The key's tangents with those of one channel as they act now: set by hand, or as smoothness makes them. */
export function tangentsOf(part: Part, key: Key, channel: number): Float64Array {
  const tangents = key.tangents?.slice() ?? new Float64Array(POSE_STRIDE * TANGENT_STRIDE)
  const at = channel * TANGENT_STRIDE
  const i = part.keys.indexOf(key)
  const [before, after] = [part.keys[i - 1], part.keys[i + 1]]
  const [back, on] = [((key.time - (before?.time ?? key.time - 6)) / 3) || 2, (((after?.time ?? key.time + 6) - key.time) / 3) || 2] // prettier-ignore
  if (tangents[at] === 0) tangents.set([-back, -back * slopeAt(part, key, channel, before ? -1 : 1)], at)
  if (tangents[at + 2] === 0) tangents.set([on, on * slopeAt(part, key, channel, after ? 1 : -1)], at + 2)
  return tangents
}

const NEAR = 1e-4

/** Slope of a channel just beside a key. */
function slopeAt(part: Part, key: Key, channel: number, side: 1 | -1): number {
  const near = valuesAt(part.keys, key.time + side * NEAR, new Float64Array(POSE_STRIDE))
  return ((near[channel]! - key.values[channel]!) / NEAR) * side
}
