import { framesPerSecond } from '@tender-lasso/core/timing'
import { goTo, shotRange, useShot } from '../store'
import { endWithShot, frameCache } from '../session'

/**
 * Plays at the plate's rate from the cache: the frame to show follows the clock, and one that cannot be shown in time is
 * counted as dropped. Returns what stops it.
 */
function startPlayback(): () => void {
  const { info, frame: startFrame, playMode } = useShot.getState()
  const cache = frameCache()
  if (!info || !cache) return () => {}
  const [first, last] = shotRange()
  const length = last - first + 1
  const frameMs = 1000 / framesPerSecond(info.rate)
  let startTime = performance.now()
  let shownStep = 0
  let dropped = 0
  let request = 0
  let isStopped = false
  const frameOf = (step: number) => {
    const place = startFrame - first + step
    if (playMode === 'loop' || length === 1) return first + (((place % length) + length) % length)
    const period = 2 * (length - 1)
    const within = ((place % period) + period) % period
    return first + (within < length ? within : period - within)
  }
  const ahead = Array.from({ length }, (_, i) => frameOf(i))
  void cache.fetchAhead(ahead, () => !isStopped)
  const holdClock = (now: number) => (startTime = now - shownStep * frameMs)
  // A page out of sight shows no frames: that it did not is no fault, and it goes on where it was.
  const seenAgain = () => {
    if (!document.hidden) holdClock(performance.now())
  }
  document.addEventListener('visibilitychange', seenAgain)
  const tick = (now: number) => {
    if (isStopped) return
    request = requestAnimationFrame(tick)
    const step = Math.floor((now - startTime) / frameMs)
    if (step <= shownStep) return
    const frame = frameOf(step)
    // One that does not come would hold it up for ever: the viewer says that it is missing.
    if (!cache.get(frame) && !cache.isLost(frame)) {
      // Not there yet: hold the clock until it is, and count what should have been seen.
      void cache.load(frame)
      dropped += 1
      holdClock(now)
      useShot.setState({ droppedFrames: dropped })
      return
    }
    if (step > shownStep + 1) {
      dropped += step - shownStep - 1
      useShot.setState({ droppedFrames: dropped })
    }
    shownStep = step
    goTo(frame)
  }
  useShot.setState({ isPlaying: true, droppedFrames: 0 })
  request = requestAnimationFrame(tick)
  const stop = () => {
    isStopped = true
    ending()
    cancelAnimationFrame(request)
    document.removeEventListener('visibilitychange', seenAgain)
    useShot.setState({ isPlaying: false })
  }
  const ending = endWithShot(stop)
  return stop
}

let stop: (() => void) | null = null

export function togglePlayback() {
  if (stop && useShot.getState().isPlaying) stop()
  else stop = startPlayback()
}

export function stopPlayback() {
  if (useShot.getState().isPlaying) stop?.()
}
