import { CHANNEL } from '../geometry'

/** The same rotation written within half a turn of the neighbour's. Changes and returns `channels`. */
export function unwrapped(channels: Float64Array, neighbour: ArrayLike<number>): Float64Array {
  const turn = 2 * Math.PI
  channels[CHANNEL.rotation]! -= turn * Math.round((channels[CHANNEL.rotation]! - neighbour[CHANNEL.rotation]!) / turn)
  return channels
}
