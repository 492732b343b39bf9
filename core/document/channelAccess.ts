import { NO_KEYS, type Channel, type Key } from './channel'
import { channelDefinition, CHANNELS, channelStride, firstChannel, type ChannelDefinition } from './channelRegistry'
import type { Channelled, DocumentObject, Keyed, Part, RotoDocument, Shape } from './objects'

/** Where a channel is: whose, and which of its. */
export interface ChannelAddress {
  id: string
  channel: string
}

/** Where a key is. */
export interface KeyAddress extends ChannelAddress {
  time: number
}

/** A channel of an object with all that is known of it. */
export interface ChannelOf extends ChannelAddress {
  object: Channelled
  definition: ChannelDefinition
  keys: readonly Key[]
  /** Numbers where there are no keys; null: there is nothing then. */
  constant: ArrayLike<number> | null
  /** Numbers of a key; null: keys may have any number of points. */
  stride: number | null
}

export const isSameChannel = (a: ChannelAddress, b: ChannelAddress) => a.id === b.id && a.channel === b.channel

export const isSameKey = (a: KeyAddress, b: KeyAddress) => isSameChannel(a, b) && a.time === b.time

const isChannelled = (object: DocumentObject | undefined): object is Channelled =>
  object !== undefined && 'channels' in object

/** @throws Error when objects of that kind have no such channel: names are the registry's */
export function channelOf(object: Channelled, channel: string = firstChannel(object.kind)): ChannelOf {
  const definition = channelDefinition(object.kind, channel)
  if (!definition) throw new Error(`A ${object.kind} has no channel ${channel}`)
  const there = object.channels[channel]
  return {
    id: object.id,
    channel,
    object,
    definition,
    keys: there?.keys ?? NO_KEYS,
    constant: there?.constant ?? definition.initial,
    stride: channelStride(definition, object.kind === 'shape' ? object.pointIds.length : null),
  }
}

/** The channel at an address; null where the object is gone or has none of that name. */
export function channelAt(document: RotoDocument, { id, channel }: ChannelAddress): ChannelOf | null {
  const object = document.objects.get(id)
  return isChannelled(object) && channelDefinition(object.kind, channel) ? channelOf(object, channel) : null
}

/** Channels of an object that have keys, in the order of the registry. */
export function keyedChannels(object: Channelled): ChannelOf[] {
  const order = Object.keys(CHANNELS[object.kind])
  const place = (name: string) => order.indexOf(name.split(':')[0]!)
  return Object.keys(object.channels)
    .filter((name) => object.channels[name]!.keys.length > 0)
    .sort((a, b) => place(a) - place(b))
    .map((name) => channelOf(object, name))
}

export const outlineKeys = (shape: Shape): Key[] => shape.channels.outline.keys
export const poseKeys = (part: Part): Key[] => part.channels.pose?.keys ?? NO_KEYS
/** Keys of a shape's outline or of a Part's pose. */
export const formKeys = (keyed: Keyed): Key[] => (keyed.kind === 'part' ? poseKeys(keyed) : outlineKeys(keyed))
export const depthKeys = (part: Part): Key[] => part.channels.depth?.keys ?? NO_KEYS
export const pivotKeys = (part: Part): Key[] => part.channels.pivot?.keys ?? NO_KEYS

/** Channels with other keys in one of them; without keys and constant it is not stored. */
export function withKeys<C extends Record<string, Channel>>(channels: C, name: string, keys: Key[]): C {
  const { [name]: there, ...others } = channels
  const isEmpty = keys.length === 0 && !there?.constant
  return (isEmpty ? others : { ...others, [name]: { ...there, keys } }) as C
}

/** A shape with other keys of its outline. */
export const withOutlineKeys = (shape: Shape, keys: Key[]): Shape => ({
  ...shape,
  channels: { ...shape.channels, outline: { keys } },
})

/** A Part with other keys of its pose. */
export const withPoseKeys = (part: Part, keys: Key[]): Part => ({
  ...part,
  channels: withKeys(part.channels, 'pose', keys),
})

/** A channel that is constant. */
export const constantChannel = (...values: number[]): Channel => ({ constant: Float64Array.from(values), keys: [] })
