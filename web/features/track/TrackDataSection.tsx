'use client'

import { useState } from 'react'
import { create } from 'zustand'
import { persist } from 'zustand/middleware'
import { Button, Segmented, Select } from 'antd'
import { findObject } from '@tender-lasso/core/document'
import {
  trackDataCsv,
  trackDataJson,
  trackDataSettingsSchema,
  type TrackDataSettings,
} from '@tender-lasso/formats/trackData'
import { mainTrackId, say, settingsStorage, useShot } from '../../store'
import {
  putOnClipboard,
  quadrilateralsOf,
  saveAsFile,
  takeFromClipboard,
  takeTrackData,
  trackDataFor,
} from '../../commands'
import { NumberField } from '../properties/NumberField'
import { ReadTextButton } from '../properties/ReadTextButton'
import { Row } from '../properties/Row'
import { PositionMapRow } from './PositionMapRow'
import styles from '../properties/properties.module.css'

const KINDS: { value: TrackDataSettings['kind']; label: string }[] = [
  { value: 'position', label: 'Position' },
  { value: 'similarity', label: 'Position, rotation, scale' },
  { value: 'corners', label: 'Four corners' },
  { value: 'matrix', label: 'Matrix' },
]

type Form = Omit<TrackDataSettings, 'relativeTo'>

/** How the artist last wanted tracks, remembered in this browser. */
const useForm = create<Form>()(
  persist((): Form => ({ kind: 'corners', yAxis: 'down', units: 'pixels', pivot: 'centre' }), {
    name: 'track-data',
    storage: settingsStorage<Form>(),
    merge: (stored, usual) => {
      const parsed = trackDataSettingsSchema.safeParse({ ...usual, ...(stored as object), relativeTo: 0 })
      if (!parsed.success) return usual
      const { kind, yAxis, units, pivot } = parsed.data
      return { kind, yAxis, units, pivot }
    },
  }),
)

/** Tracks out and in: as CSV or JSON, to a file or the clipboard. */
export function TrackDataSection() {
  const trackId = useShot((state) => mainTrackId(state.selection))
  const track = useShot((state) => (trackId ? findObject(state.document, 'track', trackId) : undefined))
  const document = useShot((state) => state.document)
  const [shapeId, setShapeId] = useState<string | null>(null)
  const settings = useForm()
  const [frame, setFrame] = useState<number | null>(null)
  const quadrilaterals = quadrilateralsOf(document)
  const cornersOf = quadrilaterals.find(({ id }) => id === shapeId) ?? null
  const relativeTo = frame ?? track?.referenceFrame ?? 1001
  const set = (change: Partial<Form>) => {
    const next = { ...settings, ...change }
    // In units of unequal length nothing turns.
    if (next.kind === 'similarity') next.units = 'pixels'
    useForm.setState(next)
  }
  const text = (form: 'csv' | 'json'): string | null => {
    if (!track) return null
    const data = trackDataFor(track, { ...settings, relativeTo }, cornersOf)
    if (typeof data === 'string') {
      say('doubtful', data)
      return null
    }
    return form === 'csv' ? trackDataCsv(data) : trackDataJson(data)
  }
  const save = (form: 'csv' | 'json') => {
    const words = text(form)
    if (words === null) return
    saveAsFile(words, `${track!.name}.${form}`, form === 'csv' ? 'text/csv' : 'application/json')
  }
  const copy = async () => {
    const words = text('csv')
    if (words === null) return
    await putOnClipboard(words, track!.name)
  }
  return (
    <>
      <Row label="As">
        <Select
          size="small"
          aria-label="Track data as"
          value={settings.kind}
          options={KINDS}
          onChange={(kind) => set({ kind })}
        />
      </Row>
      <Row
        label="Corners of"
        help="Of the track's region, or of any shape with four points: where the track carries them"
      >
        <Select
          size="small"
          aria-label="Corners of"
          value={cornersOf?.id ?? ''}
          options={[
            { value: '', label: 'The region' },
            ...quadrilaterals.map(({ id, name, partId }) => ({
              value: id,
              label: `${findObject(document, 'part', partId)?.name ?? ''} ${name}`,
            })),
          ]}
          onChange={(id) => setShapeId(id || null)}
        />
      </Row>
      <Row label="Relative to" help="On this frame nothing has moved">
        <NumberField label="Relative to frame" value={relativeTo} min={-1e6} max={1e6} step={1} onCommit={setFrame} />
      </Row>
      <Row label="y grows">
        <Segmented
          size="small"
          value={settings.yAxis}
          options={['down', 'up']}
          onChange={(yAxis) => set({ yAxis: yAxis as 'up' | 'down' })}
        />
      </Row>
      <Row label="Units" help="Normalised: the width and the height are 1">
        <Segmented
          size="small"
          value={settings.units}
          disabled={settings.kind === 'similarity'}
          options={['pixels', 'normalised']}
          onChange={(units) => set({ units: units as 'pixels' | 'normalised' })}
        />
      </Row>
      <Row
        label="Pivot"
        help="What rotation, scale and matrix turn about. Position then tells where that very place goes"
      >
        <Segmented
          size="small"
          value={settings.pivot}
          options={['centre', 'origin']}
          onChange={(pivot) => set({ pivot: pivot as 'centre' | 'origin' })}
        />
      </Row>
      <div className={styles.buttons}>
        <Button size="small" disabled={!track} onClick={() => save('csv')}>
          Save CSV
        </Button>
        <Button size="small" disabled={!track} onClick={() => save('json')}>
          Save JSON
        </Button>
        <Button size="small" disabled={!track} title="As CSV" onClick={() => void copy()}>
          Copy
        </Button>
        <ReadTextButton
          words="Read a file"
          label="Track data file"
          accept=".csv,.json,text/csv,application/json"
          onText={takeTrackData}
        />
        <Button size="small" onClick={() => void takeFromClipboard(takeTrackData)}>
          Paste
        </Button>
      </div>
      <PositionMapRow
        key={track?.id}
        track={track}
        relativeTo={relativeTo}
        settings={{ yAxis: settings.yAxis, units: settings.units }}
      />
    </>
  )
}
