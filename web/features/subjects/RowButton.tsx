import type { ReactNode } from 'react'
import styles from './subjects.module.css'

/** A small switch at the end of a row of a list. */
export function RowButton({
  label,
  isOn,
  onPress,
  children,
}: {
  label: string
  isOn: boolean
  onPress(): void
  children: ReactNode
}) {
  return (
    <button
      type="button"
      className={isOn ? styles.iconOn : styles.icon}
      aria-label={label}
      title={label}
      onClick={(event) => {
        event.stopPropagation()
        onPress()
      }}
    >
      {children}
    </button>
  )
}
