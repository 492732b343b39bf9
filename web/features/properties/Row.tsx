import type { ReactNode } from 'react'
import styles from './properties.module.css'

interface RowProps {
  label: string
  children: ReactNode
  help?: string
  /** Where it can be keyed: whether it is. */
  knot?: ReactNode
}

/** One property: its name, what changes it, and how it is keyed. */
export function Row({ label, children, help, knot }: RowProps) {
  return (
    <label className={knot ? `${styles.row} ${styles.keyable}` : styles.row} title={help}>
      <span>{label}</span>
      {children}
      {knot}
    </label>
  )
}
