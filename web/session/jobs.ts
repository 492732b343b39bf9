'use client'

import { useEffect, useState } from 'react'
import { api } from './api'
import type { DeliveryState, HandoffStatus, LiveToken } from '@tender-lasso/core/handoff'
import type { JobInfo } from '../store'

const BUSY_MS = 500
const IDLE_MS = 4000

/** Whoever shows jobs on this page. */
const lookers = new Set<() => void>()

/**
 * What the server answers at an address, asked for often while something is under way there.
 *
 * @param isBusy  always the same function
 * @param key     another one has it asked for at once
 */
function useWatched<Answer>(address: string, isBusy: (answer: Answer) => boolean, key?: unknown): Answer | null {
  const [answer, setAnswer] = useState<Answer | null>(null)
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout>
    let latest = 0
    const look = async () => {
      const own = ++latest
      const found = await api<Answer>(address).catch(() => null)
      // Asked anew meanwhile, or nobody looks any more: each answer that counts asks once more, and only one may.
      if (own !== latest) return
      if (found) setAnswer(found)
      timer = setTimeout(() => void look(), found && isBusy(found) ? BUSY_MS : IDLE_MS)
    }
    const now = () => {
      clearTimeout(timer)
      void look()
    }
    void look()
    lookers.add(now)
    return () => {
      latest++
      clearTimeout(timer)
      lookers.delete(now)
    }
  }, [address, isBusy, key])
  return answer
}

const isUnderWay = ({ state }: { state: DeliveryState }) => state === 'running' || state === 'queued'
const areJobsBusy = (jobs: JobInfo[]) => jobs.some(isUnderWay)
const isHandoffBusy = ({ deliveries }: HandoffStatus) => deliveries.some(isUnderWay)

const NO_JOBS: JobInfo[] = []

/** The jobs of a shot, or of all. */
export const useJobs = (shotId?: string): JobInfo[] =>
  useWatched(shotId ? `/api/jobs?shot=${shotId}` : '/api/jobs', areJobsBusy) ?? NO_JOBS

/** Deliveries of a shot and how far its outputs are behind; null before the first answer. @param key  changes with the document */
export const useHandoff = (shotId: string, key: unknown): HandoffStatus | null =>
  useWatched(`/api/shots/${shotId}/deliveries`, isHandoffBusy, key)

const never = () => false

/** Who is let in to read a shot's live hand-off; null before the first answer. */
export const useLiveTokens = (shotId: string) => ({
  tokens: useWatched<LiveToken[]>(`/api/shots/${shotId}/live`, never),
  look: jobsChanged,
})

/** Something was started or stopped: everybody looks again at once. */
export function jobsChanged() {
  lookers.forEach((look) => look())
}
