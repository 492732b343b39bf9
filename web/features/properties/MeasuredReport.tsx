'use client'

import type { ReactNode } from 'react'
import { useBroughtIntoSight } from './broughtIntoSight'
import styles from './properties.module.css'

/** What was measured, brought into sight as soon as it is there: it stands below the button that asked for it. */
export function MeasuredReport({ of, children }: { of: object; children: ReactNode }) {
  return (
    <div ref={useBroughtIntoSight(of)} className={styles.report}>
      {children}
    </div>
  )
}
