import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { isArtistActing, watchActs } from './artistActing'

const page = new EventTarget()
let now = 0

beforeEach(() => {
  vi.stubGlobal('addEventListener', page.addEventListener.bind(page))
  vi.stubGlobal('removeEventListener', page.removeEventListener.bind(page))
  vi.spyOn(performance, 'now').mockImplementation(() => now)
})
afterEach(() => {
  vi.unstubAllGlobals()
  vi.restoreAllMocks()
})

it('an act is one by pointer, wheel or keys, for a moment, as long as the shot is open', () => {
  now = 10_000
  const stop = watchActs()
  expect(isArtistActing()).toBe(false)
  for (const act of ['keydown', 'pointerdown', 'pointermove', 'wheel']) {
    now += 10_000
    page.dispatchEvent(new Event(act))
    now += 300
    expect(isArtistActing(), act).toBe(true)
    now += 300
    expect(isArtistActing(), act).toBe(false)
  }
  stop()
  page.dispatchEvent(new Event('keydown'))
  expect(isArtistActing()).toBe(false)
})
