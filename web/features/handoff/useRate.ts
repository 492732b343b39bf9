import { useEffect, useState } from 'react'

interface Rate {
  framesPerSecond: number
  secondsLeft: number
}

/** How fast frames are made, from what was seen of it so far; null before anything can be said. */
export function useRate(jobId: string, done: number, total: number): Rate | null {
  const [seen, setSeen] = useState<{ jobId: string; from: number; since: number; rate: Rate | null } | null>(null)
  useEffect(() => {
    const now = performance.now()
    setSeen((before) => {
      if (before?.jobId !== jobId) return { jobId, from: done, since: now, rate: null }
      const framesPerSecond = (done - before.from) / ((now - before.since) / 1000)
      if (!(framesPerSecond > 0)) return before
      return { ...before, rate: { framesPerSecond, secondsLeft: Math.ceil((total - done) / framesPerSecond) } }
    })
  }, [jobId, done, total])
  return seen?.jobId === jobId ? seen.rate : null
}
