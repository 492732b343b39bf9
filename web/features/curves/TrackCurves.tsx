'use client'

import { useEffect, useRef, useState, type PointerEvent } from 'react'
import { bridgeChanged, keyPlaced, samplePlaced } from '@tender-lasso/core/edits'
import { findObject, type Bridge, type Key, type Patch, type Track, channelOf } from '@tender-lasso/core/document'
import { frameState, motionSamplesOf, rawSamplesOf } from '@tender-lasso/core/evaluation'
import { homographyOf } from '@tender-lasso/core/geometry'
import { channelsAt, sampledMatrix } from '@tender-lasso/core/motion'
import { css, goTo, mainTrackId, preview, shotRange, useShot, trackColour } from '../../store'
import { edit } from '../../session'
import { CurveLayout } from './CurveLayout'
import { drawGround, frameAt, frameRound, line, strokeRun, valueAt, xOf, yOf, type CurveFrame } from './curvePlot'
import { placeOn, plotContext, usePlotSize } from './plotCanvas'
import { channelCurve, TRACK_CHANNELS, type TrackChannel } from './channels'
import styles from './curves.module.css'

const GRAB = 6

type Held =
  | { kind: 'scrub' }
  | { kind: 'sample'; frame: number; track: Track; scale: CurveFrame }
  | { kind: 'offset'; key: Key; axis: 'x' | 'y'; track: Track; scale: CurveFrame }
  | { kind: 'tangent'; bridge: Bridge; end: 'leaving' | 'arriving'; track: Track; scale: CurveFrame }

/** A channel of the selected track over time: Bridge tangents and frames can be dragged up and down. */
export function TrackCurves() {
  const trackId = useShot((state) => mainTrackId(state.selection))
  const track = useShot((state) => (trackId ? findObject(state.shown, 'track', trackId) : undefined))
  const colour = useShot((state) => (track ? css(trackColour(state.shown, track)) : ''))
  const frame = useShot((state) => state.frame)
  const [channel, setChannel] = useState<TrackChannel>(TRACK_CHANNELS[0])
  const canvas = useRef<HTMLCanvasElement>(null)
  const held = useRef<Held | null>(null)
  const size = usePlotSize(canvas, trackId)

  useEffect(() => {
    const element = canvas.current
    if (!element || !track || size.width === 0) return
    // While something is dragged the scale stays, so that the curve goes with the hand.
    const scale = held.current && held.current.kind !== 'scrub' ? held.current.scale : frameOf(track, channel, size)
    drawCurves(plotContext(element, size), track, channel, scale, colour, frame)
  }, [track, channel, size, colour, frame])

  if (!track) return <p className={styles.empty}>Select a track: its channels are drawn here as curves.</p>

  const down = (event: PointerEvent<HTMLCanvasElement>) => {
    event.currentTarget.setPointerCapture(event.pointerId)
    const { x, y } = placeOn(event)
    const scale = frameOf(track, channel, size)
    held.current = grabbed(track, channel, scale, x, y) ?? { kind: 'scrub' }
    if (held.current.kind === 'scrub') goTo(frameAt(scale, x))
  }
  const move = (event: PointerEvent<HTMLCanvasElement>) => {
    if (!held.current) return
    const { x, y } = placeOn(event)
    if (held.current.kind === 'scrub') goTo(frameAt(frameOf(track, channel, size), x))
    else preview(patchesFor(held.current, channel, y))
  }
  const up = (event: PointerEvent<HTMLCanvasElement>) => {
    const now = held.current
    held.current = null
    if (!now || now.kind === 'scrub') return
    const { y } = placeOn(event)
    preview([])
    edit(labelOf(now), patchesFor(now, channel, y))
  }
  return (
    <CurveLayout
      channels={TRACK_CHANNELS}
      chosen={channel}
      onChoose={setChannel}
      canvas={canvas}
      words="Curve of the channel: drag a frame, a key of the Offset or a Bridge's tangent up and down"
      down={down}
      move={move}
      up={up}
    />
  )
}

function labelOf(held: Exclude<Held, { kind: 'scrub' }>): string {
  if (held.kind === 'sample') return `place ${held.track.name} on ${held.frame}`
  return held.kind === 'offset' ? `offset ${held.track.name} on ${held.key.time}` : 'bend a Bridge'
}

function frameOf(track: Track, channel: TrackChannel, size: { width: number; height: number }): CurveFrame {
  const values = channelCurve(motionSamplesOf(track), channel).flatMap((run) => run.map((point) => point.value))
  return frameRound(values, shotRange(), size)
}

/** Value of a channel on a frame as it is stored, not as it is shown. */
function storedOn(track: Track, channel: TrackChannel, frame: number): number | null {
  const raw = rawSamplesOf(track)
  return sampledMatrix(raw, frame) ? channelsAt(raw, frame)[channel.index]! : null
}

/** Which part of the Offset a channel shows. */
const offsetAxis = (channel: TrackChannel) => (channel.name === 'x' || channel.name === 'y' ? channel.name : null)

/** Keys of the Offset on the reported curve. */
function offsetKeysOn(track: Track, channel: TrackChannel) {
  const axis = offsetAxis(channel)
  const reported = motionSamplesOf(track)
  if (!axis) return []
  return channelOf(track, 'offset').keys.flatMap((key) =>
    sampledMatrix(reported, key.time)
      ? [{ key, axis, value: channel.shown(channelsAt(reported, key.time)[channel.index]!) }]
      : [],
  )
}

/** Ends of the two tangents of a Bridge, a third of its length away from its ends. */
function tangentEnd(track: Track, channel: TrackChannel, bridge: Bridge, end: 'leaving' | 'arriving') {
  const at = end === 'leaving' ? bridge.from : bridge.to
  const way = (end === 'leaving' ? 1 : -1) * ((bridge.to - bridge.from) / 3)
  const value = storedOn(track, channel, at)
  return value === null ? null : { at, frame: at + way, value, end: value + way * bridge[end][channel.index]! }
}

function grabbed(track: Track, channel: TrackChannel, scale: CurveFrame, x: number, y: number): Held | null {
  if (track.locked) return null
  for (const bridge of track.bridges) {
    for (const end of ['leaving', 'arriving'] as const) {
      const tangent = tangentEnd(track, channel, bridge, end)
      if (!tangent) continue
      const [px, py] = [xOf(scale, tangent.frame), yOf(scale, channel.shown(tangent.end))]
      if (Math.hypot(px - x, py - y) <= GRAB) return { kind: 'tangent', bridge, end, track, scale }
    }
  }
  for (const { key, axis, value } of offsetKeysOn(track, channel)) {
    if (Math.hypot(xOf(scale, key.time) - x, yOf(scale, value) - y) <= GRAB) {
      return { kind: 'offset', key, axis, track, scale }
    }
  }
  const frame = frameAt(scale, x)
  const stored = storedOn(track, channel, frame)
  if (stored === null || Math.abs(yOf(scale, channel.shown(stored)) - y) > GRAB) return null
  return { kind: 'sample', frame, track, scale }
}

function patchesFor(held: Exclude<Held, { kind: 'scrub' }>, channel: TrackChannel, y: number): Patch[] {
  const { track, scale } = held
  const value = channel.stored(valueAt(scale, y))
  if (held.kind === 'sample') {
    const channels = channelsAt(rawSamplesOf(track), held.frame)
    channels[channel.index] = value
    return samplePlaced(track, held.frame, homographyOf(channels, track.pivot[0], track.pivot[1], track.pixelAspect))
  }
  if (held.kind === 'offset') {
    // Before smoothing: what the key adds to the followed place.
    const { time } = held.key
    const followed = storedOn(track, channel, time)
    const to = { time, value: value - (followed ?? 0) }
    return followed === null ? [] : keyPlaced(channelOf(track, 'offset'), time, held.axis === 'x' ? 0 : 1, to)
  }
  const at = held.end === 'leaving' ? held.bridge.from : held.bridge.to
  const start = storedOn(track, channel, at)!
  const way = (held.end === 'leaving' ? 1 : -1) * ((held.bridge.to - held.bridge.from) / 3)
  const slopes = held.bridge[held.end].slice()
  slopes[channel.index] = (value - start) / way
  return bridgeChanged(track, held.bridge, { [held.end]: slopes })
}

function drawCurves(
  context: CanvasRenderingContext2D,
  track: Track,
  channel: TrackChannel,
  scale: CurveFrame,
  colour: string,
  frame: number,
) {
  drawGround(context, scale, frame)
  const raw = rawSamplesOf(track)
  const reported = motionSamplesOf(track)
  if (raw !== reported) {
    context.strokeStyle = '#6f6d69'
    context.setLineDash([2, 3])
    for (const run of channelCurve(raw, channel)) strokeRun(context, scale, run)
    context.setLineDash([])
  }
  context.strokeStyle = colour
  context.lineWidth = 1.4
  for (const run of channelCurve(reported, channel)) strokeRun(context, scale, run)
  context.lineWidth = 1
  for (const { frame: at, value } of channelCurve(raw, channel).flat()) {
    const isPlaced = frameState(track, at) === 'placed'
    context.beginPath()
    context.arc(xOf(scale, at), yOf(scale, value), isPlaced ? 3 : 1.4, 0, 2 * Math.PI)
    context.fillStyle = colour
    if (isPlaced) context.stroke()
    else context.fill()
  }
  context.strokeStyle = '#ece9e2'
  context.fillStyle = '#202020'
  for (const { key, value } of offsetKeysOn(track, channel)) {
    const [x, y] = [xOf(scale, key.time), yOf(scale, value)]
    context.beginPath()
    context.moveTo(x, y - 4.5)
    context.lineTo(x + 4.5, y)
    context.lineTo(x, y + 4.5)
    context.lineTo(x - 4.5, y)
    context.closePath()
    context.fill()
    context.stroke()
  }
  for (const bridge of track.bridges) {
    for (const end of ['leaving', 'arriving'] as const) {
      const tangent = tangentEnd(track, channel, bridge, end)
      if (!tangent) continue
      const [ax, ay] = [xOf(scale, tangent.at), yOf(scale, channel.shown(tangent.value))]
      const [bx, by] = [xOf(scale, tangent.frame), yOf(scale, channel.shown(tangent.end))]
      line(context, ax, ay, bx, by)
      context.beginPath()
      context.rect(bx - 3, by - 3, 6, 6)
      context.fill()
      context.stroke()
    }
  }
}
