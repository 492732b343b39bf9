'use client'

import { useState } from 'react'
import { Input } from 'antd'
import { Archive, ArchiveRestore, Crosshair, Eye, EyeOff, Lock, LockOpen } from 'lucide-react'
import { allOf, type RotoDocument, type Track } from '@tender-lasso/core/document'
import { fieldSet, isCombinationStale } from '@tender-lasso/core/edits'
import { motionSamplesOf } from '@tender-lasso/core/evaluation'
import { css, SUBJECT_HUES, trackColour, mainTrackId, onlyTracks, select, useShot } from '../../store'
import { edit } from '../../session'
import { VirtualRows } from '../lists/VirtualRows'
import { NameInPlace } from './NameInPlace'
import { RowButton } from './RowButton'
import { walkRows } from './walkRows'
import styles from './subjects.module.css'

/** The tracks of the shot; deleting shapes never touches them. */
export function TrackList() {
  const document = useShot((state) => state.document)
  const [wanted, setWanted] = useState('')
  const [withArchived, setWithArchived] = useState(false)
  const all = allOf(document, 'track').sort((a, b) => a.order - b.order)
  if (all.length === 0) {
    return (
      <p className={styles.empty}>
        No tracks yet. In the Track step, mark a flat surface with Region (T) or a feature with Point (M).
      </p>
    )
  }
  const archived = all.filter((track) => track.archived).length
  const shown = all.filter(
    (track) => (withArchived || !track.archived) && isNamed(track, wanted.trim().toLocaleLowerCase()),
  )
  return (
    <>
      <div className={styles.search}>
        <Input
          size="small"
          aria-label="Search tracks"
          placeholder="Search names and notes"
          value={wanted}
          onChange={(event) => setWanted(event.target.value)}
          onKeyDown={(event) => {
            event.stopPropagation()
            if (event.key === 'Escape') setWanted('')
          }}
        />
        {archived > 0 && (
          <RowButton
            label={withArchived ? 'Hide what is archived' : `Show ${archived} archived`}
            isOn={withArchived}
            onPress={() => setWithArchived(!withArchived)}
          >
            <Archive size={12} />
          </RowButton>
        )}
      </div>
      <VirtualRows
        className={styles.scroll}
        role="grid"
        aria-label="Tracks"
        aria-multiselectable
        aria-rowcount={shown.length}
        count={shown.length}
        rowHeight={ROW_HEIGHT}
        keyOf={(index) => shown[index]!.id}
        onKeyDown={(event) => walkRows(event, (id) => select(onlyTracks([id])))}
      >
        {(index) => <TrackRow document={document} track={shown[index]!} shown={shown} index={index} />}
      </VirtualRows>
      {shown.length === 0 && <p className={styles.empty}>No track has this in its name or notes.</p>}
    </>
  )
}

const isNamed = (track: Track, wanted: string) =>
  track.name.toLocaleLowerCase().includes(wanted) || track.notes.toLocaleLowerCase().includes(wanted)

/** CSS pixels; as in subjects.module.css. */
const ROW_HEIGHT = 23

function TrackRow({
  document,
  track,
  shown,
  index,
}: {
  document: RotoDocument
  track: Track
  shown: readonly Track[]
  index: number
}) {
  const isSelected = useShot((state) => state.selection.trackIds.includes(track.id))
  const frames = motionSamplesOf(track).present.reduce((a, b) => a + b, 0)
  const isStale = isCombinationStale(document, track)
  return (
    <div
      role="row"
      aria-rowindex={index + 1}
      tabIndex={0}
      data-id={track.id}
      aria-label={track.name}
      aria-selected={isSelected}
      data-track={track.name}
      className={`${isSelected ? styles.rowSelected : styles.row} ${track.archived ? styles.archived : ''}`}
      style={{ paddingLeft: 10 }}
      onClick={(event) => choose(track, shown, event.shiftKey, event.ctrlKey || event.metaKey)}
    >
      <span role="gridcell" className={styles.cells}>
        <button
          type="button"
          className={styles.braid}
          style={{ color: css(trackColour(document, track)), border: 0, background: 'none', padding: 0 }}
          title="Hue; click for the next one. Without one a track wears the hue of what it moves"
          aria-label={`Hue of ${track.name}`}
          onClick={(event) => {
            event.stopPropagation()
            edit('hue of a track', [fieldSet(track, 'hue', nextHue(track.hue))])
          }}
        >
          {track.surface === 'point' ? <Crosshair size={11} /> : '∿'}
        </button>
        <NameInPlace value={track.name} onCommit={(name) => edit(`name ${name}`, [fieldSet(track, 'name', name)])} />
        {isStale && (
          <span className={styles.stale} title="The tracks it was made from have changed since">
            stale
          </span>
        )}
        <span className={styles.note}>{frames ? `${frames} f` : 'not tracked'}</span>
        <RowButton
          label={track.locked ? 'Unlock' : 'Lock'}
          isOn={track.locked}
          onPress={() => edit(track.locked ? 'unlock' : 'lock', [fieldSet(track, 'locked', !track.locked)])}
        >
          {track.locked ? <Lock size={12} /> : <LockOpen size={12} />}
        </RowButton>
        <RowButton
          label={track.visible ? 'Hide' : 'Show'}
          isOn={!track.visible}
          onPress={() => edit(track.visible ? 'hide' : 'show', [fieldSet(track, 'visible', !track.visible)])}
        >
          {track.visible ? <Eye size={12} /> : <EyeOff size={12} />}
        </RowButton>
        <RowButton
          label={track.archived ? 'Bring back' : 'Archive'}
          isOn={track.archived}
          onPress={() =>
            edit(track.archived ? 'bring back' : 'archive', [fieldSet(track, 'archived', !track.archived)])
          }
        >
          {track.archived ? <ArchiveRestore size={12} /> : <Archive size={12} />}
        </RowButton>
      </span>
    </div>
  )
}

const nextHue = (hue: number | null) => (hue === null ? 0 : hue + 1 < SUBJECT_HUES.length ? hue + 1 : null)

/** A click takes one, Ctrl-click adds or takes away, Shift-click takes all up to it. */
function choose(track: Track, shown: readonly Track[], upTo: boolean, adds: boolean) {
  const { selection } = useShot.getState()
  const main = mainTrackId(selection)
  let trackIds: readonly string[] = [track.id]
  if (upTo && main) {
    const [a, b] = [shown.findIndex((t) => t.id === main), shown.indexOf(track)].sort((x, y) => x - y)
    const inside = shown.slice(Math.max(0, a!), b! + 1).map((t) => t.id)
    trackIds = [...new Set([...selection.trackIds, ...inside])].filter((id) => id !== track.id).concat(track.id)
  } else if (adds) {
    const others = selection.trackIds.filter((id) => id !== track.id)
    trackIds = selection.trackIds.includes(track.id) ? others : [...others, track.id]
  }
  select(onlyTracks(trackIds))
}
