import {
  poseAt,
  poseKeyPlaced,
  poseTangentSet,
  tangentsOf,
  type Key,
  type Part,
  type Patch,
  type TangentEnd,
} from '@tender-lasso/core/document'
import { TANGENT_STRIDE } from '@tender-lasso/core/animation'
import type { TrackChannel } from './channels'
import { frameRound, timeAt, valueAt, xOf, yOf, type CurveFrame } from './curvePlot'

const GRAB = 7
/** Steps a frame at which the curve is drawn. */
const STEPS = 4

/** What of a pose's curve is held. */
export type HeldKey =
  | { kind: 'key'; time: number; part: Part; scale: CurveFrame }
  | { kind: 'tangent'; time: number; end: TangentEnd; part: Part; scale: CurveFrame }

/** The curve as it is drawn: shown values over time. */
export function poseCurve(part: Part, channel: TrackChannel, [first, last]: readonly [number, number]) {
  const count = (last - first) * STEPS
  return Array.from({ length: count + 1 }, (_, i) => {
    const frame = first + i / STEPS
    return { frame, value: channel.shown(poseAt(part, frame)[channel.index]!) }
  })
}

export function poseFrame(
  part: Part,
  channel: TrackChannel,
  range: readonly [number, number],
  size: { width: number; height: number },
): CurveFrame {
  const curve = poseCurve(part, channel, range).map(({ value }) => value)
  return frameRound([...curve, ...part.keys.map((key) => channel.shown(key.values[channel.index]!))], range, size)
}

/** Ends of a key's tangents that lead into a smooth stretch, on the screen. */
export function tangentEnds(part: Part, key: Key, channel: TrackChannel, scale: CurveFrame) {
  const tangents = tangentsOf(part, key, channel.index)
  const at = channel.index * TANGENT_STRIDE
  const i = part.keys.indexOf(key)
  const isSmooth = (one: Key | undefined) => one?.interpolation === 'smooth'
  const ends: { end: TangentEnd; x: number; y: number }[] = []
  const place = (end: TangentEnd, offset: number) => {
    const time = key.time + tangents[at + offset]!
    const value = key.values[channel.index]! + tangents[at + offset + 1]!
    ends.push({ end, x: xOf(scale, time), y: yOf(scale, channel.shown(value)) })
  }
  if (i > 0 && isSmooth(part.keys[i - 1])) place('in', 0)
  if (i < part.keys.length - 1 && isSmooth(key)) place('out', 2)
  return ends
}

/** The key or the tangent of a chosen key under the pointer. */
export function heldAt(
  part: Part,
  channel: TrackChannel,
  scale: CurveFrame,
  chosen: readonly number[],
  x: number,
  y: number,
): HeldKey | null {
  for (const key of part.keys) {
    const [kx, ky] = [xOf(scale, key.time), yOf(scale, channel.shown(key.values[channel.index]!))]
    if (Math.hypot(kx - x, ky - y) <= GRAB) return { kind: 'key', time: key.time, part, scale }
    if (!chosen.includes(key.time)) continue
    const end = tangentEnds(part, key, channel, scale).find((one) => Math.hypot(one.x - x, one.y - y) <= GRAB)
    if (end) return { kind: 'tangent', time: key.time, end: end.end, part, scale }
  }
  return null
}

export interface CurvePointer {
  x: number
  y: number
  /** Up and down only, or to and fro only, whichever is farther. */
  shift: boolean
  alt: boolean
}

/** What dragging makes of the curve: a key goes by frame and value; a tangent turns the other one along, unless with Alt. */
export function patchesOfHeld(held: HeldKey, channel: TrackChannel, from: CurvePointer, to: CurvePointer): Patch[] {
  const { part, scale, time } = held
  const key = part.keys.find((one) => one.time === time)
  if (!key) return []
  const value = channel.stored(valueAt(scale, to.y))
  if (held.kind === 'tangent') {
    const way = { frames: timeAt(scale, to.x) - time, value: value - key.values[channel.index]! }
    return poseTangentSet(part, time, channel.index, held.end, way, to.alt)
  }
  const isAcross = Math.abs(to.x - from.x) > Math.abs(to.y - from.y)
  const staysValue = to.shift && isAcross
  const staysTime = (to.shift && !isAcross) || Math.abs(to.x - from.x) < 3
  return poseKeyPlaced(part, time, channel.index, {
    time: staysTime ? time : timeAt(scale, to.x),
    value: staysValue ? key.values[channel.index]! : value,
  })
}
