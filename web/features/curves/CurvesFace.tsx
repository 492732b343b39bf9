'use client'

import { find } from '@tender-lasso/core/document'
import { useShot } from '../../state/shotStore'
import styles from './curves.module.css'
import { PoseCurves } from './PoseCurves'
import { TrackCurves } from './TrackCurves'

/** Curves over time of what is selected: a track's channels, or a Part's pose. */
export function CurvesFace() {
  const hasTracks = useShot((state) => state.selection.trackIds.length > 0)
  const part = useShot((state) =>
    state.selection.partId ? find(state.shown, 'part', state.selection.partId) : undefined,
  )
  if (hasTracks) return <TrackCurves />
  if (part?.keys.length) return <PoseCurves part={part} />
  const words = part
    ? `${part.name} has no pose keys yet: turn it, move it, or press K with the Part selected by itself.`
    : 'Select a track or a Part: its channels are drawn here as curves.'
  return <p className={styles.empty}>{words}</p>
}
