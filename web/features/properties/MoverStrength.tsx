'use client'

import { moverStrengthSet, type MoverTarget } from '@tender-lasso/core/edits'
import { type Mover, type Patch } from '@tender-lasso/core/document'
import { useShot } from '../../store'
import { NumberField } from './NumberField'
import styles from './properties.module.css'

type Strength = Mover['strength']

const CHANNELS: readonly { field: keyof Strength; short: string; label: string }[] = [
  { field: 'x', short: 'x', label: 'Strength of x' },
  { field: 'y', short: 'y', label: 'Strength of y' },
  { field: 'rotation', short: 'rot', label: 'Strength of the rotation' },
  { field: 'scale', short: 'scale', label: 'Strength of the scale' },
  { field: 'skew', short: 'skew', label: 'Strength of the skew' },
  { field: 'perspective', short: 'persp', label: 'Strength of the perspective' },
]

interface MoverStrengthProps {
  targets: readonly MoverTarget[]
  strength: Strength
  onChange(patches: Patch[]): void
}

/** How much of each channel of the track is taken over. */
export function MoverStrength({ targets, strength, onChange }: MoverStrengthProps) {
  return (
    <div title="How much of each channel of the track is taken over, in per cent; 0 leaves it out">
      <span className={styles.strengthName}>Strength, %</span>
      <span className={styles.strengths}>
        {CHANNELS.map(({ field, short, label }) => (
          <NumberField
            key={field}
            label={label}
            prefix={short}
            value={100 * strength[field]}
            min={0}
            max={200}
            step={5}
            onCommit={(value) => {
              const { document } = useShot.getState()
              const next = { ...strength, [field]: value / 100 }
              onChange(targets.flatMap((target) => moverStrengthSet(document, target, next)))
            }}
          />
        ))}
      </span>
    </div>
  )
}
