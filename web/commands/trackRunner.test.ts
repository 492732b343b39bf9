import { beforeEach, describe, expect, it, vi } from 'vitest'
import { identity } from '@tender-lasso/core/geometry'
import { withPatchesApplied, type Patch, type Track } from '@tender-lasso/core/document'
import { sampleAt, unmeasuredSample } from '@tender-lasso/core/evaluation'
import { documentOf, testShot, testTrack } from '@tender-lasso/core/document/testDocuments'
import type { Found, RunEnd } from '../workers/track.worker'
import { onlyTracks, useShot, type ShotInfo } from '../store'
import { endShotWork } from '../session/shotWork'
import { runSelectedTracks } from './trackRunner'

const edits = vi.hoisted(() => ({ made: [] as { label: string; patches: Patch[] }[] }))
vi.mock('../session', async () => ({
  ...(await import('../session/shotWork')),
  edit: (label: string, patches: Patch[]) => patches.length > 0 && edits.made.push({ label, patches }),
  wordsOf: (error: Error) => error.message,
}))

/** A helper that does what the test says. */
const helper = vi.hoisted(() => ({
  tell: (() => {}) as (found: readonly Found[]) => void,
  end: (() => {}) as (ends: RunEnd[]) => void,
  die: (() => {}) as (error: Error) => void,
  stop: vi.fn(async () => undefined),
}))
vi.mock('./trackWorkers', () => ({
  plateOf: () => ({}),
  trackWorkers: () => [
    {
      stop: helper.stop,
      run: (_plate: unknown, _runs: unknown, onFound: (found: readonly Found[]) => void) => {
        helper.tell = onFound
        return new Promise<RunEnd[]>((resolve, reject) => Object.assign(helper, { end: resolve, die: reject }))
      },
    },
  ],
}))

const track: Track = testTrack('sign')
const document = documentOf([testShot, track])
const foundOn = (frame: number): Found => ({
  index: 0,
  sample: { ...unmeasuredSample(frame, 'tracked', identity()), match: 1, kept: 1, hold: 1 },
})
const leave = () => {
  endShotWork()
  useShot.setState({ track: null })
}
const framesKept = () => {
  const after = withPatchesApplied(document, edits.made.flatMap(({ patches }) => patches)) // prettier-ignore
  const kept = after.objects.get('sign') as Track
  return [1001, 1002, 1003, 1004].filter((frame) => sampleAt(kept, frame))
}

beforeEach(() => {
  edits.made = []
  helper.stop.mockClear()
  vi.stubGlobal('requestAnimationFrame', (show: FrameRequestCallback) => setTimeout(() => show(performance.now()), 0))
  useShot.setState({
    document,
    shown: document,
    info: { id: 'WS_010', firstFrame: 1001, lastFrame: 1010, width: 1000, height: 800 } as ShotInfo,
    frame: 1001,
    range: null,
    track: null,
    message: null,
  })
  useShot.setState({ selection: { ...useShot.getState().selection, ...onlyTracks(['sign']) } })
})

describe('tracks that are run', () => {
  it('become one edit in the end', async () => {
    const running = runSelectedTracks('forward')
    expect(useShot.getState().track?.trackIds).toEqual(['sign'])
    helper.tell([foundOn(1002), foundOn(1003)])
    helper.end([{ reason: 'finished' }])
    await running
    expect(edits.made.map(({ label }) => label)).toEqual(['track sign forward'])
    expect(framesKept()).toEqual([1001, 1002, 1003])
    expect(useShot.getState().track).toBeNull()
  })

  it('end with their shot: what was found is kept, and the next shot hears nothing of it', async () => {
    const running = runSelectedTracks('forward')
    helper.tell([foundOn(1002)])
    leave()
    expect(helper.stop).toHaveBeenCalled()
    expect(framesKept()).toEqual([1001, 1002])
    // In the next shot another run is begun before the helper has heard that this one is over.
    const [tell, end] = [helper.tell, helper.end]
    const next = runSelectedTracks('forward')
    useShot.setState({ frame: 1009 })
    tell([foundOn(1003)])
    end([{ reason: 'stopped' }])
    await running
    await new Promise((resolve) => setTimeout(resolve, 20))
    expect(edits.made).toHaveLength(1)
    expect(useShot.getState()).toMatchObject({ frame: 1009, message: null, track: { trackIds: ['sign'] } })
    helper.end([{ reason: 'finished' }])
    await next
    expect(useShot.getState().track).toBeNull()
  })

  it('keep what was found when a helper dies', async () => {
    const running = runSelectedTracks('forward')
    helper.tell([foundOn(1002)])
    helper.die(new Error('The helper that looks at pictures ended'))
    await running
    expect(framesKept()).toEqual([1001, 1002])
    expect(useShot.getState().message?.words).toBe(
      'The tracks were not carried on: The helper that looks at pictures ended',
    )
    expect(useShot.getState().track).toBeNull()
  })
})
