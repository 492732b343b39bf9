import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { FrameCache } from './frameCache'

const range = [1001, 1002, 1003, 1004, 1005, 1006, 1007]
let asked: number[]

beforeEach(() => {
  asked = []
  vi.useFakeTimers()
  vi.stubGlobal('fetch', (address: string) => {
    const frame = Number(/frames\/(\d+)\//.exec(address)![1])
    asked.push(frame)
    if (frame === 1004) return Promise.reject(new TypeError('the network is away'))
    // The connection is cut in the middle of its picture.
    if (frame === 1008) return Promise.resolve({ ok: true, blob: () => Promise.reject(new TypeError('cut')) })
    return Promise.resolve({ ok: frame !== 1006, blob: () => Promise.resolve(frame) })
  })
  vi.stubGlobal('createImageBitmap', (blob: number) => Promise.resolve({ frame: blob, close: vi.fn() }))
})
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
})

describe('frames fetched ahead', () => {
  it('are those that are not held, in the order asked for; one that the server refuses does not stop the others', async () => {
    const cache = new FrameCache('shot', 1, 100)
    await cache.load(1002)
    await cache.fetchAhead(range, () => true)
    expect(asked).toEqual([1002, 1001, 1003, 1004, 1005, 1006, 1007])
    expect([...cache.heldFrames()].sort()).toEqual([1001, 1002, 1003, 1005, 1007])
  })

  it('that do not come are known as lost until they do', async () => {
    const cache = new FrameCache('shot', 1, 100)
    for (const frame of [1004, 1006, 1008]) {
      expect(await cache.load(frame)).toBeNull()
      expect(cache.isLost(frame)).toBe(true)
    }
    expect(cache.isLost(1005)).toBe(false)
    vi.stubGlobal('fetch', () => Promise.resolve({ ok: true, blob: () => Promise.resolve(1004) }))
    expect(await cache.load(1004)).not.toBeNull()
    expect(cache.isLost(1004)).toBe(false)
  })

  it('are told of one by one, and in steps to what only shows how many are held, until that is ended', async () => {
    const cache = new FrameCache('shot', 1, 100)
    const [each, steps] = [vi.fn(), vi.fn()]
    cache.onChange(each)
    const stop = cache.onChangeInSteps(steps)
    await cache.fetchAhead(range, () => true)
    expect(each).toHaveBeenCalledTimes(5)
    expect(steps).not.toHaveBeenCalled()
    await vi.advanceTimersByTimeAsync(1000)
    expect(steps).toHaveBeenCalledTimes(1)
    cache.clear()
    await vi.advanceTimersByTimeAsync(1000)
    expect(steps).toHaveBeenCalledTimes(2)
    cache.clear()
    stop()
    cache.clear()
    await vi.advanceTimersByTimeAsync(1000)
    expect(steps).toHaveBeenCalledTimes(2)
  })

  it('wait while something else needs the machine, and go on after it', async () => {
    const cache = new FrameCache('shot', 1, 100)
    let isBusy = true
    const done = cache.fetchAhead(range, () => true, () => isBusy) // prettier-ignore
    await vi.advanceTimersByTimeAsync(2000)
    expect(asked).toEqual([])
    isBusy = false
    await vi.advanceTimersByTimeAsync(300)
    await done
    expect(asked).toEqual(range)
  })

  it('end where they are not wanted any more, also while they wait', async () => {
    const cache = new FrameCache('shot', 1, 100)
    let isWanted = true
    const done = cache.fetchAhead(range, () => isWanted, () => true) // prettier-ignore
    await vi.advanceTimersByTimeAsync(300)
    isWanted = false
    await vi.advanceTimersByTimeAsync(300)
    await done
    expect(asked).toEqual([])
  })

  it('are no more than fit, and those farthest from the playhead make room', async () => {
    const cache = new FrameCache('shot', 10, 40)
    await cache.load(1007)
    await cache.fetchAhead([1001, 1002, 1003, 1005, 1007], () => true)
    expect([...cache.heldFrames()].sort()).toEqual([1002, 1003, 1005, 1007])
    cache.setBudget(20)
    expect([...cache.heldFrames()].sort()).toEqual([1005, 1007])
  })

  it('are only those that are read already', async () => {
    const cache = new FrameCache('shot', 1, 100)
    cache.setReadable([[1001, 1002]])
    await cache.fetchAhead(range, () => true)
    expect(asked).toEqual([1001, 1002])
    expect(await cache.load(1003)).toBeNull()
  })
})
