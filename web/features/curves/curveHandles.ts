import type { Patch } from '@tender-lasso/core/document'
import type { TangentEnd } from '@tender-lasso/core/edits'
import { frameRound, timeAt, valueAt, xOf, yOf, type CurveFrame } from './curvePlot'
import type { CurveKey, KeyedCurve } from './keyedCurve'

const GRAB = 7
/** Steps a frame at which the curve is drawn. */
const STEPS = 4

/** What of a curve is held. */
export type HeldKey =
  | { kind: 'key'; time: number; curve: KeyedCurve; scale: CurveFrame }
  | { kind: 'tangent'; time: number; end: TangentEnd; curve: KeyedCurve; scale: CurveFrame }

/** The curve as it is drawn: shown values over time. */
export function shownRun({ channel, ...curve }: KeyedCurve, [first, last]: readonly [number, number]) {
  const count = (last - first) * STEPS
  return Array.from({ length: count + 1 }, (_, i) => {
    const frame = first + i / STEPS
    return { frame, value: channel.shown(curve.valueAt(frame)) }
  })
}

/** What shows the whole curve with its keys. */
export function fittedFrame(
  curve: KeyedCurve,
  range: readonly [number, number],
  size: { width: number; height: number },
): CurveFrame {
  const run = shownRun(curve, range).map(({ value }) => value)
  return frameRound([...run, ...curve.keys.map(({ value }) => curve.channel.shown(value))], range, size)
}

/** Ends of a key's tangents that lead into a smooth stretch, on the screen. */
export function tangentEnds({ keys, channel, tangents }: KeyedCurve, key: CurveKey, scale: CurveFrame) {
  const ends: { end: TangentEnd; x: number; y: number }[] = []
  if (!tangents) return ends
  const ways = tangents.of(key.time)
  const i = keys.findIndex(({ time }) => time === key.time)
  const place = (end: TangentEnd, at: number) =>
    ends.push({
      end,
      x: xOf(scale, key.time + ways[at]!),
      y: yOf(scale, channel.shown(key.value + ways[at + 1]!)),
    })
  if (keys[i - 1]?.isSmooth) place('in', 0)
  if (i < keys.length - 1 && key.isSmooth) place('out', 2)
  return ends
}

/** The key or the tangent of a chosen key under the pointer. */
export function heldAt(
  curve: KeyedCurve,
  scale: CurveFrame,
  chosen: readonly number[],
  x: number,
  y: number,
): HeldKey | null {
  for (const key of curve.keys) {
    const [kx, ky] = [xOf(scale, key.time), yOf(scale, curve.channel.shown(key.value))]
    if (Math.hypot(kx - x, ky - y) <= GRAB) return { kind: 'key', time: key.time, curve, scale }
    if (!chosen.includes(key.time)) continue
    const end = tangentEnds(curve, key, scale).find((one) => Math.hypot(one.x - x, one.y - y) <= GRAB)
    if (end) return { kind: 'tangent', time: key.time, end: end.end, curve, scale }
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
export function patchesOfHeld(held: HeldKey, from: CurvePointer, to: CurvePointer): Patch[] {
  const { curve, scale, time } = held
  const key = curve.keys.find((one) => one.time === time)
  if (!key) return []
  const value = curve.channel.stored(valueAt(scale, to.y))
  if (held.kind === 'tangent') {
    const way = { frames: timeAt(scale, to.x) - time, value: value - key.value }
    return curve.tangents?.set(time, held.end, way, to.alt) ?? []
  }
  const isAcross = Math.abs(to.x - from.x) > Math.abs(to.y - from.y)
  const staysValue = to.shift && isAcross
  const staysTime = (to.shift && !isAcross) || Math.abs(to.x - from.x) < 3
  return curve.keyPlaced(time, {
    time: staysTime ? time : timeAt(scale, to.x),
    value: staysValue ? key.value : value,
  })
}
