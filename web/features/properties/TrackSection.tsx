'use client'

import { Button, Select } from 'antd'
import { allOf, fieldSet, motionSamplesOf, sampleAt, type Track, type TrackModel } from '@tender-lasso/core/document'
import { edit, goTo, useShot } from '../../state/shotStore'
import { NameField } from './NameField'
import { NumberField } from './NumberField'
import { Row } from './Row'
import styles from './properties.module.css'

const MODELS: { value: TrackModel; label: string }[] = [
  { value: 'position', label: 'Position' },
  { value: 'similarity', label: 'Position, rotation, scale' },
  { value: 'affine', label: 'Affine' },
  { value: 'perspective', label: 'Perspective' },
]

export function TrackSection({ track }: { track: Track }) {
  const frame = useShot((state) => state.frame)
  const document = useShot((state) => state.document)
  const running = useShot((state) => state.track)
  const samples = motionSamplesOf(track)
  const tracked = samples.present.reduce((sum, p) => sum + p, 0)
  const here = sampleAt(track, frame)
  const moved = allOf(document, 'part').filter((part) => part.mover?.trackId === track.id)
  const clear = track.blocks.map((block) => ({
    kind: 'block' as const,
    id: track.id,
    index: block.index,
    before: Array.from(block.values),
    after: null,
  }))
  return (
    <>
      <Row label="Name">
        <NameField
          label="Name of the track"
          value={track.name}
          onCommit={(name) => edit(`name ${name}`, [fieldSet(track, 'name', name)])}
        />
      </Row>
      <Row label="Model" help="What the surface may do. The simplest that holds is the steadiest">
        <Select<TrackModel>
          size="small"
          aria-label="Model"
          popupMatchSelectWidth={false}
          disabled={tracked > 0}
          value={track.model}
          options={MODELS}
          onChange={(model) => edit(`track as ${model}`, [fieldSet(track, 'model', model)])}
        />
      </Row>
      <Row label="Reference" help="The frame on which the region was drawn; every frame is compared with it">
        <Button
          size="small"
          type="link"
          style={{ justifySelf: 'start', padding: 0 }}
          onClick={() => goTo(track.referenceFrame)}
        >
          frame {track.referenceFrame}
        </Button>
      </Row>
      <Row label="Stop below" help="The track stops at the last good frame when the match falls below this">
        <NumberField
          label="Minimum match"
          value={track.minimumMatch}
          min={0}
          max={1}
          step={0.01}
          decimals={2}
          onCommit={(value) => edit(`minimum match ${value}`, [fieldSet(track, 'minimumMatch', value)])}
        />
      </Row>
      {track.leaveOut.length > 0 && (
        <Row label="Left out" help="Outlines that the track does not look at (tool Leave out, O)">
          <span className={styles.value}>
            {track.leaveOut.length}{' '}
            <Button
              size="small"
              onClick={() =>
                edit('remove the last leave-out', [fieldSet(track, 'leaveOut', track.leaveOut.slice(0, -1))])
              }
            >
              Remove the last
            </Button>
          </span>
        </Row>
      )}
      <Row label="Tracked">
        <span className={styles.value}>{tracked} frames</span>
      </Row>
      <Row label="Match here" help="Correlation with the reference of the pixels that agreed, and their share">
        <span className={styles.value}>
          {here ? `${here.match.toFixed(3)}, ${Math.round(here.kept * 100)} % kept` : 'not tracked'}
        </span>
      </Row>
      <Row label="Moves">
        <span className={styles.value}>{moved.length ? moved.map((part) => part.name).join(', ') : 'nothing yet'}</span>
      </Row>
      {tracked > 0 && (
        <div className={styles.buttons}>
          <Button size="small" disabled={running !== null} onClick={() => edit('clear the track', clear)}>
            Clear and track again
          </Button>
        </div>
      )}
    </>
  )
}
