'use client'

import { allOf, motionSamplesOf, type Track } from '@tender-lasso/core/document'
import { select, useShot } from '../../state/shotStore'
import styles from './subjects.module.css'

/** The tracks of the shot; deleting shapes never touches them. */
export function TrackList() {
  const document = useShot((state) => state.document)
  const selected = useShot((state) => state.selection.trackId)
  const tracks = allOf(document, 'track').sort((a, b) => a.order - b.order)
  if (tracks.length === 0) {
    return <p className={styles.empty}>No tracks yet. Mark a flat surface with Region (T) in the Track step.</p>
  }
  return (
    <div role="listbox" aria-label="Tracks">
      {tracks.map((track) => (
        <div
          key={track.id}
          role="option"
          tabIndex={0}
          aria-selected={track.id === selected}
          className={track.id === selected ? styles.rowSelected : styles.row}
          style={{ paddingLeft: 10 }}
          onClick={() => choose(track)}
          onKeyDown={(event) => event.key === 'Enter' && choose(track)}
        >
          <span className={styles.braid} aria-hidden>
            ∿
          </span>
          <span className={styles.name}>{track.name}</span>
          <span className={styles.note}>{motionSamplesOf(track).present.reduce((a, b) => a + b, 0)} frames</span>
        </div>
      ))}
    </div>
  )
}

function choose(track: Track) {
  select({ trackId: track.id, partId: null, shapeIds: [], pointIds: new Set(), keyTimes: [] })
}
