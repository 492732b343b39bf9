'use client'

import { useEffect, useRef, type ReactNode } from 'react'
import styles from './properties.module.css'

/** What was measured, brought into sight as soon as it is there: it stands below the button that asked for it. */
export function MeasuredReport({ of, children }: { of: object; children: ReactNode }) {
  const place = useRef<HTMLDivElement>(null)
  useEffect(() => {
    place.current?.scrollIntoView({ block: 'nearest' })
  }, [of])
  return (
    <div ref={place} className={styles.report}>
      {children}
    </div>
  )
}
