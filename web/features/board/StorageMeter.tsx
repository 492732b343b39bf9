'use client'

import { useEffect, useState } from 'react'
import { Tooltip } from 'antd'
import { api } from '../../session'
import type { StorageUsage } from '../../store'
import styles from './board.module.css'

const LOOK_MS = 30_000

/** How much of the disk the data folder takes, and how much is left. @param changes  looks again when it changes */
export function StorageMeter({ changes }: { changes: unknown }) {
  const [usage, setUsage] = useState<StorageUsage | null>(null)
  useEffect(() => {
    let isOver = false
    // Without an answer the last one stands: what is wrong then is said beside it.
    const look = () => void api<StorageUsage>('/api/storage').then((found) => !isOver && setUsage(found), () => undefined) // prettier-ignore
    look()
    const timer = setInterval(look, LOOK_MS)
    return () => {
      isOver = true
      clearInterval(timer)
    }
  }, [changes])
  if (!usage) return null
  const own = usage.originals + usage.frames + usage.handoffs + usage.uploads
  const others = Math.max(0, usage.total - usage.free - own)
  const share = (bytes: number) => `${(100 * bytes) / usage.total}%`
  const rows: [string, number][] = [
    ['Originals', usage.originals],
    ['Frames', usage.frames],
    ['Hand-offs', usage.handoffs],
    ['Uploads', usage.uploads],
  ]
  return (
    <Tooltip
      title={rows.map(([name, bytes]) => (
        <div key={name}>
          {name}: {sizeWords(bytes)}
        </div>
      ))}
    >
      <span className={styles.storage} tabIndex={0} data-testid="storage">
        <span
          className={styles.meter}
          role="meter"
          aria-label="Disk that is used"
          aria-valuemin={0}
          aria-valuemax={100}
          aria-valuenow={Math.round((100 * (usage.total - usage.free)) / usage.total)}
        >
          <span className={styles.meterOthers} style={{ width: share(others) }} />
          <span className={styles.meterOwn} style={{ width: share(own) }} />
        </span>
        <span className={usage.isNearlyFull ? styles.storageLow : undefined}>
          {sizeWords(own)} stored, {sizeWords(usage.free)} free
        </span>
      </span>
    </Tooltip>
  )
}

function sizeWords(bytes: number): string {
  if (bytes >= 1e12) return `${(bytes / 1e12).toFixed(1)} TB`
  if (bytes >= 1e9) return `${(bytes / 1e9).toFixed(bytes >= 1e11 ? 0 : 1)} GB`
  return `${Math.round(bytes / 1e6)} MB`
}
