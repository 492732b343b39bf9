import { movedPolygon } from '../geometry'
import type { PlacedPattern, TrackRun } from '../tracking'
import { shotShutter } from './evaluate'
import type { RotoDocument } from './objects'
import type { Track } from './track'
import { followedMatrix, frameState } from './trackMotion'
import {
  hidingOutlinesOn,
  isSampleStale,
  patternFor,
  ridingOutlines,
  trackOutlinesOn,
  type TrackPattern,
} from './trackPattern'
import { sampleAt } from './trackSamples'

export interface TrackPlanOptions {
  way: 'forward' | 'backward'
  /** First and last frame of the shot. */
  range: readonly [number, number]
  /** Frames to go at most. */
  mostFrames?: number
  /** Where to go on: behind the last known frame, or behind the last one that is neither doubtful nor stale. */
  from?: 'end' | 'last-good'
  /** A frame that is known is gone on from, though it be cut off from the reference frame. */
  at?: number
}

/** What of a track holds for each of its runs. */
export function runSettings(document: RotoDocument, track: Track): Omit<TrackRun, 'patterns' | 'steps' | 'known'> {
  const { surface, model, search, look, patternUpdate, minimumMatch, mostReturnError, pixelAspect } = track
  const { texture, density } = look
  const shutter = look.motionBlur ? shotShutter(document).angle / 360 : 0
  return {
    shutter,
    surface,
    model,
    search,
    texture,
    density,
    look,
    patternUpdate,
    minimumMatch,
    mostReturnError,
    pixelAspect,
  }
}

/** A pattern with all that is not looked at in its picture: what hides the surface there, and what lies on it. */
export function placedPattern(document: RotoDocument, track: Track, pattern: TrackPattern): PlacedPattern {
  const riding = ridingOutlines(track).map((outline) => movedPolygon(outline, pattern.matrix))
  const { frame } = pattern
  const beside = followedMatrix(track, frame + 1) ?? followedMatrix(track, frame - 1)
  return { ...pattern, beside, hidden: [...hidingOutlinesOn(document, track, frame), ...riding] }
}

/** What the tracker needs to carry a track on in one direction. */
export function trackPlan(document: RotoDocument, track: Track, options: TrackPlanOptions): TrackRun {
  const { way, range, mostFrames = Infinity, from = 'end', at = track.referenceFrame } = options
  const step = way === 'forward' ? 1 : -1
  const start = lastKnown(followedMatrix(track, at) ? at : track.referenceFrame, step, (frame) =>
    from === 'end' ? followedMatrix(track, frame) !== null : isGood(document, track, frame),
  )
  const patterns: PlacedPattern[] = []
  const steps: TrackRun['steps'][number][] = []
  const patternIndex = (frame: number) => {
    const pattern = renewedPattern(track, start, frame) ?? patternFor(track, frame)
    const known = patterns.findIndex((other) => other.frame === pattern.frame)
    return known >= 0 ? known : patterns.push(placedPattern(document, track, pattern)) - 1
  }
  // What lies beyond a gap is known already and stays, unless the artist wants it again.
  const isDue = (frame: number) =>
    frame >= range[0] && frame <= range[1] && (from === 'last-good' || !followedMatrix(track, frame))
  for (let frame = start + step; isDue(frame) && steps.length < mostFrames; frame += step) {
    steps.push({ frame, pattern: patternIndex(frame), hidden: hidingOutlinesOn(document, track, frame) })
  }
  if (patterns.length === 0) patternIndex(start)
  return {
    ...runSettings(document, track),
    patterns,
    steps,
    known: [start, start - step].flatMap((frame) => {
      const matrix = followedMatrix(track, frame)
      const isExact = frame === track.referenceFrame || sampleAt(track, frame)?.state === 'tracked'
      return matrix ? [{ frame, matrix, isExact }] : []
    }),
  }
}

/** The last frame of those next to one another that hold, going from `start`. */
function lastKnown(start: number, step: 1 | -1, holds: (frame: number) => boolean): number {
  let frame = start
  while (holds(frame + step)) frame += step
  return frame
}

function isGood(document: RotoDocument, track: Track, frame: number): boolean {
  const state = frameState(track, frame)
  return state !== 'missing' && state !== 'doubtful' && !isSampleStale(document, track, frame)
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
