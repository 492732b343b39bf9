import type { ReactNode } from 'react'
import styles from './properties.module.css'

/** One property: its name and what changes it. */
export function Row({ label, children, help }: { label: string; children: ReactNode; help?: string }) {
  return (
    <label className={styles.row} title={help}>
      <span>{label}</span>
      {children}
    </label>
  )
}
