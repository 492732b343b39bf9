import type { ReadStretches } from '../media'
import { api } from './api'
import type { ShotInfo } from '../store'

const LOOK_MS = 700

/** What `/api/shots/ID/reading` answers. */
type Reading = Pick<ShotInfo, 'state' | 'message' | 'firstFrame' | 'lastFrame' | 'warnings'> & {
  stretches: [number, number][]
}

/** What is done about a plate that is being read. */
export interface ReadingListener {
  /** Frames can be fetched: at once where nothing is being read. */
  onFrames(stretches: ReadStretches): void
  /** The reading has come to its end: what the shot is now, how many frames it has, and whether it failed. */
  onEnd(info: ShotInfo, frames: number): void
}

/**
 * While a plate is still being read, looks which frames have come, until all are there or the reading fails.
 *
 * @returns what ends it
 */
export function watchReading(info: ShotInfo, { onFrames, onEnd }: ReadingListener): () => void {
  let timer: ReturnType<typeof setTimeout>
  let isOver = false
  let known = -1
  const look = async () => {
    // Without an answer it is asked again: that the server is away is said elsewhere.
    const reading = await api<Reading>(`/api/shots/${info.id}/reading`).catch(() => null)
    if (isOver) return
    if (!reading) return void (timer = setTimeout(() => void look(), 3 * LOOK_MS))
    const { stretches, ...now } = reading
    const count = stretches.reduce((sum, [first, last]) => sum + last - first + 1, 0)
    if (now.state !== 'ingesting') onEnd({ ...info, ...now }, count)
    if (now.state === 'ready') return onFrames(null)
    if (count !== known) onFrames(stretches)
    known = count
    if (now.state === 'ingesting') timer = setTimeout(() => void look(), LOOK_MS)
  }
  if (info.state === 'ingesting') {
    onFrames([])
    void look()
  } else onFrames(null)
  return () => {
    isOver = true
    clearTimeout(timer)
  }
}
