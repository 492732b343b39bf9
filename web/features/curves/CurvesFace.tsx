'use client'

import { channelOf, findObject, keyedChannels, type Part, type Shape, type Shot } from '@tender-lasso/core/document'
import { css, partColour, SHOT_COLOUR, useShot } from '../../store'
import styles from './curves.module.css'
import { KeyedCurves } from './KeyedCurves'
import { channelCurve, numbersOf, pointChannels, pointsCurve, type CurveChannel } from './keyedCurve'
import { TrackCurves } from './TrackCurves'

/** Curves over time of what is selected: a track's channels, or whatever of a Part or a shape can be keyed. */
export function CurvesFace() {
  const document = useShot((state) => state.shown)
  const { trackIds, partId, shapeIds, pointIds } = useShot((state) => state.selection)
  if (trackIds.length > 0) return <TrackCurves />
  const shape = findObject(document, 'shape', shapeIds.at(-1) ?? '')
  const part = findObject(document, 'part', shape?.partId ?? partId ?? '')
  const shot = findObject(document, 'shot', 'shot')
  if (!part) {
    if (!shot || keyedChannels(shot).length === 0) return <p className={styles.empty}>{NOTHING}</p>
    return <Curves object={shot} colour={SHOT_COLOUR} channels={numbersOf(shot)} curveOf={(one) => channelCurve(channelOf(shot, one.of), 'the shot', false, one)} /> // prettier-ignore
  }
  const colour = css(partColour(document, part))
  if (shape) {
    const curveOf = (one: CurveChannel) =>
      one.of === 'outline' ? pointsCurve(shape, pointIds, part.locked, one) : ofObject(shape, part.locked, one)
    return <Curves object={shape} colour={colour} channels={[...pointChannels(shape), ...numbersOf(shape)]} curveOf={curveOf} /> // prettier-ignore
  }
  const curveOf = (one: CurveChannel) => ofObject(part, part.locked, one)
  const isUsed = ({ of }: CurveChannel) => part.hasOwnShutter || !of.startsWith('shutter')
  return <Curves object={part} colour={colour} channels={numbersOf(part).filter(isUsed)} curveOf={curveOf} />
}

const NOTHING = 'Select a track, a Part or points of a shape: what they have is drawn here as curves.'

const ofObject = (object: Part | Shape, isLocked: boolean, one: CurveChannel) =>
  channelCurve(channelOf(object, one.of), object.name, isLocked, one)

interface CurvesProps {
  object: Part | Shape | Shot
  colour: string
  channels: readonly CurveChannel[]
  curveOf: Parameters<typeof KeyedCurves>[0]['curveOf']
}

function Curves({ object, colour, channels, curveOf }: CurvesProps) {
  const isKeyed = ({ of }: CurveChannel) => channelOf(object, of).keys.length > 0
  // Of a pose most is seen in its turn.
  const first =
    channels.find((one) => one.name === 'Rotation' && isKeyed(one)) ?? channels.find(isKeyed) ?? channels[0]!
  return <KeyedCurves key={object.id} channels={channels} first={first.name} curveOf={curveOf} colour={colour} />
}
