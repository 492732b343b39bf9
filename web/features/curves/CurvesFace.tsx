'use client'

import { channelOf, find, type Part, type RotoDocument, type Shape } from '@tender-lasso/core/document'
import { css, partColour } from '../../state/colours'
import { useShot } from '../../state/shotStore'
import styles from './curves.module.css'
import { KeyedCurves } from './KeyedCurves'
import { channelCurve, numbersOf, pointChannels, pointsCurve, type CurveChannel } from './keyedCurve'
import { TrackCurves } from './TrackCurves'

/** Curves over time of what is selected: a track's channels, or whatever of a Part or a shape can be keyed. */
export function CurvesFace() {
  const document = useShot((state) => state.shown)
  const { trackIds, partId, shapeIds, pointIds } = useShot((state) => state.selection)
  if (trackIds.length > 0) return <TrackCurves />
  const shape = find(document, 'shape', shapeIds.at(-1) ?? '')
  const part = find(document, 'part', shape?.partId ?? partId ?? '')
  if (!part) return <p className={styles.empty}>{NOTHING}</p>
  if (shape) {
    const curveOf = (one: CurveChannel) =>
      one.of === 'outline' ? pointsCurve(shape, pointIds, part.locked, one) : ofObject(shape, part.locked, one)
    return <Curves document={document} object={shape} part={part} channels={[...pointChannels(shape), ...numbersOf(shape)]} curveOf={curveOf} /> // prettier-ignore
  }
  const curveOf = (one: CurveChannel) => ofObject(part, part.locked, one)
  return <Curves document={document} object={part} part={part} channels={numbersOf(part)} curveOf={curveOf} />
}

const NOTHING = 'Select a track, a Part or points of a shape: what they have is drawn here as curves.'

const ofObject = (object: Part | Shape, isLocked: boolean, one: CurveChannel) =>
  channelCurve(channelOf(object, one.of), object.name, isLocked, one)

interface CurvesProps {
  document: RotoDocument
  object: Part | Shape
  part: Part
  channels: readonly CurveChannel[]
  curveOf: Parameters<typeof KeyedCurves>[0]['curveOf']
}

function Curves({ document, object, part, channels, curveOf }: CurvesProps) {
  const isKeyed = ({ of }: CurveChannel) => channelOf(object, of).keys.length > 0
  // Of a pose most is seen in its turn.
  const first =
    channels.find((one) => one.name === 'Rotation' && isKeyed(one)) ?? channels.find(isKeyed) ?? channels[0]!
  return (
    <KeyedCurves
      key={object.id}
      channels={channels}
      first={first.name}
      curveOf={curveOf}
      colour={css(partColour(document, part))}
    />
  )
}
