import { sameValue, type ChannelOf, type Patch } from '../document'

/** Numbers that a channel has where it has no keys. */
export function constantSet(channel: ChannelOf, values: ArrayLike<number>): Patch[] {
  const before = channel.object.channels[channel.channel]?.constant
  const after = Array.from(values)
  if (sameValue(before ?? channel.constant, after)) return []
  return [{ kind: 'constant', id: channel.id, channel: channel.channel, before: before ? Array.from(before) : null, after }] // prettier-ignore
}
