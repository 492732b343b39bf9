'use client'

import { useEffect, useRef, useState } from 'react'
import { api } from './api'
import type { HandoffStatus, JobInfo } from '../store'

const BUSY_MS = 500
const IDLE_MS = 4000

/** Whoever shows jobs on this page. */
const lookers = new Set<() => void>()

/**
 * What the server answers at an address, asked for often while something is under way there.
 *
 * @param key  another one has it asked for at once
 */
function useWatched<Answer>(address: string, isBusy: (answer: Answer) => boolean, key?: unknown): Answer | null {
  const [answer, setAnswer] = useState<Answer | null>(null)
  const isBusyNow = useRef(isBusy)
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout>
    let isOver = false
    const look = async () => {
      const found = await api<Answer>(address).catch(() => null)
      if (isOver) return
      if (found) setAnswer(found)
      timer = setTimeout(() => void look(), found && isBusyNow.current(found) ? BUSY_MS : IDLE_MS)
    }
    const now = () => {
      clearTimeout(timer)
      void look()
    }
    void look()
    lookers.add(now)
    return () => {
      isOver = true
      clearTimeout(timer)
      lookers.delete(now)
    }
  }, [address, key])
  return answer
}

const isUnderWay = ({ state }: { state: JobInfo['state'] }) => state === 'running' || state === 'queued'

const NO_JOBS: JobInfo[] = []

/** The jobs of a shot, or of all. */
export const useJobs = (shotId?: string): JobInfo[] =>
  useWatched<JobInfo[]>(shotId ? `/api/jobs?shot=${shotId}` : '/api/jobs', (jobs) => jobs.some(isUnderWay)) ?? NO_JOBS

/** Deliveries of a shot and how far its outputs are behind; null before the first answer. @param key  changes with the document */
export const useHandoff = (shotId: string, key: unknown): HandoffStatus | null =>
  useWatched<HandoffStatus>(`/api/shots/${shotId}/deliveries`, ({ deliveries }) => deliveries.some(isUnderWay), key)

/** Something was started or stopped: everybody looks again at once. */
export function jobsChanged() {
  lookers.forEach((look) => look())
}
