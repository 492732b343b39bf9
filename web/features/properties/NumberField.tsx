'use client'

import { useRef, useState, type KeyboardEvent, type PointerEvent } from 'react'
import { computed } from './computed'
import styles from './properties.module.css'

interface NumberFieldProps {
  /** What it is, for the tooltip and for screen readers. */
  label: string
  value: number
  min: number
  max: number
  step: number
  decimals?: number
  unit?: string
  prefix?: string
  disabled?: boolean
  /** While dragging, before the hand lets go. */
  onPreview?(value: number): void
  onCommit(value: number): void
}

/** A number that can be dragged sideways, typed and computed ("12/2"). */
export function NumberField(props: NumberFieldProps) {
  const { label, value, min, max, step, decimals = 0, unit, prefix, disabled } = props
  const [typed, setTyped] = useState<string | null>(null)
  const [dragged, setDragged] = useState<number | null>(null)
  const press = useRef<{ x: number; from: number; hasMoved: boolean } | null>(null)
  const clamp = (v: number) => Math.min(max, Math.max(min, Number(v.toFixed(6))))

  const down = (event: PointerEvent<HTMLInputElement>) => {
    if (disabled || typed !== null || event.button !== 0) return
    press.current = { x: event.clientX, from: value, hasMoved: false }
    event.currentTarget.setPointerCapture(event.pointerId)
  }
  const move = (event: PointerEvent<HTMLInputElement>) => {
    if (!press.current) return
    const way = event.clientX - press.current.x
    if (!press.current.hasMoved && Math.abs(way) < 3) return
    press.current.hasMoved = true
    const next = clamp(press.current.from + Math.round(way / 3) * step * (event.shiftKey ? 10 : 1))
    setDragged(next)
    props.onPreview?.(next)
  }
  const up = (event: PointerEvent<HTMLInputElement>) => {
    const pressed = press.current
    press.current = null
    if (pressed?.hasMoved && dragged !== null) {
      props.onCommit(dragged)
      event.currentTarget.blur()
    } else if (pressed) {
      setTyped(value.toFixed(decimals))
      event.currentTarget.select()
    }
    setDragged(null)
  }
  const finish = () => {
    if (typed === null) return
    const result = computed(typed)
    if (result !== null && clamp(result) !== value) props.onCommit(clamp(result))
    setTyped(null)
  }
  const key = (event: KeyboardEvent<HTMLInputElement>) => {
    if (event.key === 'Enter') event.currentTarget.blur()
    else if (event.key === 'Escape') {
      setTyped(null)
      event.currentTarget.blur()
    } else if (typed === null && /^[\d\-.(]$/.test(event.key)) setTyped('')
    else if (event.key === 'ArrowUp' || event.key === 'ArrowDown') {
      event.preventDefault()
      props.onCommit(clamp(value + (event.key === 'ArrowUp' ? step : -step) * (event.shiftKey ? 10 : 1)))
      setTyped(null)
    }
  }
  const shown = `${prefix ? `${prefix} ` : ''}${(dragged ?? value).toFixed(decimals)}${unit ? ` ${unit}` : ''}`
  return (
    <input
      className={styles.number}
      aria-label={label}
      title={label}
      disabled={disabled}
      value={typed ?? shown}
      readOnly={typed === null}
      onFocus={(event) => {
        if (press.current === null) {
          setTyped(value.toFixed(decimals))
          event.currentTarget.select()
        }
      }}
      onChange={(event) => setTyped(event.target.value)}
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={up}
      onBlur={finish}
      onKeyDown={key}
    />
  )
}
