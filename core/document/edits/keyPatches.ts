import type { Key, Keyed } from '../objects'
import type { Patch } from '../patches'

/** Numbers of one key, only those that are others now. */
export function valuesSet(keyed: Keyed, key: Key, values: Float64Array): Patch[] {
  const indices: number[] = []
  for (let i = 0; i < values.length; i++) if (values[i] !== key.values[i]) indices.push(i)
  if (indices.length === 0) return []
  return [
    {
      kind: 'values',
      id: keyed.id,
      time: key.time,
      indices,
      before: indices.map((i) => key.values[i]!),
      after: indices.map((i) => values[i]!),
    },
  ]
}

/** A new key, which runs on as the one before it does. */
export function keySet(keyed: Keyed, frame: number, values: Float64Array, touched?: string[]): Patch {
  const before = keyed.keys.findLast((k) => k.time < frame) ?? keyed.keys[0]
  const interpolation = before?.interpolation ?? 'smooth'
  return keyPatch(keyed, frame, null, { time: frame, interpolation, values, ...(touched && { touched }) })
}

/** A key made, replaced or deleted. */
export function keyPatch(keyed: Keyed, time: number, before: Key | null, after: Key | null): Patch {
  return { kind: 'key', id: keyed.id, time, before, after }
}

/** A key with other numbers and at another time, in place of one that stands there. */
export function keyReplaced(keyed: Keyed, key: Key, moved: Key): Patch[] {
  if (moved.time === key.time) return [keyPatch(keyed, key.time, key, moved)]
  const inTheWay = keyed.keys.find(({ time }) => time === moved.time) ?? null
  return [keyPatch(keyed, moved.time, inTheWay, moved), keyPatch(keyed, key.time, key, null)]
}
