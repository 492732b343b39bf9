import { proxy } from 'comlink'
import { findObject, type Patch, type Track } from '@tender-lasso/core/document'
import {
  patchesForSamples,
  samplesReplaced,
  sampleAt,
  unmeasuredSample,
  followedMatrix,
  type TrackSample,
} from '@tender-lasso/core/evaluation'
import { canBeTracked, isSampleStale, trackPlans, trackStamp, type TrackPlanOptions } from '@tender-lasso/core/tracks'
import { identity } from '@tender-lasso/core/geometry'
import { dealtByPlace, SLIDES_BELOW, type TrackedFrame, type TrackRun } from '@tender-lasso/core/tracking'
import type { Found, RunEnd } from '../workers/track.worker'
import { edit, endWithShot, whileOpen, wordsOf } from '../session'
import { isLost, tellHow, type Outcome, type TrackDirection } from './trackReport'
import { goTo, preview, say, shotRange, useShot } from '../store'
import { showingNews } from './showingNews'
import { plateOf, trackWorkers } from './trackWorkers'

let stopRunning: (() => void) | null = null

export function stopTracking() {
  stopRunning?.()
}

/**
 * Tracks the selected tracks to the ends of the range, each from its last known frame or its reference. The artist sees
 * each frame as it is found; the result is one edit a direction.
 */
export async function runSelectedTracks(
  direction: TrackDirection,
  options: Pick<TrackPlanOptions, 'mostFrames' | 'from'> = {},
): Promise<void> {
  const { info, selection, track: running, document, frame: at } = useShot.getState()
  const chosen = selection.trackIds.flatMap((id) => findObject(document, 'track', id) ?? [])
  if (running || !info || chosen.length === 0) return
  const free = chosen.filter(canBeTracked)
  if (free.length === 0) {
    say('doubtful', chosen[0]!.locked ? `${chosen[0]!.name} is locked` : `${chosen[0]!.name} is made from other tracks`)
    return
  }
  let isStopped = false
  const outcomes: Outcome[] = []
  const remotes = trackWorkers(free.length)
  stopRunning = () => {
    isStopped = true
    remotes.forEach((remote) => void remote.stop().catch(() => undefined))
  }
  const isOpen = whileOpen()
  const ending = endWithShot(stopRunning)
  const planned = new Map(free.map(({ id }) => [id, new Set<number>()]))
  try {
    for (const way of direction === 'both' ? (['forward', 'backward'] as const) : [direction]) {
      const { document: now } = useShot.getState()
      const jobs = free.flatMap((before): TrackJob[] => {
        const track = findObject(now, 'track', before.id)
        const runs = track ? trackPlans(now, track, { ...options, way, at, range: shotRange() }) : []
        for (const { steps } of runs) for (const { frame } of steps) planned.get(before.id)!.add(frame)
        return runs.map((run) => ({ track: track!, run }))
      })
      if (jobs.length && !isStopped) outcomes.push(...(await runJobs(jobs, way, remotes, plateOf(info))))
      if (!isOpen()) return
    }
    const stop = outcomes.find(({ end }) => isLost(end))
    // A run in the other direction has gone on meanwhile.
    if (stop) goTo(stop.at)
    const kept = free.map((track) => framesKept(track, planned.get(track.id)!, direction, at))
    tellHow(free, outcomes, kept, direction, (way) => void runSelectedTracks(way))
  } catch (error) {
    if (!isOpen()) return
    // Those that live would go on for nothing.
    stopRunning?.()
    preview([])
    say('bad', `The tracks were not carried on: ${wordsOf(error)}`)
  } finally {
    ending()
    // In the shot that is open now another run may be under way.
    if (isOpen()) {
      stopRunning = null
      useShot.setState({ track: null })
    }
  }
}

/** How many frames of a track, as it was, a run leaves as they are. */
function framesKept(track: Track, planned: ReadonlySet<number>, direction: TrackDirection, at: number): number {
  const [first, last] = shotRange()
  const [from, to] = [direction === 'forward' ? at : first, direction === 'backward' ? at : last]
  let count = 0
  for (let frame = from; frame <= to; frame++) if (!planned.has(frame) && followedMatrix(track, frame)) count++
  return count
}

interface TrackJob {
  track: Track
  run: TrackRun
}

async function runJobs(
  jobs: readonly TrackJob[],
  way: 'forward' | 'backward',
  remotes: ReturnType<typeof trackWorkers>,
  plate: ReturnType<typeof plateOf>,
): Promise<Outcome[]> {
  const found: TrackSample[][] = jobs.map(({ track }) => referenceSample(track))
  const knownBefore = found.map(({ length }) => length)
  const total = jobs.reduce((sum, { run }) => sum + run.steps.length, 0)
  const start = performance.now()
  let done = 0
  const msLeft = () => ((total - done) * (performance.now() - start)) / Math.max(1, done)
  const progress = (frame: number) => {
    const seconds = (performance.now() - start) / 1000
    const framesPerSecond = done / Math.max(0.001, seconds)
    const trackIds = jobs.map(({ track }) => track.id)
    useShot.setState({ track: { trackIds, frame, done, total, framesPerSecond, secondsLeft: msLeft() / 1000 } })
  }
  const showing = showingNews(() => {
    progress(found[0]!.at(-1)?.frame ?? jobs[0]!.run.steps[0]!.frame)
    goTo(found[0]!.at(-1)?.frame ?? useShot.getState().frame)
    preview(
      byTrack(jobs, (track, indices) =>
        patchesForSamples(
          track,
          indices.flatMap((i) => found[i]!),
        ),
      ),
    )
  }, msLeft)
  progress(jobs[0]!.run.steps[0]!.frame)
  const { document } = useShot.getState()
  const sampled = ({ track }: TrackJob, sample: TrackedFrame): TrackSample => ({
    ...sample,
    state: 'tracked',
    stamp: trackStamp(document, track, sample.frame),
  })
  // Each worker takes a frame of all of its own before the next.
  const shares = dealtByPlace(
    jobs.map(({ run }) => run),
    remotes.length,
  )
  const slides = jobs.map(() => false)
  /** Makes what was found an edit. Returns by job which frames that takes away. */
  const keep = (ends: readonly RunEnd[]): number[][] => {
    showing.end()
    // Where nothing was found the reference frame has not become known either.
    found.forEach((samples, i) => {
      if (samples.length === knownBefore[i]) found[i] = []
    })
    const cleared = jobs.map((job, i) => framesCleared(job, found[i]!, ends[i]!))
    preview([])
    const last = found[0]!.at(-1)
    if (last) goTo(last.frame)
    edit(`track ${wordsFor(jobs)} ${way}`, patchesKept(jobs, found, cleared))
    return cleared
  }
  const keepAsStopped = () => keep(jobs.map(() => ({ reason: 'stopped' })))
  const ending = endWithShot(keepAsStopped)
  const isOpen = whileOpen()
  const ends: RunEnd[] = []
  try {
    await Promise.all(
      shares.map(async (share, w) => {
        const taken = (news: readonly Found[]) => {
          for (const { index, sample } of news) {
            const i = share[index]!
            found[i]!.push(sampled(jobs[i]!, sample))
            slides[i] ||= sample.hold < SLIDES_BELOW
            done++
          }
          showing.hasNews()
        }
        const runs = share.map((i) => jobs[i]!.run)
        const own = await remotes[w]!.run(plate, runs, proxy(taken))
        share.forEach((i, index) => (ends[i] = own[index]!))
      }),
    )
  } catch (error) {
    // One helper died: what all have found until then holds.
    if (isOpen()) keepAsStopped()
    throw error
  } finally {
    ending()
  }
  if (!isOpen()) return []
  const cleared = keep(ends)
  return jobs.map(({ track, run }, i) => {
    // A reference frame that only got another stamp was known and stays.
    const isNews = (frame: number) => frame !== track.referenceFrame || !sampleAt(track, frame)
    const frames = found[i]!.map(({ frame }) => frame).filter(isNews)
    const redone = frames.filter((frame) => sampleAt(track, frame)).length
    return {
      track,
      end: ends[i]!,
      redone,
      fresh: frames.length - redone,
      lost: cleared[i]!.length,
      at: found[i]!.at(-1)?.frame ?? run.known[0]?.frame ?? track.referenceFrame,
      slides: slides[i]!,
    }
  })
}

/** Frames that a track no longer knows. What a limit stopped keeps nothing that was made under other ones; what the artist stopped keeps all. */
function framesCleared({ track, run }: TrackJob, found: readonly TrackSample[], end: RunEnd): number[] {
  if (!isLost(end)) return []
  const reached = new Set(found.map(({ frame }) => frame))
  return run.steps.flatMap(({ frame }) =>
    !reached.has(frame) && sampleAt(track, frame)?.state === 'tracked' ? [frame] : [],
  )
}

/** For the tracks as they are by now. */
function patchesKept(
  jobs: readonly TrackJob[],
  found: readonly TrackSample[][],
  cleared: readonly number[][],
): Patch[] {
  const { document } = useShot.getState()
  return byTrack(jobs, ({ id }, indices) => {
    const now = findObject(document, 'track', id)
    if (!now) return []
    return samplesReplaced(
      now,
      indices.flatMap((i) => found[i]!),
      indices.flatMap((i) => cleared[i]!),
    )
  })
}

/** Stretches of one track go into the same patches. */
function byTrack<Result>(jobs: readonly TrackJob[], make: (track: Track, indices: number[]) => Result[]): Result[] {
  const ids = [...new Set(jobs.map(({ track }) => track.id))]
  return ids.flatMap((id) => {
    const indices = jobs.flatMap(({ track }, i) => (track.id === id ? [i] : []))
    return make(jobs[indices[0]!]!.track, indices)
  })
}

/** The reference frame belongs to the track as much as any other: there it is where it was drawn. */
function referenceSample(track: Track): TrackSample[] {
  const { document } = useShot.getState()
  if (sampleAt(track, track.referenceFrame) && !isSampleStale(document, track, track.referenceFrame)) return []
  const stamp = trackStamp(document, track, track.referenceFrame)
  return [{ ...unmeasuredSample(track.referenceFrame, 'tracked', identity()), match: 1, kept: 1, stamp }]
}

const wordsFor = (jobs: readonly TrackJob[]) => {
  const ids = new Set(jobs.map(({ track }) => track.id))
  return ids.size === 1 ? jobs[0]!.track.name : `${ids.size} tracks`
}
