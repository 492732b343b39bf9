'use client'

import { useEffect, useState } from 'react'
import { api } from '../../session'

interface Health {
  database: boolean
  /** Worker processes that live; null when nobody can tell. */
  workers: number | null
  free?: number
  isNearlyFull: boolean
}

/** Something of the application that does not live just now, or will not for long. */
export interface HealthNote {
  kind: 'doubtful' | 'bad'
  words: string
  /** What is safe, and what to do. */
  more: string
}

const LOOK_MS = 4000

/** What is wrong with the parts of the application, looked at every few seconds while the page is in sight. */
export function useHealth(): HealthNote | null {
  const [note, setNote] = useState<HealthNote | null>(null)
  useEffect(() => {
    let isOver = false
    const look = async () => {
      if (globalThis.document.hidden) return
      const health = await api<Health>('/api/health', { patience: LOOK_MS }).catch(() => null)
      if (!isOver) setNote(noteOf(health))
    }
    void look()
    const timer = setInterval(() => void look(), LOOK_MS)
    return () => {
      isOver = true
      clearInterval(timer)
    }
  }, [])
  return note
}

export function noteOf(health: Health | null): HealthNote | null {
  if (!health) {
    return {
      kind: 'bad',
      words: 'server away',
      more: 'The web server does not answer. Edits are kept in this browser; it is started again by itself.',
    }
  }
  if (!health.database) {
    return {
      kind: 'bad',
      words: 'database away',
      more: 'The database does not answer. What was stored is safe; it is started again by itself.',
    }
  }
  if (health.workers === 0) {
    return {
      kind: 'doubtful',
      words: 'no worker',
      more: 'No worker process lives: plates and hand-offs wait. It is started again by itself.',
    }
  }
  if (health.isNearlyFull) {
    const gigabytes = ((health.free ?? 0) / 1e9).toFixed(1)
    return {
      kind: 'doubtful',
      words: `disk nearly full: ${gigabytes} GB left`,
      more: 'Soon nothing can be stored. Delete shots that are done, or give the data folder more room.',
    }
  }
  return null
}
