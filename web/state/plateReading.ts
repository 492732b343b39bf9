import { api } from '../session/api'
import type { FrameCache } from './frameCache'
import { say, useShot } from './shotStore'
import type { ShotInfo } from './types'

const LOOK_MS = 700

/** What `/api/shots/ID/reading` answers. */
type Reading = Pick<ShotInfo, 'state' | 'message' | 'firstFrame' | 'lastFrame' | 'warnings'> & {
  stretches: [number, number][]
}

/**
 * While a plate is still being read, looks which frames have come, tells the cache and the store, and says when all are
 * there, or why not.
 *
 * @param onFrames  called when frames can be fetched: at once where nothing is being read
 * @returns what ends it
 */
export function watchReading(info: ShotInfo, cache: FrameCache, onFrames: () => void): () => void {
  let timer: ReturnType<typeof setTimeout>
  let isOver = false
  const tell = (stretches: Reading['stretches'] | null) => {
    cache.setReadable(stretches)
    useShot.setState({ readStretches: stretches })
    onFrames()
  }
  let known = -1
  const look = async () => {
    // Without an answer it is asked again: that the server is away is said elsewhere.
    const reading = await api<Reading>(`/api/shots/${info.id}/reading`).catch(() => null)
    if (isOver) return
    if (!reading) return void (timer = setTimeout(() => void look(), 3 * LOOK_MS))
    const count = reading.stretches.reduce((sum, [first, last]) => sum + last - first + 1, 0)
    const { state, message, firstFrame, lastFrame, warnings } = reading
    if (state !== 'ingesting') useShot.setState({ info: { ...info, state, message, firstFrame, lastFrame, warnings } })
    if (state === 'ready') {
      tell(null)
      say('said', `The plate is read: ${count} frames`)
      return
    }
    if (count !== known) tell(reading.stretches)
    known = count
    if (state === 'failed') return say('bad', `The plate was not read to its end: ${message}`)
    timer = setTimeout(() => void look(), LOOK_MS)
  }
  if (info.state === 'ingesting') {
    cache.setReadable([])
    useShot.setState({ readStretches: [] })
    void look()
  } else tell(null)
  return () => {
    isOver = true
    clearTimeout(timer)
  }
}

/** Whether a frame of the plate is there to be looked at. */
export const isRead = (frame: number, stretches = useShot.getState().readStretches) =>
  stretches?.some(([first, last]) => frame >= first && frame <= last) ?? true
