import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { documentOf, testShot, testTrack } from '@tender-lasso/core/document/testDocuments'
import type { TrackRun } from '@tender-lasso/core/tracking'
import { NOTHING_SELECTED, useShot, type ShotInfo } from '../store'
import { watchTrackReadiness } from './trackReadiness'

const helpers = vi.hoisted(() => ({
  asked: [] as { helper: number; runs: unknown[] }[],
  die: false,
  held: [] as Promise<unknown>[],
}))
vi.mock('../session', () => ({ holdBackground: (work: Promise<unknown>) => helpers.held.push(work) }))
vi.mock('./trackWorkers', () => ({
  plateOf: (info: unknown) => info,
  trackWorkers: (count: number) =>
    Array.from({ length: Math.min(2, count) }, (_, helper) => ({
      getReady: (_plate: unknown, runs: unknown[]) => {
        helpers.asked.push({ helper, runs })
        return helpers.die ? Promise.reject(new Error('The helper that looks at pictures ended')) : Promise.resolve()
      },
    })),
}))

const tracks = ['a', 'b', 'c'].map((id, i) => ({
  ...testTrack(id),
  outlines: [Float64Array.of(100 * i, 0, 100 * i + 60, 0, 100 * i + 60, 60, 100 * i, 60)],
}))
const document = documentOf([testShot, ...tracks])
const info = { id: 'shot', width: 1280, height: 720, firstFrame: 1001, lastFrame: 1072 } as ShotInfo
const choose = (...trackIds: string[]) => useShot.setState({ selection: { ...NOTHING_SELECTED, trackIds } })

let stop: () => void
beforeEach(() => {
  vi.useFakeTimers()
  helpers.asked = []
  helpers.die = false
  helpers.held = []
  useShot.setState({ document, shown: document, info, frame: 1001, range: null, track: null, isPlaying: false, message: null, selection: NOTHING_SELECTED }) // prettier-ignore
  stop = watchTrackReadiness()
})
afterEach(() => {
  stop()
  vi.useRealTimers()
})

describe('helpers get ready for the tracks chosen', () => {
  it('once the choice rests, each for its share of the next frames', async () => {
    choose('a')
    await vi.advanceTimersByTimeAsync(100)
    choose('a', 'b', 'c')
    await vi.advanceTimersByTimeAsync(200)
    expect(helpers.asked).toEqual([])
    await vi.advanceTimersByTimeAsync(200)
    expect(helpers.asked.map(({ runs }) => runs.length)).toEqual([2, 1])
    const [first] = helpers.asked[0]!.runs as TrackRun[]
    expect(first!.steps.map(({ frame }) => frame)).toEqual(Array.from({ length: 12 }, (_, i) => 1002 + i))
  })

  it('and what only fills memory waits for each of them, also where one dies', async () => {
    choose('a', 'b', 'c')
    await vi.advanceTimersByTimeAsync(1000)
    helpers.die = true
    choose('a')
    await vi.advanceTimersByTimeAsync(1000)
    expect(await Promise.allSettled(helpers.held)).toEqual(Array(3).fill({ status: 'fulfilled' }))
  })

  it('not while a run is under way or the shot is played, nor for what cannot be tracked', async () => {
    useShot.setState({ isPlaying: true })
    choose('a')
    await vi.advanceTimersByTimeAsync(1000)
    useShot.setState({ isPlaying: false, document: documentOf([testShot, { ...tracks[0]!, locked: true }]) })
    choose('a')
    await vi.advanceTimersByTimeAsync(1000)
    choose()
    await vi.advanceTimersByTimeAsync(1000)
    expect(helpers.asked).toEqual([])
  })

  it('and say nothing of what goes wrong: nobody has asked for it', async () => {
    helpers.die = true
    choose('a')
    await vi.advanceTimersByTimeAsync(1000)
    expect(helpers.asked).toHaveLength(1)
    expect(useShot.getState().message).toBeNull()
  })

  it('no longer once the workspace is left', async () => {
    choose('a')
    stop()
    await vi.advanceTimersByTimeAsync(1000)
    expect(helpers.asked).toEqual([])
  })
})
