import { keyIndexBefore, valuesAt } from '../animation'
import { channelOf, type Channelled, type ChannelNameOf, type ChannelOf } from '../document'
import { shapePointsAt } from './shapePoints'

/**
 * Numbers of a channel at a time: between keys as they run on, outside them the nearest key's, without keys its constant.
 * Where two keys have other numbers of points the earlier one holds until the next.
 *
 * @returns null where there are neither keys nor a constant; shared, not to be written to
 */
export function channelValuesAt(channel: ChannelOf, time: number): Float64Array | null {
  const { object, keys, constant, definition } = channel
  if (object.kind === 'shape' && channel.channel === 'outline') return shapePointsAt(object, time)
  const index = keyIndexBefore(keys, time)
  if (keys.length === 0 || (index < 0 && definition.beforeFirst === 'constant')) {
    return constant && Float64Array.from(constant)
  }
  const [from, to] = [keys[Math.max(0, index)]!, keys[Math.max(0, index) + 1]]
  if (to && to.values.length !== from.values.length) return from.values
  const values = valuesAt(keys, time, new Float64Array(from.values.length))
  return definition.isPerPoint ? values : bounded(channel, values)
}

/** The way between two keys may lead beyond what a number may be. */
function bounded({ definition }: ChannelOf, values: Float64Array): Float64Array {
  for (const [i, { bounds }] of definition.numbers.entries()) {
    values[i] = Math.min(bounds[1], Math.max(bounds[0], values[i]!))
  }
  return values
}

type SingleOf<Kind> = Kind extends 'shape' ? Exclude<ChannelNameOf<'shape'>, 'outline'> : Kind extends 'part' ? Exclude<ChannelNameOf<'part'>, 'pose' | 'pivot'> : Kind extends 'shot' ? ChannelNameOf<'shot'> : never // prettier-ignore

/** The number of a channel that has just one, at a time. */
export function numberAt<Object extends Channelled>(
  object: Object,
  name: SingleOf<Object['kind']>,
  time: number,
): number {
  return channelValuesAt(channelOf(object, name), time)![0]!
}
