'use client'

import { useEffect, useRef, useState, type PointerEvent } from 'react'
import { Button } from 'antd'
import { isSameChannel } from '@tender-lasso/core/document'
import { goTo, preview, select, shotRange, useShot } from '../../store'
import { edit } from '../../session'
import { NumberField } from '../properties/NumberField'
import { CurveLayout } from './CurveLayout'
import { drawGround, frameAt, line, strokeRun, xOf, yOf, type CurveFrame } from './curvePlot'
import { placeOn, plotContext, usePlotSize } from './plotCanvas'
import { fittedFrame, heldAt, patchesOfHeld, shownRun, tangentEnds, type CurvePointer, type HeldKey } from './curveHandles' // prettier-ignore
import type { CurveChannel, KeyedCurve } from './keyedCurve'
import styles from './curves.module.css'

interface KeyedCurvesProps {
  channels: readonly CurveChannel[]
  /** The channel that is shown first. */
  first: string
  curveOf(channel: CurveChannel): KeyedCurve
  colour: string
}

/** A channel of something keyed over time: keys and their tangents are dragged, or typed. */
export function KeyedCurves({ channels, first, curveOf, colour }: KeyedCurvesProps) {
  const frame = useShot((state) => state.frame)
  const keys = useShot((state) => state.selection.keys)
  const [name, setName] = useState(first)
  const channel = channels.find((one) => one.name === name) ?? channels[0]!
  const canvas = useRef<HTMLCanvasElement>(null)
  const size = usePlotSize(canvas)
  const held = useRef<{ what: HeldKey; from: CurvePointer } | 'scrub' | null>(null)
  const curve = curveOf(channel)
  const chosen = keys.flatMap((key) => (isSameChannel(key, addressOf(curve)) ? [key.time] : []))

  useEffect(() => {
    if (size.width === 0) return
    // While something is dragged the scale stays, so that the curve goes with the hand.
    const now = held.current
    const scale = now && now !== 'scrub' ? now.what.scale : fittedFrame(curve, shotRange(), size)
    drawCurve(plotContext(canvas.current!, size), curve, scale, colour, frame, chosen)
  })

  const pointer = (event: PointerEvent<HTMLCanvasElement>): CurvePointer => ({
    ...placeOn(event),
    shift: event.shiftKey,
    alt: event.altKey,
  })
  const down = (event: PointerEvent<HTMLCanvasElement>) => {
    event.currentTarget.setPointerCapture(event.pointerId)
    const from = pointer(event)
    const scale = fittedFrame(curve, shotRange(), size)
    const what = curve.isLocked ? null : heldAt(curve, scale, chosen, from.x, from.y)
    held.current = what ? { what, from } : 'scrub'
    if (!what) goTo(frameAt(scale, from.x))
    else if (!chosen.includes(what.time)) {
      const own = { ...addressOf(curve), time: what.time }
      select({ keys: from.shift ? [...keys, own] : [own] })
    }
  }
  const move = (event: PointerEvent<HTMLCanvasElement>) => {
    const now = held.current
    const to = pointer(event)
    if (now === 'scrub') goTo(frameAt(fittedFrame(curve, shotRange(), size), to.x))
    else if (now) preview(patchesOfHeld(now.what, now.from, to))
  }
  const up = (event: PointerEvent<HTMLCanvasElement>) => {
    const now = held.current
    held.current = null
    if (!now || now === 'scrub') return
    const to = pointer(event)
    preview([])
    if (Math.hypot(to.x - now.from.x, to.y - now.from.y) < 2) return
    const patches = patchesOfHeld(now.what, now.from, to)
    if (!edit(now.what.kind === 'key' ? wordsOf(curve) : 'bend a curve', patches)) return
    const made = patches.find((patch) => patch.kind === 'key' && patch.after)
    if (now.what.kind === 'key' && made?.kind === 'key') select({ keys: [{ ...addressOf(curve), time: made.time }] })
  }
  return (
    <CurveLayout
      channels={channels}
      chosen={channel}
      onChoose={(one) => setName(one.name)}
      canvas={canvas}
      words="Curve of the channel: drag a key by frame and value, Shift keeps to one; drag the ends of its tangents, Alt moves one alone"
      down={down}
      move={move}
      up={up}
    >
      <KeyFields curve={curve} times={chosen} />
    </CurveLayout>
  )
}

const addressOf = ({ id, channelName }: KeyedCurve) => ({ id, channel: channelName })

const wordsOf = ({ channel, name }: KeyedCurve) => `${channel.name} of ${name}`

/** The chosen keys as numbers, and what becomes of their tangents. */
function KeyFields({ curve, times }: { curve: KeyedCurve; times: readonly number[] }) {
  const [first, last] = shotRange()
  const { channel, tangents } = curve
  const key = curve.keys.find((one) => one.time === times[0])
  if (!key) {
    const words = curve.keys.length ? 'Choose a key' : 'The same on all frames: its knot in Properties keys it'
    return <div className={styles.fields}>{words}</div>
  }
  const place = (to: { time: number; value: number }) => {
    if (edit(wordsOf(curve), curve.keyPlaced(key.time, to))) select({ keys: [{ ...addressOf(curve), time: to.time }] })
  }
  return (
    <div className={styles.fields}>
      <NumberField
        label="Frame of the key"
        value={key.time}
        min={first}
        max={last}
        step={1}
        onCommit={(time) => place({ time, value: key.value })}
      />
      <NumberField
        label={`${channel.name} at the key`}
        value={channel.shown(key.value)}
        min={-99999}
        max={99999}
        step={1}
        decimals={2}
        unit={channel.unit}
        onCommit={(shown) => place({ time: key.time, value: channel.stored(shown) })}
      />
      {tangents && (
        <>
          <Button
            size="small"
            title="The value rests at the chosen keys"
            onClick={() => edit('flatten a curve', tangents.flattened(times))}
          >
            Flatten
          </Button>
          <Button
            size="small"
            title="Tangents as the neighbouring keys make them"
            onClick={() => edit('smooth a curve', tangents.freed(times))}
          >
            Smooth
          </Button>
        </>
      )}
    </div>
  )
}

function drawCurve(
  context: CanvasRenderingContext2D,
  curve: KeyedCurve,
  scale: CurveFrame,
  colour: string,
  frame: number,
  chosen: readonly number[],
) {
  drawGround(context, scale, frame)
  context.strokeStyle = colour
  context.lineWidth = 1.4
  strokeRun(context, scale, shownRun(curve, [scale.first, scale.last]))
  context.lineWidth = 1
  for (const key of curve.keys) {
    const [x, y] = [xOf(scale, key.time), yOf(scale, curve.channel.shown(key.value))]
    const isChosen = chosen.includes(key.time)
    context.strokeStyle = isChosen ? '#ece9e2' : colour
    context.fillStyle = isChosen ? '#ece9e2' : '#202020'
    if (isChosen) {
      for (const end of tangentEnds(curve, key, scale)) {
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
