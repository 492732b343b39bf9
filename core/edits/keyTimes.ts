import {
  channelAt,
  isSameChannel,
  isSameKey,
  type ChannelAddress,
  type ChannelOf,
  type Key,
  type KeyAddress,
  type Patch,
  type RotoDocument,
} from '../document'
import { keysReplaced } from './keyPatches'
import { lastKeyDeleted } from './keys'

/** Channels that some keys are of, each once. */
function channelsOf<Address extends ChannelAddress>(keys: readonly Address[]): Address[] {
  return keys.filter((key, i) => keys.findIndex((other) => isSameChannel(key, other)) === i)
}

/** The channels that some keys stand in, each once; those that are gone are left out. */
export const channelsOfKeys = (document: RotoDocument, keys: readonly KeyAddress[]): ChannelOf[] =>
  channelsOf(keys).flatMap((address) => channelAt(document, address) ?? [])

/** The chosen keys by the channel they stand in, in the order of time; those that are not there are left out. */
function chosenByChannel(document: RotoDocument, chosen: readonly KeyAddress[]): { channel: ChannelOf; keys: Key[] }[] {
  return channelsOfKeys(document, chosen).flatMap((channel) => {
    const keys = channel.keys.filter(({ time }) => chosen.some((one) => isSameKey(one, { ...channel, time })))
    return keys.length ? [{ channel, keys }] : []
  })
}

/**
 * The chosen keys at other times; a key that stands in their way gives way. Where two chosen ones come together the
 * later one stays.
 *
 * @param to  new time of a key; rounded to whole frames
 */
export function keysMoved(
  document: RotoDocument,
  chosen: readonly KeyAddress[],
  to: (time: number) => number,
): Patch[] {
  return chosenByChannel(document, chosen).flatMap(({ channel, keys }) => {
    const moving = new Set(keys)
    const after = byTime(channel.keys.filter((key) => !moving.has(key)))
    for (const key of keys) {
      const time = Math.round(to(key.time))
      after.set(time, time === key.time ? key : { ...key, time })
    }
    return keysReplaced(channel, after)
  })
}

const byTime = (keys: readonly Key[]) => new Map(keys.map((key) => [key.time, key]))

/** Times from the first to the last of the chosen keys, the other way round. */
export function keysReversed(document: RotoDocument, chosen: readonly KeyAddress[]): Patch[] {
  const times = chosen.map(({ time }) => time)
  const [first, last] = [Math.min(...times), Math.max(...times)]
  return keysMoved(document, chosen, (time) => first + last - time)
}

/** The chosen keys taken away; of an outline, and of a pivot, one key stays, the first. */
export function keysDeleted(document: RotoDocument, chosen: readonly KeyAddress[]): Patch[] {
  return chosenByChannel(document, chosen).flatMap(({ channel, keys }) => {
    const isAll = keys.length === channel.keys.length
    const gone = new Set(channel.definition.lastKeyStays && isAll ? keys.slice(1) : keys)
    const patches = keysReplaced(channel, byTime(channel.keys.filter((key) => !gone.has(key))))
    return isAll ? [...lastKeyDeleted(channel, keys[0]!), ...patches] : patches
  })
}

/** A key as it is carried about: of which channel, how many frames after the first of them. */
export interface CarriedKey extends ChannelAddress {
  after: number
  key: Key
}

/** The chosen keys to be put down elsewhere, counted from the earliest. */
export function keysCarried(document: RotoDocument, chosen: readonly KeyAddress[]): CarriedKey[] {
  const first = Math.min(...chosen.map(({ time }) => time))
  return chosenByChannel(document, chosen).flatMap(({ channel: { id, channel }, keys }) =>
    keys.map((key) => ({ id, channel, after: key.time - first, key })),
  )
}

/**
 * Carried keys put down from `frame` on, in place of keys that stand there.
 *
 * @param onto  what gets them in place of what they were taken from: its channel of as many numbers; others are passed over
 * @param times  how often they follow one another, each time behind the last by the length of the whole and one frame
 */
export function keysPutDown(
  document: RotoDocument,
  carried: readonly CarriedKey[],
  frame: number,
  onto: (id: string) => string = (id) => id,
  times = 1,
): Patch[] {
  const length = Math.max(0, ...carried.map(({ after }) => after)) + 1
  return channelsOf(carried).flatMap((address) => {
    const channel = channelAt(document, { ...address, id: onto(address.id) })
    // A pivot that nothing keys has no use for keys.
    if (!channel || (!channel.constant && channel.keys.length === 0)) return []
    const after = byTime(channel.keys)
    for (const one of carried) {
      if (!isSameChannel(one, address) || (channel.stride ?? one.key.values.length) !== one.key.values.length) continue
      for (let round = 0; round < times; round++) {
        const time = frame + one.after + round * length
        // Points of another shape have other names: there the key holds all.
        const { touched, ...key } = one.key
        after.set(time, { ...key, time, ...(touched && channel.id === one.id ? { touched } : {}) })
      }
    }
    return keysReplaced(channel, after)
  })
}
