import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { useShot, type ShotInfo } from '../store'
import { endShotWork } from '../session/shotWork'
import { stopPlayback, togglePlayback } from './playback'

/** Frames that the browser holds, and those that the server refuses. */
const cache = vi.hoisted(() => ({
  held: new Set<number>(),
  lost: new Set<number>(),
  get: (frame: number) => cache.held.has(frame),
  isLost: (frame: number) => cache.lost.has(frame),
  load: vi.fn(),
  fetchAhead: vi.fn(),
}))
vi.mock('../session', async () => ({ ...(await import('../session/shotWork')), frameCache: () => cache }))

const FRAME_MS = 40
const DISPLAY_MS = 8
let now: number
let next: FrameRequestCallback | null
const page = {
  hidden: false,
  heard: null as (() => void) | null,
  addEventListener: (_: string, listener: () => void) => void (page.heard = listener),
  removeEventListener: () => void (page.heard = null),
}

beforeEach(() => {
  now = 0
  next = null
  page.hidden = false
  vi.stubGlobal('document', page)
  vi.stubGlobal('requestAnimationFrame', (callback: FrameRequestCallback) => (next = callback))
  vi.stubGlobal('cancelAnimationFrame', () => (next = null))
  vi.spyOn(performance, 'now').mockImplementation(() => now)
  cache.held = new Set([101, 102, 103, 104, 105])
  cache.lost = new Set()
  cache.load.mockClear()
  useShot.setState({
    info: { firstFrame: 101, lastFrame: 105, rate: { numerator: 25, denominator: 1 } } as ShotInfo,
    frame: 101,
    range: null,
    playMode: 'loop',
    isPlaying: false,
  })
})
afterEach(() => {
  stopPlayback()
  vi.restoreAllMocks()
  vi.unstubAllGlobals()
})

/** Lets so many frames of the plate pass on the display. */
function pass(frames: number) {
  for (const until = now + frames * FRAME_MS; now < until;) {
    now += DISPLAY_MS
    const callback = next
    next = null
    callback?.(now)
  }
}
const shown = () => {
  const { frame, droppedFrames, isPlaying } = useShot.getState()
  return [frame, droppedFrames, isPlaying]
}

describe('playback', () => {
  it('goes at the rate of the plate, round and round, until it is stopped', () => {
    togglePlayback()
    pass(2.5)
    expect(shown()).toEqual([103, 0, true])
    pass(3)
    expect(shown()).toEqual([101, 0, true])
    togglePlayback()
    pass(3)
    expect(shown()).toEqual([101, 0, false])
  })

  it('goes to and fro', () => {
    useShot.setState({ playMode: 'to-and-fro' })
    togglePlayback()
    pass(5.5)
    expect(shown()).toEqual([104, 0, true])
  })

  it('waits for a frame that is on its way, and counts what was not seen', () => {
    cache.held.delete(103)
    togglePlayback()
    pass(6.5)
    const [frame, dropped] = shown()
    expect(frame).toBe(102)
    expect(dropped).toBeGreaterThan(0)
    expect(cache.load).toHaveBeenCalledWith(103)
    cache.held.add(103)
    pass(1)
    expect(shown()[0]).toBe(103)
  })

  it('passes over a frame that does not come', () => {
    cache.held.delete(103)
    cache.lost.add(103)
    togglePlayback()
    pass(2.5)
    expect(shown()).toEqual([103, 0, true])
    pass(1)
    expect(shown()).toEqual([104, 0, true])
  })

  it('goes on where it was when the page is seen again, with nothing dropped', () => {
    togglePlayback()
    pass(1.5)
    // No display frames come while it is out of sight.
    now += 60_000
    page.heard!()
    pass(1)
    expect(shown()).toEqual([103, 0, true])
  })

  it('ends with its shot', () => {
    togglePlayback()
    pass(1.5)
    endShotWork()
    useShot.setState({ frame: 101 })
    pass(3)
    expect(shown()).toEqual([101, 0, false])
    expect(page.heard).toBeNull()
  })
})
