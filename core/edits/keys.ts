import type { ChannelOf, Key, Patch } from '../document'
import { channelValuesAt } from '../evaluation'
import { channelChanged } from './change'
import { constantSet } from './constants'
import { keyPatch, keySet } from './keyPatches'

/** What is keyed becomes `values` on one frame: a key is made, or the touched numbers of the key there change. */
export function valuesKeyed(channel: ChannelOf, frame: number, values: Float64Array): Patch[] {
  return channelChanged(channel, frame, (_before, out) => out.set(values))
}

/** A key with the numbers as they are on that frame, of an outline all points held. Empty when there is one. */
export function keyAdded(channel: ChannelOf, frame: number): Patch[] {
  const there = channel.keys.find((k) => k.time === frame)
  const values = channelValuesAt(channel, frame)
  if (!values) return []
  if (!there) return [keySet(channel, frame, values)]
  if (!there.touched) return []
  const { touched: _, ...whole } = there
  return [keyPatch(channel, frame, there, { ...whole, values })]
}

/** The key taken away; empty when it is not there, or the last of what cannot be without. */
export function keyDeleted(channel: ChannelOf, time: number): Patch[] {
  const { keys, definition } = channel
  const key = keys.find((k) => k.time === time)
  if (!key || (keys.length === 1 && definition.lastKeyStays)) return []
  return [...(keys.length === 1 ? lastKeyDeleted(channel, key) : []), keyPatch(channel, time, key, null)]
}

/** What more becomes of a channel whose keys are all taken away: a setting stays what it was on the first. */
export function lastKeyDeleted(channel: ChannelOf, first: Key): Patch[] {
  const { isSetting, beforeFirst } = channel.definition
  return isSetting && beforeFirst === 'key' ? constantSet(channel, first.values) : []
}

/** How values run from the keys at `times` to the next. */
export function interpolationSet(
  channel: ChannelOf,
  times: readonly number[],
  interpolation: Key['interpolation'],
): Patch[] {
  if (!channel.definition.interpolations.includes(interpolation)) return []
  return channel.keys
    .filter((key) => times.includes(key.time) && key.interpolation !== interpolation)
    .map((key) => keyPatch(channel, key.time, key, { ...key, interpolation }))
}
