'use client'

import { useRef, type PointerEvent } from 'react'
import styles from './workspace.module.css'

/** A border that can be dragged; reports how far from where it began. */
export function Splitter({
  axis,
  label,
  onStart,
  onDrag,
}: {
  axis: 'x' | 'y'
  label: string
  onStart(): void
  onDrag(way: number): void
}) {
  const from = useRef<number | null>(null)
  const at = (event: PointerEvent) => (axis === 'x' ? event.clientX : event.clientY)
  return (
    <div
      role="separator"
      aria-label={label}
      aria-orientation={axis === 'x' ? 'vertical' : 'horizontal'}
      className={axis === 'x' ? styles.splitX : styles.splitY}
      onPointerDown={(event) => {
        from.current = at(event)
        event.currentTarget.setPointerCapture(event.pointerId)
        onStart()
      }}
      onPointerMove={(event) => {
        if (from.current !== null) onDrag(at(event) - from.current)
      }}
      onPointerUp={() => (from.current = null)}
    />
  )
}
