'use client'

import { useEffect, useState } from 'react'
import { api } from './api'
import type { JobInfo } from '../store'

const BUSY_MS = 500
const IDLE_MS = 4000

/** Whoever shows jobs on this page. */
const lookers = new Set<() => void>()

/** The jobs of a shot (or of all), looked at often while one is running. */
export function useJobs(shotId?: string): JobInfo[] {
  const [jobs, setJobs] = useState<JobInfo[]>([])
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout>
    let isOver = false
    const look = async () => {
      const found = await api<JobInfo[]>(shotId ? `/api/jobs?shot=${shotId}` : '/api/jobs').catch(() => null)
      if (isOver) return
      if (found) setJobs(found)
      const isBusy = found?.some((job) => job.state === 'running' || job.state === 'queued')
      timer = setTimeout(() => void look(), isBusy ? BUSY_MS : IDLE_MS)
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
  }, [shotId])
  return jobs
}

/** Something was started or stopped: everybody looks again at once. */
export function jobsChanged() {
  lookers.forEach((look) => look())
}
