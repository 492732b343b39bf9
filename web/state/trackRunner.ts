import { proxy } from 'comlink'
import {
  find,
  patchesForSamples,
  sampleAt,
  trackPlan,
  trackStamp,
  unmeasuredSample,
  type Track,
  type TrackPlanOptions,
  type TrackSample,
} from '@tender-lasso/core/document'
import { identity } from '@tender-lasso/core/geometry'
import { dealtByPlace, SLIDES_BELOW, type TrackedFrame, type TrackRun } from '@tender-lasso/core/tracking'
import type { Found, RunEnd } from '../workers/track.worker'
import { wordsOf } from '../session/api'
import { edit, goTo, preview, say, shotRange, useShot } from './shotStore'
import { plateOf, trackWorkers } from './trackWorkers'

export type TrackDirection = 'forward' | 'backward' | 'both'

/** Milliseconds from one frame shown to the next at least, and times as long as showing it took. */
const LEAST_WAIT_MS = 120
const SHOWING_SHARE = 4

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
  const chosen = selection.trackIds.flatMap((id) => find(document, 'track', id) ?? [])
  if (running || !info || chosen.length === 0) return
  const free = chosen.filter((track) => !track.locked && !track.madeFrom)
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
  try {
    for (const way of direction === 'both' ? (['forward', 'backward'] as const) : [direction]) {
      if (isStopped) break
      const { document: now } = useShot.getState()
      const jobs = free.flatMap((before): TrackJob[] => {
        const track = find(now, 'track', before.id)
        return track ? [{ track, run: trackPlan(now, track, { ...options, way, at, range: shotRange() }) }] : []
      })
      const due = jobs.filter(({ run }) => run.steps.length > 0)
      if (due.length) outcomes.push(...(await runJobs(due, way, remotes, plateOf(info))))
      else if (direction !== 'both') {
        const end = way === 'forward' ? 'last' : 'first'
        say('said', `${jobs[0]?.track.name ?? 'The track'} reaches the ${end} frame already`)
      }
    }
    if (outcomes.length) sayHow(outcomes)
  } catch (error) {
    // Those that live would go on for nothing.
    stopRunning?.()
    preview([])
    say('bad', `The tracks were not carried on: ${wordsOf(error)}`)
  } finally {
    stopRunning = null
    useShot.setState({ track: null })
  }
}

/** How one track ended in one direction. */
interface Outcome {
  track: Track
  end: RunEnd
  frames: number
  /** Whether its pattern held in one direction only. */
  slides: boolean
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
  const total = jobs.reduce((sum, { run }) => sum + run.steps.length, 0)
  const start = performance.now()
  let done = 0
  let hasEnded = false
  let scheduled = 0
  let showNext = 0
  const show = (now: number) => {
    scheduled = 0
    if (hasEnded) return
    // Showing a frame costs more than tracking it: a few times a second is enough to watch, less often for many tracks.
    if (now < showNext) return void (scheduled = requestAnimationFrame(show))
    showNext = Infinity
    const began = performance.now()
    progress(found[0]!.at(-1)?.frame ?? jobs[0]!.run.steps[0]!.frame)
    goTo(found[0]!.at(-1)?.frame ?? useShot.getState().frame)
    preview(jobs.flatMap(({ track }, i) => patchesForSamples(track, found[i]!)))
    // What was drawn is on screen by the second frame after this one.
    requestAnimationFrame(() =>
      requestAnimationFrame((shown) => (showNext = shown + Math.max(LEAST_WAIT_MS, SHOWING_SHARE * (shown - began)))),
    )
  }
  const progress = (frame: number) => {
    const seconds = (performance.now() - start) / 1000
    const framesPerSecond = done / Math.max(0.001, seconds)
    const trackIds = jobs.map(({ track }) => track.id)
    const secondsLeft = (total - done) / Math.max(0.001, framesPerSecond)
    useShot.setState({ track: { trackIds, frame, done, total, framesPerSecond, secondsLeft } })
  }
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
  const results = await Promise.all(
    shares.map((share, w) =>
      remotes[w]!.run(
        plate,
        share.map((i) => jobs[i]!.run),
        proxy((news: readonly Found[]) => {
          // Frames are told on a channel of their own and may arrive after the end; the end brings them all anyway.
          if (hasEnded) return
          for (const { index, sample } of news) {
            const i = share[index]!
            found[i]!.push(sampled(jobs[i]!, sample))
            done++
          }
          scheduled ||= requestAnimationFrame(show)
        }),
      ),
    ),
  )
  hasEnded = true
  cancelAnimationFrame(scheduled)
  const ends: RunEnd[] = []
  const slides: boolean[] = []
  shares.forEach((share, w) =>
    share.forEach((i, index) => {
      ends[i] = results[w]!.ends[index]!
      const all = results[w]!.samples[index]!
      slides[i] = all.some(({ hold }) => hold < SLIDES_BELOW)
      found[i] = [...(all.length ? referenceSample(jobs[i]!.track) : []), ...all.map((s) => sampled(jobs[i]!, s))]
    }),
  )
  const { document: latest } = useShot.getState()
  const patches = jobs.flatMap(({ track }, i) => {
    const now = find(latest, 'track', track.id)
    return now && found[i]!.length ? patchesForSamples(now, found[i]!) : []
  })
  preview([])
  const last = found[0]!.at(-1)
  if (last) goTo(last.frame)
  if (patches.length) edit(`track ${wordsFor(jobs)} ${way}`, patches)
  return jobs.map(({ track }, i) => ({ track, end: ends[i]!, frames: found[i]!.length, slides: slides[i]! }))
}

/** The reference frame belongs to the track as much as any other: there it is where it was drawn. */
function referenceSample(track: Track): TrackSample[] {
  if (sampleAt(track, track.referenceFrame)) return []
  const { document } = useShot.getState()
  const stamp = trackStamp(document, track, track.referenceFrame)
  return [{ ...unmeasuredSample(track.referenceFrame, 'tracked', identity()), match: 1, kept: 1, stamp }]
}

const wordsFor = (jobs: readonly TrackJob[]) => (jobs.length === 1 ? jobs[0]!.track.name : `${jobs.length} tracks`)

function sayHow(outcomes: readonly Outcome[]) {
  const frames = outcomes.reduce((sum, outcome) => sum + outcome.frames, 0)
  const names = new Set(outcomes.map(({ track }) => track.id))
  const early = outcomes.filter(({ end }) => end.reason !== 'finished' && end.reason !== 'stopped')
  const [first] = early
  const who = names.size === 1 ? outcomes[0]!.track.name : `${names.size} tracks`
  const sliding = outcomes.find(({ slides }) => slides)
  if (!first && sliding) {
    const it = names.size === 1 ? 'it' : sliding.track.name
    say('doubtful', `${who}: ${frames} frames, but ${it} may slide along an edge: take in a corner`)
  } else if (!first) say('said', `${who}: ${frames} frames`)
  else if (names.size === 1) say(first.end.reason === 'problem' ? 'bad' : 'doubtful', endWords(first.track, first.end))
  else {
    const count = new Set(early.map(({ track }) => track.id)).size
    say('doubtful', `${count} of ${names.size} tracks ended early; the first: ${endWords(first.track, first.end)}`)
  }
}

/** Why a track ended before the range did, and what can be done. */
function endWords(track: Track, end: RunEnd): string {
  switch (end.reason) {
    case 'problem':
      return `${track.name}: ${end.words}`
    case 'outside':
      return `${track.name} leaves the picture on ${end.frame}: give it another pattern (Adjust, Alt-drag) to carry on`
    case 'no-return':
      return `${track.name} stopped before ${end.frame}: tracked back it misses by ${end.pixels.toFixed(1)} px`
    case 'lost':
      return end.kept < 0.2 || end.match === 0
        ? `${track.name} stopped before ${end.frame}: too little of it is left to see. Leave out what covers it, or Bridge the stretch`
        : `${track.name} stopped before ${end.frame}: match ${end.match.toFixed(2)} is below ${track.minimumMatch}. Blurred or changed: Bridge it, or take a new pattern here`
    default:
      return track.name
  }
}
