import { followedMatrix } from '@tender-lasso/core/evaluation'
import { hidingOutlinesOn, placedPattern, runSettings, trackOutlinesOn } from '@tender-lasso/core/tracks'
import { type Track } from '@tender-lasso/core/document'
import { applyToPoint } from '@tender-lasso/core/geometry'
import type { TrackRun } from '@tender-lasso/core/tracking'
import type { Found } from '../workers/track.worker'
import { useShot } from '../store'
import { toldMeanwhile } from './toldMeanwhile'
import { plateOf, trackWorkers } from './trackWorkers'

export interface RoundTrip {
  /** Last frame of the way out, where the way back begins. */
  from: number
  /** Largest distance of a corner on each frame between the way out and the way back, pixels. */
  frames: { frame: number; pixels: number }[]
}

/**
 * Tracks back from the last known frame to the reference with that frame as pattern, and measures by how far the way
 * back misses the way out. Nothing is changed.
 *
 * @returns null when the track is known on the reference frame only
 */
export async function roundTrip(track: Track, onFrame: (done: number, of: number) => void): Promise<RoundTrip | null> {
  const { document, info } = useShot.getState()
  let from = track.referenceFrame
  while (followedMatrix(track, from + 1)) from++
  const outlines = trackOutlinesOn(track, from)
  const matrix = followedMatrix(track, from)
  if (!info || !outlines || !matrix || from === track.referenceFrame) return null
  const steps = Array.from({ length: from - track.referenceFrame }, (_, i) => from - 1 - i)
  const run: TrackRun = {
    ...runSettings(document, track),
    patterns: [placedPattern(document, track, { frame: from, outlines, matrix })],
    steps: steps.map((frame) => ({ frame, pattern: 0, hidden: hidingOutlinesOn(document, track, frame) })),
    minimumMatch: 0,
    mostReturnError: null,
    known: [{ frame: from, matrix, isExact: true }],
  }
  const [worker] = trackWorkers(1)
  const found: Found[] = []
  await toldMeanwhile(
    (news: readonly Found[]) => {
      found.push(...news)
      onFrame(found.length, steps.length)
    },
    (tell) => worker!.run(plateOf(info), [run], tell),
  )
  const frames = found.map(({ sample: { frame, matrix: back } }) => {
    const out = followedMatrix(track, frame)!
    let pixels = 0
    for (const outline of track.outlines) {
      for (let i = 0; i < outline.length; i += 2) {
        const [a, b] = [out, back].map((m) => applyToPoint(m, outline[i]!, outline[i + 1]!))
        pixels = Math.max(pixels, Math.hypot(a![0]! - b![0]!, a![1]! - b![1]!))
      }
    }
    return { frame, pixels }
  })
  return { from, frames }
}
