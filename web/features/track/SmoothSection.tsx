'use client'

import { Button, Segmented } from 'antd'
import { fieldSet } from '@tender-lasso/core/edits'
import { type Smoothing, type Track } from '@tender-lasso/core/document'
import { useShot } from '../../store'
import { edit } from '../../session'
import { NumberField } from '../properties/NumberField'
import { Row } from '../properties/Row'
import styles from '../properties/properties.module.css'

const NONE: Smoothing = { method: 'polynomial', position: 0, rotation: 0, scale: 0, perspective: 0, range: null }

const CHANNELS = [
  ['position', 'Position'],
  ['rotation', 'Rotation'],
  ['scale', 'Scale'],
  ['perspective', 'Perspective'],
] as const

/** Smoothing that lies on top of the samples: what was tracked stays, and shows faint beneath. */
export function SmoothSection({ track }: { track: Track }) {
  const range = useShot((state) => state.range)
  const smoothing = track.smoothing ?? NONE
  const set = (change: Partial<Smoothing>) =>
    edit(`smooth ${track.name}`, [fieldSet(track, 'smoothing', { ...smoothing, ...change })])
  return (
    <>
      <Row
        label="By"
        help="Polynomial: a parabola in a window of frames either side. Spline: stronger, for slow motion"
      >
        <Segmented<Smoothing['method']>
          size="small"
          value={smoothing.method}
          options={[
            { value: 'polynomial', label: 'Polynomial' },
            { value: 'spline', label: 'Spline' },
          ]}
          onChange={(method) => set({ method })}
        />
      </Row>
      {CHANNELS.map(([channel, label]) => (
        <Row key={channel} label={label} help="Strength in frames either side; 0 leaves it as it is">
          <NumberField
            label={`Smooth ${channel}`}
            value={smoothing[channel]}
            min={0}
            max={100}
            step={1}
            unit="frames"
            onCommit={(value) => set({ [channel]: value })}
          />
        </Row>
      ))}
      <Row label="On">
        <span className={styles.value}>
          {smoothing.range ? `${smoothing.range[0]} to ${smoothing.range[1]}` : 'all frames'}{' '}
          {range && (
            <Button
              size="small"
              type="link"
              style={{ padding: 0 }}
              onClick={() => set({ range: [range[0], range[1]] })}
            >
              the marked stretch
            </Button>
          )}
          {smoothing.range && (
            <Button size="small" type="link" style={{ padding: 0 }} onClick={() => set({ range: null })}>
              all
            </Button>
          )}
        </span>
      </Row>
      {track.smoothing && (
        <div className={styles.buttons}>
          <Button size="small" onClick={() => edit(`unsmooth ${track.name}`, [fieldSet(track, 'smoothing', null)])}>
            Take the smoothing away
          </Button>
        </div>
      )}
    </>
  )
}
