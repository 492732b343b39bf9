'use client'

import { useEffect, useState } from 'react'
import { useShot } from '../../store'
import styles from './subjects.module.css'

/** A name in a list; a double click changes it in place. */
export function NameInPlace({
  value,
  onCommit,
  id,
}: {
  value: string
  onCommit(name: string): void
  /** Of what it names, so that a key can open it. */
  id?: string
}) {
  const [typed, setTyped] = useState<string | null>(null)
  const isAskedFor = useShot((state) => id !== undefined && state.renamingId === id)
  useEffect(() => {
    if (!isAskedFor) return
    setTyped(value)
    useShot.setState({ renamingId: null })
  }, [isAskedFor, value])
  if (typed === null) {
    return (
      <span
        className={styles.name}
        title="Double click to rename"
        onDoubleClick={(event) => {
          event.stopPropagation()
          setTyped(value)
        }}
      >
        {value}
      </span>
    )
  }
  const finish = () => {
    if (typed.trim() && typed.trim() !== value) onCommit(typed.trim())
    setTyped(null)
  }
  return (
    <input
      className={styles.rename}
      autoFocus
      aria-label="New name"
      value={typed}
      maxLength={120}
      onFocus={(event) => event.target.select()}
      onChange={(event) => setTyped(event.target.value)}
      onBlur={finish}
      onClick={(event) => event.stopPropagation()}
      onKeyDown={(event) => {
        event.stopPropagation()
        if (event.key === 'Enter') finish()
        if (event.key === 'Escape') setTyped(null)
      }}
    />
  )
}
