import { TrackingError } from '../errors'
import {
  averageMotion,
  centreAt,
  joinMotions,
  motionFromPoints,
  POINTS_FOR,
  sampledMatrix,
  type MotionSamples,
} from '../motion'
import { squareRound } from '../geometry'
import { samplesOfMotion } from './tracks'
import {
  findObject,
  newId,
  type RotoDocument,
  NEW_TRACK_FIELDS,
  type Combination,
  type Track,
  type TrackModel,
  withPatchesApplied,
  type Patch,
} from '../document'
import { motionSamplesOf, patchesForSamples } from '../evaluation'
import { hashOf } from '../tracks'
import { objectAdded } from './objects'

/** The model that so many points determine. */
export function modelForPoints(count: number): TrackModel {
  if (count >= POINTS_FOR.perspective) return 'perspective'
  if (count === 3) return 'affine'
  return count === 2 ? 'similarity' : 'position'
}

/** Changes when one of the tracks that a combined one was made from does. */
function combinationStamp(tracks: readonly Track[]): number {
  return hashOf(
    JSON.stringify(
      tracks.map((track) => {
        const { firstFrame, matrices, present, pivot } = motionSamplesOf(track)
        return [firstFrame, Array.from(matrices), Array.from(present), pivot]
      }),
    ),
  )
}

/** True when a combined track does not show any more what it was made from. */
export function isCombinationStale(document: RotoDocument, track: Track): boolean {
  if (!track.madeFrom) return false
  const sources = track.madeFrom.trackIds.flatMap((id) => findObject(document, 'track', id) ?? [])
  return sources.length < track.madeFrom.trackIds.length || combinationStamp(sources) !== track.madeFrom.stamp
}

/**
 * A new track out of several.
 *
 * @param frame  wanted reference frame; taken when all of them know it, else the first that they share
 * @throws TrackingError `nothing-shared` when no frame is known to all (join: to two), `degenerate-points`
 */
export function tracksCombined(
  tracks: readonly Track[],
  how: Combination,
  frame: number,
  naming: { name: string; order: number },
): { track: Track; patches: Patch[] } {
  const motions = tracks.map(motionSamplesOf)
  const reference = how === 'join' ? joinReference(motions, tracks[0]!.referenceFrame) : sharedFrame(motions, frame)
  const motion = how === 'join' ? joined(motions) : combined(motions, how, reference)
  const pivot = pivotOn(motion, reference)
  const half = 24
  const [x, y] = pivot
  const bare: Track = {
    ...NEW_TRACK_FIELDS,
    kind: 'track',
    id: newId(),
    ...naming,
    pixelAspect: motion.pixelAspect,
    model: how === 'points' ? modelForPoints(tracks.length) : widestModel(tracks),
    referenceFrame: reference,
    outlines:
      how === 'points' ? [outlineRound(motions, reference, pivot, half)] : [Float64Array.from(squareRound(x, y, half))],
    minimumMatch: 0.8,
    pivot,
    blocks: [],
    madeFrom: { how, trackIds: tracks.map((track) => track.id), stamp: combinationStamp(tracks) },
  }
  const patches = patchesForSamples(bare, samplesOfMotion(motion, reference))
  // One object with its samples, so that one patch makes it and one takes it away.
  const track = findObject(withPatchesApplied({ objects: new Map([[bare.id, bare]]) }, patches), 'track', bare.id)!
  return { track, patches: [objectAdded(track)] }
}

/**
 * A combined track made anew from what its sources are now; null when one of them is gone.
 *
 * @throws TrackingError as {@link tracksCombined}
 */
export function trackCombinedAgain(document: RotoDocument, track: Track): Patch[] | null {
  const { madeFrom } = track
  if (!madeFrom) return null
  const sources = madeFrom.trackIds.flatMap((id) => findObject(document, 'track', id) ?? [])
  if (sources.length < madeFrom.trackIds.length) return null
  const { track: fresh } = tracksCombined(sources, madeFrom.how, track.referenceFrame, track)
  const after = { ...track, blocks: fresh.blocks, madeFrom: fresh.madeFrom, referenceFrame: fresh.referenceFrame }
  return [{ kind: 'object', id: track.id, before: track, after }]
}

function combined(motions: readonly MotionSamples[], how: 'average' | 'points', reference: number): MotionSamples {
  if (how === 'points') return motionFromPoints(motions, modelForPoints(motions.length), reference)
  const places = motions.map((motion) => pivotOn(motion, reference))
  const mean = (axis: 0 | 1) => places.reduce((sum, place) => sum + place[axis], 0) / places.length
  return averageMotion(motions, reference, [mean(0), mean(1)])
}

function joined(motions: readonly MotionSamples[]): MotionSamples {
  let whole = motions[0]!
  for (const motion of motions.slice(1)) {
    const next = joinMotions(whole, motion)
    if (!next) throw nothingShared('two of the tracks share no frame: track on until they overlap, or Bridge the gap')
    whole = next
  }
  return whole
}

function joinReference(motions: readonly MotionSamples[], wanted: number): number {
  return sampledMatrix(motions[0]!, wanted) ? wanted : sharedFrame([motions[0]!], wanted)
}

/** The wanted frame, or the nearest one that all motions know. */
function sharedFrame(motions: readonly MotionSamples[], wanted: number): number {
  const knows = (frame: number) => motions.every((motion) => sampledMatrix(motion, frame))
  const reach = Math.max(...motions.map((m) => m.present.length + Math.abs(m.firstFrame - wanted)))
  for (let step = 0; step <= reach; step++) {
    if (knows(wanted - step)) return wanted - step
    if (knows(wanted + step)) return wanted + step
  }
  throw nothingShared('there is no frame that all of the tracks know')
}

const nothingShared = (why: string) => new TrackingError('nothing-shared', `The tracks cannot be combined: ${why}`)

/** Where the motion's centre is on a frame; where it is not known, as on its reference frame. */
const pivotOn = (motion: MotionSamples, frame: number): [number, number] =>
  centreAt(motion, frame) ?? [motion.pivot[0], motion.pivot[1]]

/** A box round the points, to show what the track stands for. */
function outlineRound(
  motions: readonly MotionSamples[],
  frame: number,
  pivot: readonly [number, number],
  half: number,
): Float64Array {
  const places = motions.map((motion) => pivotOn(motion, frame))
  const [xs, ys] = [places.map(([x]) => x), places.map(([, y]) => y)]
  const [left, right] = [Math.min(pivot[0] - half, ...xs), Math.max(pivot[0] + half, ...xs)]
  const [top, bottom] = [Math.min(pivot[1] - half, ...ys), Math.max(pivot[1] + half, ...ys)]
  return Float64Array.of(left, top, right, top, right, bottom, left, bottom)
}

const MODELS: readonly TrackModel[] = ['position', 'similarity', 'affine', 'perspective']

const widestModel = (tracks: readonly Track[]) =>
  MODELS[Math.max(...tracks.map((track) => MODELS.indexOf(track.model)))]!
