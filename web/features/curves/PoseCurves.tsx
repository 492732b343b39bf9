'use client'

import { useEffect, useRef, useState, type PointerEvent } from 'react'
import { Button } from 'antd'
import { poseFlattened, poseKeyPlaced, poseTangentsFreed, type Part } from '@tender-lasso/core/document'
import { css, partColour } from '../../state/colours'
import { edit, goTo, preview, select, shotRange, useShot } from '../../state/shotStore'
import { NumberField } from '../properties/NumberField'
import { ChannelChoice } from './ChannelChoice'
import { TRACK_CHANNELS, type TrackChannel } from './channels'
import { drawGround, frameAt, line, strokeRun, xOf, yOf, type CurveFrame } from './curvePlot'
import { placeOn, plotContext, usePlotSize } from './plotCanvas'
import { heldAt, patchesOfHeld, poseCurve, poseFrame, tangentEnds, type CurvePointer, type HeldKey } from './poseCurveHandles' // prettier-ignore
import styles from './curves.module.css'

/** A pose has no skew and no perspective. */
const POSE_CHANNELS: readonly TrackChannel[] = TRACK_CHANNELS.slice(0, 5)

/** A channel of a Part's pose over time: keys and their tangents are dragged, or typed. */
export function PoseCurves({ part }: { part: Part }) {
  const frame = useShot((state) => state.frame)
  const keys = useShot((state) => state.selection.keys)
  const colour = useShot((state) => css(partColour(state.shown, part)))
  const [channel, setChannel] = useState<TrackChannel>(POSE_CHANNELS[2]!)
  const canvas = useRef<HTMLCanvasElement>(null)
  const size = usePlotSize(canvas)
  const held = useRef<{ what: HeldKey; from: CurvePointer } | 'scrub' | null>(null)
  const chosen = keys.flatMap(({ id, time }) => (id === part.id ? [time] : []))

  useEffect(() => {
    if (size.width === 0) return
    // While something is dragged the scale stays, so that the curve goes with the hand.
    const now = held.current
    const scale = now && now !== 'scrub' ? now.what.scale : poseFrame(part, channel, shotRange(), size)
    drawPose(plotContext(canvas.current!, size), part, channel, scale, colour, frame, chosen)
  })

  const pointer = (event: PointerEvent<HTMLCanvasElement>): CurvePointer => ({
    ...placeOn(event),
    shift: event.shiftKey,
    alt: event.altKey,
  })
  const down = (event: PointerEvent<HTMLCanvasElement>) => {
    event.currentTarget.setPointerCapture(event.pointerId)
    const from = pointer(event)
    const scale = poseFrame(part, channel, shotRange(), size)
    const what = part.locked ? null : heldAt(part, channel, scale, chosen, from.x, from.y)
    held.current = what ? { what, from } : 'scrub'
    if (!what) goTo(frameAt(scale, from.x))
    else if (!chosen.includes(what.time)) {
      const own = { id: part.id, time: what.time }
      select({ keys: from.shift ? [...keys, own] : [own] })
    }
  }
  const move = (event: PointerEvent<HTMLCanvasElement>) => {
    const now = held.current
    const to = pointer(event)
    if (now === 'scrub') goTo(frameAt(poseFrame(part, channel, shotRange(), size), to.x))
    else if (now) preview(patchesOfHeld(now.what, channel, now.from, to))
  }
  const up = (event: PointerEvent<HTMLCanvasElement>) => {
    const now = held.current
    held.current = null
    if (!now || now === 'scrub') return
    const to = pointer(event)
    preview([])
    if (Math.hypot(to.x - now.from.x, to.y - now.from.y) < 2) return
    const patches = patchesOfHeld(now.what, channel, now.from, to)
    if (!edit(now.what.kind === 'key' ? `${channel.name} of ${part.name}` : 'bend a curve', patches)) return
    const made = patches.find((patch) => patch.kind === 'key' && patch.after)
    if (now.what.kind === 'key' && made?.kind === 'key') select({ keys: [{ id: part.id, time: made.time }] })
  }
  return (
    <div className={styles.face}>
      <ChannelChoice channels={POSE_CHANNELS} chosen={channel} onChoose={setChannel} />
      <div className={styles.plot}>
        <canvas
          ref={canvas}
          data-testid="curves"
          aria-label="Curve of the channel: drag a key by frame and value, Shift keeps to one; drag the ends of its tangents, Alt moves one alone"
          onPointerDown={down}
          onPointerMove={move}
          onPointerUp={up}
        />
      </div>
      <KeyFields part={part} channel={channel} times={chosen} />
    </div>
  )
}

/** The chosen keys as numbers, and what becomes of their tangents. */
function KeyFields({ part, channel, times }: { part: Part; channel: TrackChannel; times: readonly number[] }) {
  const [first, last] = shotRange()
  const key = part.keys.find((one) => one.time === times[0])
  if (!key) return <div className={styles.fields}>Choose a key</div>
  const place = (to: { time: number; value: number }) => {
    if (edit(`${channel.name} of ${part.name}`, poseKeyPlaced(part, key.time, channel.index, to)))
      select({ keys: [{ id: part.id, time: to.time }] })
  }
  const value = key.values[channel.index]!
  return (
    <div className={styles.fields}>
      <NumberField
        label="Frame of the key"
        value={key.time}
        min={first}
        max={last}
        step={1}
        onCommit={(time) => place({ time, value })}
      />
      <NumberField
        label={`${channel.name} at the key`}
        value={channel.shown(value)}
        min={-99999}
        max={99999}
        step={1}
        decimals={2}
        unit={channel.unit}
        onCommit={(shown) => place({ time: key.time, value: channel.stored(shown) })}
      />
      <Button
        size="small"
        title="The value rests at the chosen keys"
        onClick={() => edit('flatten a curve', poseFlattened(part, times, channel.index))}
      >
        Flatten
      </Button>
      <Button
        size="small"
        title="Tangents as the neighbouring keys make them"
        onClick={() => edit('smooth a curve', poseTangentsFreed(part, times, channel.index))}
      >
        Smooth
      </Button>
    </div>
  )
}

function drawPose(
  context: CanvasRenderingContext2D,
  part: Part,
  channel: TrackChannel,
  scale: CurveFrame,
  colour: string,
  frame: number,
  chosen: readonly number[],
) {
  drawGround(context, scale, frame)
  context.strokeStyle = colour
  context.lineWidth = 1.4
  strokeRun(context, scale, poseCurve(part, channel, [scale.first, scale.last]))
  context.lineWidth = 1
  for (const key of part.keys) {
    const [x, y] = [xOf(scale, key.time), yOf(scale, channel.shown(key.values[channel.index]!))]
    const isChosen = chosen.includes(key.time)
    context.strokeStyle = isChosen ? '#ece9e2' : colour
    context.fillStyle = isChosen ? '#ece9e2' : '#202020'
    if (isChosen) {
      for (const end of tangentEnds(part, key, channel, scale)) {
        line(context, x, y, end.x, end.y)
        context.beginPath()
        context.rect(end.x - 3, end.y - 3, 6, 6)
        context.fillStyle = '#202020'
        context.fill()
        context.stroke()
        context.fillStyle = '#ece9e2'
      }
    }
    context.beginPath()
    context.arc(x, y, 4, 0, 2 * Math.PI)
    context.fill()
    context.stroke()
  }
}
