import type { Key, Keyed, Patch } from '../document'
import { changed, keyedValuesAt } from './change'
import { keyPatch, keySet } from './keyPatches'

/** What is keyed becomes `values` on one frame: a key is made, or the touched numbers of the key there change. */
export function valuesKeyed(keyed: Keyed, frame: number, values: Float64Array): Patch[] {
  return changed(keyed, frame, (_before, out) => out.set(values))
}

/** A key with the outline or the pose as it is on that frame, all points held. Empty when there is one. */
export function keyAdded(keyed: Keyed, frame: number): Patch[] {
  const there = keyed.keys.find((k) => k.time === frame)
  const values = keyedValuesAt(keyed, frame)
  if (!there) return [keySet(keyed, frame, values)]
  if (!there.touched) return []
  const { touched: _, ...whole } = there
  return [keyPatch(keyed, frame, there, { ...whole, values })]
}

/** The key taken away; empty when it is not there, or the only one of a shape. */
export function keyDeleted(keyed: Keyed, time: number): Patch[] {
  const key = keyed.keys.find((k) => k.time === time)
  return key && (keyed.kind === 'part' || keyed.keys.length > 1) ? [keyPatch(keyed, time, key, null)] : []
}

/** How values run from the keys at `times` to the next. */
export function interpolationSet(keyed: Keyed, times: readonly number[], interpolation: Key['interpolation']): Patch[] {
  return keyed.keys
    .filter((key) => times.includes(key.time) && key.interpolation !== interpolation)
    .map((key) => keyPatch(keyed, key.time, key, { ...key, interpolation }))
}
