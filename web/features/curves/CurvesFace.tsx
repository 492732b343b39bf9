'use client'

import { find } from '@tender-lasso/core/document'
import { css, partColour } from '../../state/colours'
import { useShot } from '../../state/shotStore'
import styles from './curves.module.css'
import { KeyedCurves } from './KeyedCurves'
import { pointChannels, pointsCurve, poseCurve, POSE_CHANNELS } from './keyedCurve'
import { TrackCurves } from './TrackCurves'

/** Curves over time of what is selected: a track's channels, a Part's pose, or what the points of a shape have. */
export function CurvesFace() {
  const document = useShot((state) => state.shown)
  const { trackIds, partId, shapeIds, pointIds } = useShot((state) => state.selection)
  if (trackIds.length > 0) return <TrackCurves />
  const shape = find(document, 'shape', shapeIds.at(-1) ?? '')
  const part = find(document, 'part', shape?.partId ?? partId ?? '')
  const colour = part ? css(partColour(document, part)) : ''
  if (shape && part) {
    return (
      <KeyedCurves
        key={shape.id}
        channels={pointChannels(shape)}
        first="x"
        curveOf={(channel) => pointsCurve(shape, pointIds, part.locked, channel)}
        colour={colour}
      />
    )
  }
  if (part?.keys.length) {
    return (
      <KeyedCurves
        key={part.id}
        channels={POSE_CHANNELS}
        first="Rotation"
        curveOf={(channel) => poseCurve(part, channel)}
        colour={colour}
      />
    )
  }
  const words = part
    ? `${part.name} has no pose keys yet: turn it, move it, or press K with the Part selected by itself.`
    : 'Select a track, a Part or points of a shape: what they have is drawn here as curves.'
  return <p className={styles.empty}>{words}</p>
}
