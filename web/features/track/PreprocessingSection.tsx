'use client'

import { Select, Switch } from 'antd'
import type { Track, TrackPreprocessing } from '@tender-lasso/core/document'
import { setView, useShot } from '../../store'
import { setOnTracks } from '../../commands'
import { NumberField } from '../properties/NumberField'
import { Row } from '../properties/Row'
import styles from '../properties/properties.module.css'
import { PatternView } from './PatternView'

const CHANNELS: { value: TrackPreprocessing['channel']; label: string }[] = [
  { value: 'luma', label: 'Luma' },
  { value: 'red', label: 'Red' },
  { value: 'green', label: 'Green' },
  { value: 'blue', label: 'Blue' },
  { value: 'best', label: 'The best' },
]
const TEXTURES: { value: TrackPreprocessing['texture']; label: string }[] = [
  { value: 'all', label: 'All texture' },
  { value: 'corners', label: 'Corners only' },
  { value: 'edges', label: 'Edges only' },
]

/** What the tracker sees of the picture, with the pattern and the present match side by side. */
export function PreprocessingSection({ track }: { track: Track }) {
  const showPixels = useShot((state) => state.view.showPixelsUsed)
  const used = useShot((state) => state.pixelsUsed)
  const { preprocessing } = track
  const set = (label: string, change: Partial<TrackPreprocessing>) =>
    setOnTracks(track, label, 'preprocessing', (one) => ({ ...one.preprocessing, ...change }))
  const number = (name: keyof TrackPreprocessing, label: string, help: string, max: number, step: number) => (
    <Row label={label} help={help}>
      <NumberField
        label={label}
        value={preprocessing[name] as number}
        min={name === 'density' ? 0.02 : 0}
        max={max}
        step={step}
        decimals={2}
        onCommit={(value) => set(label.toLowerCase(), { [name]: value })}
      />
    </Row>
  )
  const toggle = (field: 'follows' | 'motionBlur' | 'localContrast', label: string, named: string, help: string) => (
    <Row label={label} help={help}>
      <Switch
        size="small"
        aria-label={named}
        checked={preprocessing[field] ?? false}
        onChange={(isOn) => set(named.toLowerCase(), { [field]: isOn })}
      />
    </Row>
  )
  return (
    <>
      <PatternView track={track} />
      <Row
        label="Channel"
        help="The best: where the mean smaller eigenvalue of the structure tensor is largest against the grain's variance"
      >
        <Select
          size="small"
          aria-label="Channel"
          value={preprocessing.channel}
          options={CHANNELS}
          onChange={(channel) => set('look at another channel', { channel })}
        />
      </Row>
      {track.surface === 'point' &&
        toggle(
          'follows',
          'Turn and size',
          'Follow turn and size inside',
          'The pattern is followed as it turns, grows and shears; what is reported is what the model says',
        )}
      {toggle(
        'motionBlur',
        'Motion blur',
        'Allow for motion blur',
        "The pattern is blurred as each frame is, by its motion and the shot's shutter, where that fits the frame better",
      )}
      {number('blur', 'Blur', 'Gaussian sigma in pixels: against grain', 8, 0.1)}
      {number('sharpen', 'Sharpen', 'Fine detail made stronger', 2, 0.05)}
      {toggle('localContrast', 'Even contrast', 'Even contrast', 'Light and shadow brought to the same contrast')}
      <Row label="Texture">
        <Select
          size="small"
          aria-label="Texture"
          value={preprocessing.texture}
          options={TEXTURES}
          onChange={(texture) => set('texture looked at', { texture })}
        />
      </Row>
      {number('density', 'Density', 'Share of the pixels that are sampled: fewer is faster', 1, 0.05)}
      <Row label="Pixels used" help="Drawn over the plate: chalk where they count, brick where they are not looked at">
        <span className={styles.value}>
          <Switch
            size="small"
            aria-label="Show the pixels used"
            checked={showPixels}
            onChange={(showPixelsUsed) => setView({ showPixelsUsed })}
          />
          {showPixels && used?.trackId === track.id && (
            <>
              {' '}
              {used.weights.filter((weight) => weight > 0.3).length} of {used.weights.length}, {used.channel}
            </>
          )}
        </span>
      </Row>
    </>
  )
}
