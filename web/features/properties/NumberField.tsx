'use client'

import { useLayoutEffect, useRef, useState, type KeyboardEvent, type PointerEvent } from 'react'
import { applied, type NumberChange } from '@tender-lasso/core/edits'
import { typedChange } from './computed'
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
  /** Least and largest where it stands for several that differ. */
  spread?: readonly [number, number]
  /** What dragging does to several: each becomes as much more, as many times it, or the same. */
  relative?: 'add' | 'multiply' | 'replace'
  /** While dragging, before the hand lets go. */
  onPreview?(value: number, change: NumberChange): void
  /** The new number, and what makes it of the one that was there. */
  onCommit(value: number, change: NumberChange): void
}

/** A number that can be dragged sideways, typed, computed ("12/2") and changed by as much ("+2", "*1.5"). */
export function NumberField(props: NumberFieldProps) {
  const { label, value, min, max, step, decimals = 0, unit, prefix, disabled, spread, relative = 'add' } = props
  const [typed, setTyped] = useState<string | null>(null)
  const [dragged, setDragged] = useState<number | null>(null)
  const input = useRef<HTMLInputElement>(null)
  const isBegun = useRef(false)
  const press = useRef<{ x: number; from: number; hasMoved: boolean } | null>(null)
  const clamp = (v: number) => Math.min(max, Math.max(min, Number(v.toFixed(6))))

  const changeTo = (next: number): NumberChange => {
    if (relative === 'replace') return { kind: 'set', by: next }
    if (relative === 'multiply' && value !== 0) return { kind: 'multiply', by: next / value }
    return { kind: 'add', by: next - value }
  }
  const shownValue = value.toFixed(decimals)

  const begin = () => {
    isBegun.current = true
    setTyped(shownValue)
  }
  // The number is selected once it stands there without its unit, so that what is typed takes its place.
  useLayoutEffect(() => {
    if (isBegun.current && typed !== null) input.current?.select()
    isBegun.current = false
  }, [typed])

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
    props.onPreview?.(next, changeTo(next))
  }
  const up = (event: PointerEvent<HTMLInputElement>) => {
    const pressed = press.current
    press.current = null
    if (pressed?.hasMoved && dragged !== null) {
      props.onCommit(dragged, changeTo(dragged))
      event.currentTarget.blur()
    } else if (pressed) {
      begin()
    }
    setDragged(null)
  }
  const finish = () => {
    if (typed === null) return
    const change = typedChange(typed)
    setTyped(null)
    if (!change || typed === shownValue) return
    const next = clamp(applied(change, value))
    if (next !== value || spread) props.onCommit(next, change.kind === 'set' ? { kind: 'set', by: next } : change)
  }
  const key = (event: KeyboardEvent<HTMLInputElement>) => {
    if (event.key === 'Enter') event.currentTarget.blur()
    else if (event.key === 'Escape') {
      setTyped(null)
      event.currentTarget.blur()
    } else if (typed === null && /^[\d\-.(+*/]$/.test(event.key)) setTyped('')
    else if (event.key === 'ArrowUp' || event.key === 'ArrowDown') {
      event.preventDefault()
      const next = clamp(value + (event.key === 'ArrowUp' ? step : -step) * (event.shiftKey ? 10 : 1))
      props.onCommit(next, changeTo(next))
      setTyped(null)
    }
  }
  const number = dragged === null && spread ? spread.map((one) => one.toFixed(decimals)).join(' … ') : (dragged ?? value).toFixed(decimals) // prettier-ignore
  const shown = `${prefix ? `${prefix} ` : ''}${number}${unit ? ` ${unit}` : ''}`
  return (
    <input
      ref={input}
      className={styles.number}
      aria-label={label}
      title={label}
      disabled={disabled}
      value={typed ?? shown}
      readOnly={typed === null}
      onFocus={() => press.current === null && begin()}
      onChange={(event) => setTyped(event.target.value)}
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={up}
      onBlur={finish}
      onKeyDown={key}
    />
  )
}
