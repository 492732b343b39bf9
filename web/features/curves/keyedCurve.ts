import { channelValuesAt } from '@tender-lasso/core/evaluation'
import {
  keyPlaced,
  pointsKeyPlaced,
  pointsMeanAt,
  pointsMeanAtKeys,
  tangentSet,
  tangentsFlattened,
  tangentsFreed,
  tangentsOf,
  type TangentEnd,
} from '@tender-lasso/core/edits'
import {
  CHANNELS,
  firstChannel,
  POINT,
  UNITS,
  type ChannelDefinition,
  type ChannelNumber,
  type Channelled,
  type ChannelOf,
  type Patch,
  type Shape,
} from '@tender-lasso/core/document'
import { TANGENT_STRIDE } from '@tender-lasso/core/animation'

/** A number over time as artists read it: from what is stored, and back. */
export interface CurveChannel {
  name: string
  /** Name of the channel in the registry. */
  of: string
  index: number
  unit: string
  shown(stored: number): number
  stored(shown: number): number
}

export interface CurveKey {
  time: number
  value: number
  /** The stretch after it is smooth. */
  isSmooth: boolean
}

/** One number of something keyed, over time; values as they are stored. */
export interface KeyedCurve {
  /** Of what holds the keys, and in which of its channels. */
  id: string
  channelName: string
  name: string
  isLocked: boolean
  channel: CurveChannel
  keys: readonly CurveKey[]
  valueAt(time: number): number
  keyPlaced(time: number, to: { time: number; value: number }): Patch[]
  /** null: how the keys run on is all there is between them. */
  tangents: KeyedTangents | null
}

export interface KeyedTangents {
  /** Ways in frames and value of the arriving tangent, then of the leaving one. */
  of(time: number): ArrayLike<number>
  set(time: number, end: TangentEnd, way: { frames: number; value: number }, isAlone: boolean): Patch[]
  flattened(times: readonly number[]): Patch[]
  freed(times: readonly number[]): Patch[]
}

/** One number of a channel. */
export function channelCurve(channel: ChannelOf, name: string, isLocked: boolean, shown: CurveChannel): KeyedCurve {
  const { index } = shown
  return {
    id: channel.id,
    channelName: channel.channel,
    name,
    isLocked,
    channel: shown,
    keys: channel.keys.map((key) => ({
      time: key.time,
      value: key.values[index]!,
      isSmooth: key.interpolation === 'smooth',
    })),
    valueAt: (time) => channelValuesAt(channel, time)?.[index] ?? 0,
    keyPlaced: (time, to) => keyPlaced(channel, time, index, to),
    tangents: {
      of: (time) => {
        const key = channel.keys.find((one) => one.time === time)!
        return tangentsOf(channel, key, index).subarray(index * TANGENT_STRIDE, (index + 1) * TANGENT_STRIDE)
      },
      set: (time, end, way, isAlone) => tangentSet(channel, time, index, end, way, isAlone),
      flattened: (times) => tangentsFlattened(channel, times, index),
      freed: (times) => tangentsFreed(channel, times, index),
    },
  }
}

function curveChannel(of: string, index: number, { label, unit }: ChannelNumber, name = label): CurveChannel {
  const { sign, shown, stored } = UNITS[unit]
  return { name, of, index, unit: sign, shown, stored }
}

/** The numbers of an object's channels as curves: those of its outline's points are {@link pointChannels}. */
export function numbersOf(object: Channelled): CurveChannel[] {
  const ofKind: Record<string, ChannelDefinition> = CHANNELS[object.kind]
  return Object.entries(ofKind)
    .filter(([name, definition]) => !definition.isPerPoint && (definition.isSetting || object.channels[name]))
    .flatMap(([of, { label, numbers }]) =>
      numbers.map((one, index) => {
        const isBeside = numbers.length > 1 && of !== firstChannel(object.kind)
        return curveChannel(of, index, one, isBeside ? `${label} ${one.label}` : one.label)
      }),
    )
}

const POINT_CHANNELS: readonly CurveChannel[] = [POINT.x, POINT.y, POINT.tension, POINT.width].map((index) =>
  curveChannel('outline', index, CHANNELS.shape.outline.numbers[index]!),
)

/** What points of a shape have: tension those of a B-spline, width those of a stroke. */
export const pointChannels = (shape: Pick<Shape, 'curve' | 'isClosed'>): CurveChannel[] =>
  POINT_CHANNELS.filter(
    ({ index }) => (index !== POINT.tension || shape.curve === 'bspline') && (index !== POINT.width || !shape.isClosed),
  )

/** The mean of some points of a shape, in the space it is stored in; no points: of all. */
export function pointsCurve(
  shape: Shape,
  pointIds: ReadonlySet<string>,
  isLocked: boolean,
  channel: CurveChannel,
): KeyedCurve {
  const { index } = channel
  return {
    id: shape.id,
    channelName: 'outline',
    name: shape.name,
    isLocked,
    channel,
    keys: pointsMeanAtKeys(shape, pointIds, index).map(({ key, value }) => ({
      time: key.time,
      value,
      isSmooth: key.interpolation === 'smooth',
    })),
    valueAt: (time) => pointsMeanAt(shape, pointIds, index, time),
    keyPlaced: (time, to) => pointsKeyPlaced(shape, pointIds, index, time, to),
    tangents: null,
  }
}
