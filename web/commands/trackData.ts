import { controlPlacesAt, motionSamplesOf, patchesForSamples, unmeasuredSample } from '@tender-lasso/core/evaluation'
import { objectAdded } from '@tender-lasso/core/edits'
import { shownTrackCorners } from '@tender-lasso/core/tracks'
import { allOf, type Patch, type RotoDocument, type Shape, type Track } from '@tender-lasso/core/document'
import { applyToPoint, type Matrix3 } from '@tender-lasso/core/geometry'
import { relativeMotion, sampledMatrix, type MotionSamples } from '@tender-lasso/core/motion'
import {
  motionOfTrackData,
  readTrackData,
  trackDataOf,
  type TrackData,
  type TrackDataSettings,
} from '@tender-lasso/formats/trackData'
import { wordsOf, edit } from '../session'
import { newTrack } from './newObjects'
import { onlyTracks, say, select, useShot } from '../store'

/** Shapes whose four points can be told as corners in place of the track's own. */
export const quadrilateralsOf = (document: RotoDocument): Shape[] =>
  allOf(document, 'shape').filter(({ pointIds, isClosed }) => isClosed && pointIds.length === 4)

/**
 * A track in the form that the settings ask for, or why that cannot be.
 *
 * @param cornersOf  a shape of four points: where these are on the frame that motion is relative to are the corners that go with the track; null: those of its region
 */
export function trackDataFor(track: Track, settings: TrackDataSettings, cornersOf: Shape | null): TrackData | string {
  const { info, document } = useShot.getState()
  if (!info) return 'No shot is open'
  const motion = motionSamplesOf(track)
  const reference = sampledMatrix(motion, settings.relativeTo)
  if (!reference) return `${track.name} is not known on frame ${settings.relativeTo}`
  const place = (x: number, y: number): [number, number] => {
    const [u, v] = applyToPoint(reference, x, y)
    return [u!, v!]
  }
  return trackDataOf(
    {
      name: track.name,
      width: info.width,
      height: info.height,
      framesPerSecond: info.rate.numerator / info.rate.denominator,
      pixelAspect: track.pixelAspect,
      centre: place(track.pivot[0], track.pivot[1]),
      corners: cornersOf
        ? pairsOf(controlPlacesAt(document, cornersOf, settings.relativeTo))
        : shownTrackCorners(track).map(([x, y]) => place(x, y)),
      frames: relativeFrames(motion, settings.relativeTo),
    },
    settings,
  )
}

/** Motion from one frame to each on which it is known; none where it is not known on that frame itself. */
export function relativeFrames(motion: MotionSamples, relativeTo: number): { frame: number; matrix: Matrix3 }[] {
  return Array.from(motion.present).flatMap((isPresent, i) => {
    const frame = motion.firstFrame + i
    const matrix = isPresent ? relativeMotion(motion, relativeTo, frame) : null
    return matrix ? [{ frame, matrix }] : []
  })
}

const pairsOf = (places: Float64Array): [number, number][] =>
  Array.from({ length: places.length / 2 }, (_, i) => [places[2 * i]!, places[2 * i + 1]!])

/** Tracks out of a text that was handed off before; one edit. */
export function takeTrackData(text: string) {
  const { document } = useShot.getState()
  try {
    const data = readTrackData(text)
    const motion = motionOfTrackData(data)
    const track: Track = {
      ...newTrack(document, data.settings.relativeTo, motion.corners.flat()),
      name: motion.name,
      pivot: [motion.centre[0], motion.centre[1]],
    }
    const samples = motion.frames.map(({ frame, matrix }) => unmeasuredSample(frame, 'combined', matrix))
    const patches: Patch[] = [objectAdded(track), ...patchesForSamples(track, samples)]
    if (edit(`read ${track.name}`, patches)) {
      select(onlyTracks([track.id]))
      say('said', `${track.name}: ${samples.length} frames read`)
    }
  } catch (error) {
    say('bad', wordsOf(error))
  }
}
