import { keyStateOn, type ChannelOf, type Patch, type RotoDocument } from '../document'
import { keyAdded, keyDeleted } from './keys'
import { poseKeyAdded } from './pose'

/**
 * Keys on a frame for all of some channels, with the numbers that they have there; where all have one already, these are
 * taken away.
 */
export function keysToggled(document: RotoDocument, channels: readonly ChannelOf[], frame: number): Patch[] {
  if (keyStateOn(channels, frame) === 'here') return channels.flatMap((channel) => keyDeleted(channel, frame))
  return channels.flatMap((channel) =>
    channel.object.kind === 'part' && channel.channel === 'pose'
      ? poseKeyAdded(document, channel.object, frame)
      : keyAdded(channel, frame),
  )
}
