import type { ChannelOf } from './channelAccess'

/** Whether channels change over time, and whether a frame is one on which they are keyed. */
export type KeyState = 'constant' | 'here' | 'elsewhere'

/** State of several channels together: keyed here where every one is, constant where none has a key. */
export function keyStateOn(channels: readonly ChannelOf[], frame: number): KeyState {
  if (channels.every(({ keys }) => keys.length === 0)) return 'constant'
  const isHere = channels.every(({ keys }) => keys.some(({ time }) => time === frame))
  return isHere ? 'here' : 'elsewhere'
}
