'use client'

import { Tooltip } from 'antd'
import { useHealth } from './useHealth'
import styles from './health.module.css'

/** Says what of the application does not live, while it lasts. */
export function HealthNotice() {
  const note = useHealth()
  if (!note) return null
  return (
    <Tooltip title={note.more}>
      <span className={styles[note.kind]} role="status" data-testid="health" tabIndex={0}>
        {note.words}
      </span>
    </Tooltip>
  )
}
