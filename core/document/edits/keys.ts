import { poseAt, shapePointsAt } from '../evaluate'
import type { Key, Keyed } from '../objects'
import type { Patch } from '../patches'

/**
 * What is keyed becomes `values` on one frame: a key is made, or the touched numbers of the key there change.
 *
 * @param values  of a shape POINT_STRIDE numbers a point, moved space; of a Part POSE_STRIDE
 */
export function valuesKeyed(keyed: Keyed, frame: number, values: Float64Array): Patch[] {
  const key = keyed.keys.find((k) => k.time === frame)
  if (!key) {
    const before = keyed.keys.findLast((k) => k.time < frame) ?? keyed.keys[0]
    return [keyPatch(keyed, frame, null, { time: frame, interpolation: before?.interpolation ?? 'smooth', values })]
  }
  const indices: number[] = []
  for (let i = 0; i < values.length; i++) if (values[i] !== key.values[i]) indices.push(i)
  if (indices.length === 0) return []
  return [
    {
      kind: 'values',
      id: keyed.id,
      time: frame,
      indices,
      before: indices.map((i) => key.values[i]!),
      after: indices.map((i) => values[i]!),
    },
  ]
}

function keyPatch(keyed: Keyed, time: number, before: Key | null, after: Key | null): Patch {
  return { kind: 'key', id: keyed.id, time, before, after }
}

/** A key with the outline or the pose as it is on that frame. Empty when there is one. */
export function keyAdded(keyed: Keyed, frame: number): Patch[] {
  if (keyed.keys.some((k) => k.time === frame)) return []
  return valuesKeyed(keyed, frame, keyed.kind === 'part' ? poseAt(keyed, frame) : shapePointsAt(keyed, frame))
}

/** The key taken away; empty when it is not there, or the only one of a shape. */
export function keyDeleted(keyed: Keyed, time: number): Patch[] {
  const key = keyed.keys.find((k) => k.time === time)
  return key && (keyed.kind === 'part' || keyed.keys.length > 1) ? [keyPatch(keyed, time, key, null)] : []
}

/** The key moved to another frame, in place of a key that stands there. */
export function keyMoved(keyed: Keyed, from: number, to: number): Patch[] {
  const key = keyed.keys.find((k) => k.time === from)
  if (!key || from === to) return []
  const there = keyed.keys.find((k) => k.time === to) ?? null
  return [keyPatch(keyed, from, key, null), keyPatch(keyed, to, there, { ...key, time: to })].reverse()
}

/** How values run from the keys at `times` to the next. */
export function interpolationSet(keyed: Keyed, times: readonly number[], interpolation: Key['interpolation']): Patch[] {
  return keyed.keys
    .filter((key) => times.includes(key.time) && key.interpolation !== interpolation)
    .map((key) => keyPatch(keyed, key.time, key, { ...key, interpolation }))
}
