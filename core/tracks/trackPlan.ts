import { movedPolygon } from '../geometry'
import type { PlacedPattern, TrackRun } from '../tracking'
import { shotShutter, followedMatrix, followedOn, frameState, sampleAt } from '../evaluation'
import type { RotoDocument, Track } from '../document'
import {
  hidingOutlinesOn,
  isSampleStale,
  patternFor,
  ridingOutlines,
  trackOutlinesOn,
  type TrackPattern,
} from './trackPattern'

export interface TrackPlanOptions {
  way: 'forward' | 'backward'
  /** First and last frame of the shot. */
  range: readonly [number, number]
  /** Frames to go at most. */
  mostFrames?: number
  /** What is tracked: all frames that are not current, or all from the first one on that is doubtful besides. */
  from?: 'end' | 'last-good'
  /** A frame that is current is gone on from, though it be cut off from the reference frame. */
  at?: number
}

/** Whether a track may be tracked at all: its motion is its own, and nobody has locked it. */
export const canBeTracked = ({ locked, madeFrom }: Track) => !locked && !madeFrom

/** What of a track holds for each of its runs. */
export function runSettings(document: RotoDocument, track: Track): Omit<TrackRun, 'patterns' | 'steps' | 'known'> {
  const { surface, model, search, preprocessing, patternUpdate, minimumMatch, mostReturnError, pixelAspect } = track
  const { texture, density } = preprocessing
  const shutter = preprocessing.motionBlur ? shotShutter(document, track.referenceFrame).angle / 360 : 0
  return {
    shutter,
    surface,
    model,
    search,
    texture,
    density,
    preprocessing,
    patternUpdate,
    minimumMatch,
    mostReturnError,
    pixelAspect,
    follows: surface === 'point' && preprocessing.follows,
  }
}

/** A pattern with all that is not looked at in its picture: what hides the surface there, and what lies on it. */
export function placedPattern(document: RotoDocument, track: Track, pattern: TrackPattern): PlacedPattern {
  const riding = ridingOutlines(track).map((outline) => movedPolygon(outline, pattern.matrix))
  const { frame } = pattern
  const beside = followedMatrix(track, frame + 1) ?? followedMatrix(track, frame - 1)
  return { ...pattern, beside, hidden: [...hidingOutlinesOn(document, track, frame), ...riding] }
}

/**
 * What the tracker needs to carry a track on in one direction: the stretches of frames that are not current, each gone at
 * from the current frame before it. What is current stays, also beyond a gap, unless the artist wants all of it again.
 */
export function trackPlans(document: RotoDocument, track: Track, options: TrackPlanOptions): TrackRun[] {
  const { way, range, mostFrames = Infinity, from = 'end', at = track.referenceFrame } = options
  const step = way === 'forward' ? 1 : -1
  const isKept = from === 'end' ? isCurrent : isGood
  const isInside = (frame: number) => frame >= range[0] && frame <= range[1]
  let frame = isKept(document, track, at) ? at : track.referenceFrame
  const runs: TrackRun[] = []
  while (isInside(frame + step)) {
    if (isKept(document, track, frame + step)) {
      frame += step
      continue
    }
    const start = frame
    const due: number[] = []
    const isDue = (next: number) => isInside(next) && (from === 'last-good' || !isCurrent(document, track, next))
    while (isDue(frame + step)) due.push((frame += step))
    runs.push(stretchRun(document, track, start, step, due.slice(0, mostFrames)))
    if (mostFrames < Infinity) break
  }
  return runs
}

function stretchRun(
  document: RotoDocument,
  track: Track,
  start: number,
  step: 1 | -1,
  due: readonly number[],
): TrackRun {
  const patterns: PlacedPattern[] = []
  const patternIndex = (frame: number) => {
    const pattern = renewedPattern(track, start, frame) ?? patternFor(track, frame)
    const known = patterns.findIndex((other) => other.frame === pattern.frame)
    return known >= 0 ? known : patterns.push(placedPattern(document, track, pattern)) - 1
  }
  const steps = due.map((frame) => ({ frame, pattern: patternIndex(frame), hidden: hidingOutlinesOn(document, track, frame) })) // prettier-ignore
  return {
    ...runSettings(document, track),
    patterns,
    steps,
    known: [start, start - step].flatMap((frame) => {
      const matrix = followedOn(track, frame)
      const isExact = frame === track.referenceFrame || sampleAt(track, frame)?.state === 'tracked'
      return matrix && (frame === start || isCurrent(document, track, frame)) ? [{ frame, matrix, isExact }] : []
    }),
  }
}

/**
 * Whether a frame of a track is as a run of today would leave it: known, and where it was tracked, from the pattern, model,
 * look and leave-outs that there are now and within the limits that there are now.
 */
export function isCurrent(document: RotoDocument, track: Track, frame: number): boolean {
  if (frame === track.referenceFrame) return true
  if (!followedMatrix(track, frame)) return false
  const sample = sampleAt(track, frame)
  if (sample?.state !== 'tracked') return true
  const { minimumMatch, mostReturnError } = track
  if (sample.match < minimumMatch) return false
  if (mostReturnError !== null && (sample.returned === null || sample.returned > mostReturnError)) return false
  return !isSampleStale(document, track, frame)
}

function isGood(document: RotoDocument, track: Track, frame: number): boolean {
  return isCurrent(document, track, frame) && frameState(track, frame) !== 'doubtful'
}

/**
 * For a track that renews its pattern: the one it was using at `start`, unless the artist has given another on the way.
 */
function renewedPattern(track: Track, start: number, frame: number): TrackPattern | null {
  const { when, below } = track.patternUpdate
  const sample = sampleAt(track, start)
  if (when === 'first' || !sample) return null
  const at = when === 'every' || sample.match < below ? start : sample.patternFrame
  const given = patternFor(track, frame)
  if (Math.abs(given.frame - track.referenceFrame) >= Math.abs(at - track.referenceFrame)) return null
  const outlines = trackOutlinesOn(track, at)
  const matrix = followedMatrix(track, at)
  return outlines && matrix && { frame: at, outlines, matrix }
}
