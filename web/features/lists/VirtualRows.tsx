'use client'

import { useRef, type HTMLAttributes, type ReactNode } from 'react'
import { useVirtualizer } from '@tanstack/react-virtual'

/** Rows above and below what can be seen that are there as well. */
const OVERSCAN = 8

interface VirtualRowsProps extends Omit<HTMLAttributes<HTMLDivElement>, 'children'> {
  count: number
  /** CSS pixels; all are alike. */
  rowHeight: number
  keyOf(index: number): string
  children(index: number): ReactNode
}

/** A list that scrolls and may be long: only the rows that can be seen, and some round them, are on the page. */
export function VirtualRows({ count, rowHeight, keyOf, children, ...attributes }: VirtualRowsProps) {
  const scroller = useRef<HTMLDivElement>(null)
  const rows = useVirtualizer({
    count,
    estimateSize: () => rowHeight,
    getItemKey: keyOf,
    getScrollElement: () => scroller.current,
    overscan: OVERSCAN,
  })
  return (
    <div ref={scroller} {...attributes}>
      <div role="presentation" style={{ position: 'relative', height: rows.getTotalSize() }}>
        {rows.getVirtualItems().map(({ key, index, start }) => (
          <div
            key={key}
            role="presentation"
            style={{ position: 'absolute', top: start, left: 0, width: '100%', height: rowHeight }}
          >
            {children(index)}
          </div>
        ))}
      </div>
    </div>
  )
}
