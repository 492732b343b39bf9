import type { ReactNode } from 'react'
import styles from './subjects.module.css'

/** A small switch at the end of a row of a list. */
export function RowButton({
  label,
  isOn,
  hint,
  onPress,
  children,
}: {
  label: string
  isOn: boolean
  /** What a click with Alt does beside. */
  hint?: string
  /** @param withAlt  Alt was held */
  onPress(withAlt: boolean): void
  children: ReactNode
}) {
  return (
    <button
      type="button"
      className={isOn ? styles.iconOn : styles.icon}
      aria-label={label}
      title={hint ? `${label}. ${hint}` : label}
      onClick={(event) => {
        event.stopPropagation()
        onPress(event.altKey)
      }}
    >
      {children}
    </button>
  )
}
