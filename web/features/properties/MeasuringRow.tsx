'use client'

import { Button } from 'antd'
import { stopMeasuring } from '../../commands'
import { useShot, type Measuring } from '../../store'
import styles from './properties.module.css'

/** A button that begins a measurement; while it runs how far it is, and how it is stopped. */
export function MeasuringRow({
  what,
  help,
  name = '',
  action,
  disabled = false,
  onStart,
}: {
  what: Measuring['what']
  help: string
  /** What stands before the button while nothing is measured. */
  name?: string
  action: string
  disabled?: boolean
  onStart(): void
}) {
  const measuring = useShot((state) => (state.measuring?.what === what ? state.measuring : null))
  return (
    <div className={styles.row} title={help}>
      <span role="status">{measuring ? `${measuring.done} of ${measuring.all} frames` : name}</span>
      {measuring ? (
        <Button size="small" onClick={stopMeasuring}>
          Stop
        </Button>
      ) : (
        <Button size="small" disabled={disabled} onClick={onStart}>
          {action}
        </Button>
      )}
    </div>
  )
}
