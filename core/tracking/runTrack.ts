import { applyToPoint, identity, multiply, translation, type Box, type Matrix3 } from '../geometry'
import type { LumaImage } from '../image'
import { movedRegionBox, PlanarTracker, type PlanarModel } from './planarTracker'

export interface TrackRun {
  model: PlanarModel
  referenceFrame: number
  region: ArrayLike<number>
  leaveOut: readonly ArrayLike<number>[]
  minimumMatch: number
  /** Frames in the order to track them, leading away from the reference frame or from `startAfter`. */
  frames: readonly number[]
  /** Known motions of frames just before the first, newest first: the run carries on from them. Empty: reference. */
  known: readonly Matrix3[]
}

export interface TrackedFrame {
  frame: number
  matrix: Matrix3
  match: number
  kept: number
}

export type TrackEnd =
  | { reason: 'finished' }
  | { reason: 'stopped' }
  | { reason: 'lost'; frame: number; match: number }
  | { reason: 'outside'; frame: number }

/** Where pictures come from. The box is clamped to the plate by the source. */
export type PictureSource = (frame: number, box: Box) => Promise<LumaImage>

/** Room around the expected place: motion that was not foreseen, and the filters' reach. */
const MARGIN = 48
/** Fewer agreeing pixels than this and the region is taken for hidden. */
const LEAST_KEPT = 0.2

/**
 * Tracks frame after frame until the list ends, the artist stops it, the match falls below the minimum or the region
 * leaves the picture. Each frame starts from the last motion carried on at constant speed.
 *
 * @param onFrame  called with each good frame; return false to stop
 * @throws TrackingError from the template
 */
export async function runTrack(
  run: TrackRun,
  pictures: PictureSource,
  onFrame: (sample: TrackedFrame) => boolean,
): Promise<TrackEnd> {
  const reference = await pictures(run.referenceFrame, movedRegionBox(run.region, identity(), MARGIN))
  const tracker = new PlanarTracker(reference, run.region, run.leaveOut, run.model)
  let previous = run.known[0] ?? identity()
  let beforePrevious: Matrix3 | null = run.known[1] ?? null
  for (const frame of run.frames) {
    const prediction = carriedOn(previous, beforePrevious, tracker)
    const picture = await pictures(frame, movedRegionBox(run.region, prediction, MARGIN))
    if (picture.width < 16 || picture.height < 16) return { reason: 'outside', frame }
    let found = tracker.align(picture, prediction)
    if (found.match < 0.8 || found.kept < 0.5) {
      // The speed may have changed at once: try from where the region was, too, and keep the better.
      const again = tracker.align(await pictures(frame, movedRegionBox(run.region, previous, MARGIN)), previous)
      if (again.match * again.kept > found.match * found.kept) found = again
    }
    if (found.match < run.minimumMatch || found.kept < LEAST_KEPT) {
      return { reason: 'lost', frame, match: found.kept < LEAST_KEPT ? 0 : found.match }
    }
    beforePrevious = previous
    previous = found.matrix
    if (!onFrame({ frame, ...found })) return { reason: 'stopped' }
  }
  return { reason: 'finished' }
}

/** The last motion moved on by the way the region's centre went in the last step. */
function carriedOn(previous: Matrix3, before: Matrix3 | null, tracker: PlanarTracker): Matrix3 {
  if (!before) return previous
  const { centreX, centreY } = tracker.frame
  const now = applyToPoint(previous, centreX, centreY)
  const then = applyToPoint(before, centreX, centreY)
  return multiply(translation(now[0]! - then[0]!, now[1]! - then[1]!), previous)
}
