import { poseAt } from '@tender-lasso/core/evaluation'
import {
  poseFlattened,
  poseKeyPlaced,
  poseTangentSet,
  poseTangentsFreed,
  pointsKeyPlaced,
  pointsMeanAt,
  pointsMeanAtKeys,
  tangentsOf,
  type TangentEnd,
} from '@tender-lasso/core/edits'
import { POINT, type Part, type Patch, type Shape } from '@tender-lasso/core/document'
import { TANGENT_STRIDE } from '@tender-lasso/core/animation'
import { TRACK_CHANNELS } from './channels'

/** A number over time as artists read it: from what is stored, and back. */
export interface CurveChannel {
  name: string
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
  /** Of what holds the keys. */
  id: string
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

/** A pose has no skew and no perspective. */
export const POSE_CHANNELS: readonly CurveChannel[] = TRACK_CHANNELS.slice(0, 5)

export function poseCurve(part: Part, channel: CurveChannel): KeyedCurve {
  const { index } = channel
  return {
    id: part.id,
    name: part.name,
    isLocked: part.locked,
    channel,
    keys: part.keys.map((key) => ({
      time: key.time,
      value: key.values[index]!,
      isSmooth: key.interpolation === 'smooth',
    })),
    valueAt: (time) => poseAt(part, time)[index]!,
    keyPlaced: (time, to) => poseKeyPlaced(part, time, index, to),
    tangents: {
      of: (time) => {
        const key = part.keys.find((one) => one.time === time)!
        return tangentsOf(part, key, index).subarray(index * TANGENT_STRIDE, (index + 1) * TANGENT_STRIDE)
      },
      set: (time, end, way, isAlone) => poseTangentSet(part, time, index, end, way, isAlone),
      flattened: (times) => poseFlattened(part, times, index),
      freed: (times) => poseTangentsFreed(part, times, index),
    },
  }
}

const same = (value: number) => value
const PIXELS = { unit: 'px', shown: same, stored: same }
const POINT_CHANNELS: readonly CurveChannel[] = [
  { name: 'x', index: POINT.x, ...PIXELS },
  { name: 'y', index: POINT.y, ...PIXELS },
  { name: 'Tension', index: POINT.tension, unit: '%', shown: (v) => 100 * v, stored: (v) => v / 100 },
  { name: 'Width', index: POINT.width, ...PIXELS },
]

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
