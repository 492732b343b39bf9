import { proxy, releaseProxy, wrap } from 'comlink'
import { find, patchesForSamples, sampleAt, type Track, type TrackSample } from '@tender-lasso/core/document'
import type { TrackedFrame, TrackRun } from '@tender-lasso/core/tracking'
import { edit, goTo, preview, say, shotRange, useShot } from './shotStore'
import type { TrackWorker } from '../workers/track.worker'

export type TrackDirection = 'forward' | 'backward' | 'both'

let stopRunning: (() => void) | null = null

export function stopTracking() {
  stopRunning?.()
}

/**
 * Tracks the selected track in a worker to the end of the range, from its last good frame or its reference. The artist
 * sees each frame as it is found; the result is one edit.
 *
 * @param mostFrames  frames to go in each direction
 */
export async function runSelectedTrack(direction: TrackDirection, mostFrames = Infinity): Promise<void> {
  const { info, selection, track: running } = useShot.getState()
  if (running || !info || selection.trackId === null) return
  const worker = new Worker(new URL('../workers/track.worker.ts', import.meta.url), { type: 'module' })
  const remote = wrap<TrackWorker>(worker)
  let isStopped = false
  stopRunning = () => {
    isStopped = true
    void remote.stop()
  }
  try {
    for (const way of direction === 'both' ? (['forward', 'backward'] as const) : [direction]) {
      if (isStopped) break
      const track = find(useShot.getState().document, 'track', selection.trackId)
      if (!track) break
      await runOneWay(track, planRun(track, way, mostFrames), way, async (run, onFrame) =>
        remote.run({ shotId: info.id, width: info.width, height: info.height }, run, proxy(onFrame)),
      )
    }
  } catch (error) {
    say('bad', error instanceof Error ? error.message : String(error))
  } finally {
    stopRunning = null
    useShot.setState({ track: null })
    remote[releaseProxy]()
    worker.terminate()
  }
}

type Runner = (run: TrackRun, onFrame: (sample: TrackedFrame) => void) => ReturnType<TrackWorker['run']>

async function runOneWay(track: Track, run: TrackRun, way: 'forward' | 'backward', runner: Runner): Promise<void> {
  if (run.frames.length === 0) {
    say('said', `${track.name} reaches the ${way === 'forward' ? 'last' : 'first'} frame already`)
    return
  }
  const found: TrackSample[] = []
  // The reference frame belongs to the track as much as any other: there it is where it was drawn.
  if (!sampleAt(track, track.referenceFrame)) {
    const matrix = Float64Array.of(1, 0, 0, 0, 1, 0, 0, 0, 1)
    found.push({ frame: track.referenceFrame, matrix, match: 1, kept: 1 })
  }
  const start = performance.now()
  let hasEnded = false
  const onFrame = (sample: TrackedFrame) => {
    // Frames are told on a channel of their own and may arrive after the end; the end brings them all anyway.
    if (hasEnded) return
    found.push(sample)
    preview(patchesForSamples(track, found))
    goTo(sample.frame)
    const done = found.length
    const framesPerSecond = (1000 * done) / (performance.now() - start)
    useShot.setState({
      track: { trackId: track.id, frame: sample.frame, done, total: run.frames.length, framesPerSecond },
    })
  }
  useShot.setState({
    track: { trackId: track.id, frame: run.referenceFrame, done: 0, total: run.frames.length, framesPerSecond: 0 },
  })
  const { end, samples } = await runner(run, onFrame)
  hasEnded = true
  const seen = new Set(found.map((sample) => sample.frame))
  found.push(...samples.filter((sample) => !seen.has(sample.frame)))
  const latest = find(useShot.getState().document, 'track', track.id)
  if (latest && found.length) edit(`track ${track.name} ${way}`, patchesForSamples(latest, found))
  const last = samples.at(-1)?.frame
  if (end.reason === 'lost') {
    const why =
      end.match === 0
        ? 'too little of it is left to see'
        : `match ${end.match.toFixed(2)} is below ${track.minimumMatch}`
    say('doubtful', `${track.name} stopped after ${last ?? track.referenceFrame}: on ${end.frame} ${why}`)
  } else if (end.reason === 'outside') say('doubtful', `${track.name} leaves the picture on ${end.frame}`)
  else say('said', `${track.name}: ${found.length} frames`)
}

/** Frames to track: from the last sample in that direction (or the reference) to the range's end. */
function planRun(track: Track, way: 'forward' | 'backward', mostFrames: number): TrackRun {
  const [first, last] = shotRange()
  const step = way === 'forward' ? 1 : -1
  let at = track.referenceFrame
  while (sampleAt(track, at + step)) at += step
  const known = [at, at - step].flatMap((frame) => sampleAt(track, frame)?.matrix ?? [])
  const frames: number[] = []
  for (let frame = at + step; frame >= first && frame <= last && frames.length < mostFrames; frame += step)
    frames.push(frame)
  return {
    model: track.model,
    referenceFrame: track.referenceFrame,
    region: track.region,
    leaveOut: track.leaveOut,
    minimumMatch: track.minimumMatch,
    frames,
    known,
  }
}
