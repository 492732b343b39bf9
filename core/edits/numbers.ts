import { UNITS, type ChannelOf, type Patch } from '../document'
import { channelChanged, type Keying } from './change'
import { constantSet } from './constants'

/** What is done to a number as it is shown: it becomes another, as much more, or as many times it. */
export interface NumberChange {
  kind: 'set' | 'add' | 'multiply'
  by: number
}

/**
 * One number of a channel changed on a frame and in its Reach. A setting without keys is changed as a whole. Numbers stay
 * within their bounds.
 *
 * @param index  which of the channel's numbers
 */
export function numberChanged(
  channel: ChannelOf,
  index: number,
  change: NumberChange,
  frame: number,
  how: Keying,
): Patch[] {
  const { bounds, unit } = channel.definition.numbers[index]!
  const { shown, stored } = UNITS[unit]
  const changed = (value: number) => Math.min(bounds[1], Math.max(bounds[0], stored(applied(change, shown(value)))))
  if (channel.keys.length === 0 && channel.definition.isSetting) {
    return constantSet(
      channel,
      Array.from(channel.constant!, (value, i) => (i === index ? changed(value) : value)),
    )
  }
  return channelChanged(channel, frame, (values, out) => void (out[index] = changed(values[index]!)), how)
}

/** A shown number after a change. */
export function applied({ kind, by }: NumberChange, value: number): number {
  if (kind === 'set') return by
  return kind === 'add' ? value + by : value * by
}
