import { identity, invert, movedPolygon, multiply, type Matrix3 } from '../geometry'
import { flattenOutline } from '../spline'
import { shutterTime } from '../timing'
import {
  areasAt,
  channelValuesAt,
  followedMatrix,
  isAlive,
  partShutter,
  sampleAt,
  shapesOf,
  shownShapesOf,
  shotShutter,
} from '../evaluation'
import {
  channelOf,
  tracksThatMove,
  findObject,
  leaveOutChannel,
  type DocumentObject,
  type RotoDocument,
  type Shape,
  seamsOf,
  type LeaveOut,
  type Track,
} from '../document'

/** What a frame is compared with: a picture, its outlines in it, and the track's motion there. */
export interface TrackPattern {
  frame: number
  /** Plate pixels of `frame`. */
  outlines: readonly Float64Array[]
  matrix: Matrix3
}

/**
 * The pattern that a frame is compared with: the one given last on the way from the reference frame to it, so that a
 * pattern re-shaped on some frame leaves everything before it alone.
 */
export const patternFor = (track: Track, frame: number): TrackPattern =>
  referenceFor(track, frame) ?? { frame: track.referenceFrame, outlines: track.outlines, matrix: identity() }

/** The pattern given later than the first one that a frame is compared with, if any. */
function referenceFor(track: Track, frame: number): TrackPattern | null {
  const way = Math.sign(frame - track.referenceFrame)
  let found: TrackPattern | null = null
  for (const reference of track.references) {
    const distance = (reference.frame - track.referenceFrame) * way
    const isOnTheWay = distance > 0 && (frame - reference.frame) * way >= 0
    if (isOnTheWay && (!found || distance > (found.frame - track.referenceFrame) * way)) found = reference
  }
  return found
}

/** Outlines of the track's region on a frame, in its plate pixels; null where the track is not known. */
export function trackOutlinesOn(track: Track, frame: number): Float64Array[] | null {
  const pattern = patternFor(track, frame)
  if (pattern.frame === frame) return [...pattern.outlines]
  const matrix = followedMatrix(track, frame)
  if (!matrix) return null
  const map = multiply(matrix, invert(pattern.matrix))
  return pattern.outlines.map((outline) => movedPolygon(outline, map))
}

/** Looks into the shutter at which the outline of a Part in front is taken. */
const SWEEP_LOOKS = 5

/** Closed polygons, in plate pixels of a frame, that hide the surface there: drawn ones and Parts in front. */
export function hidingOutlinesOn(document: RotoDocument, track: Track, frame: number): Float64Array[] {
  return track.leaveOut.flatMap((leaveOut) => {
    if (leaveOut.kind === 'part') return sweptOutlinesOf(document, leaveOut.partId, frame)
    return leaveOut.rides ? [] : [leaveOutOutlineAt(track, leaveOut, frame)]
  })
}

/** Closed polygons, in plate pixels of the reference frame, that lie on the surface but are not looked at. */
export function ridingOutlines(track: Track): Float64Array[] {
  return track.leaveOut.flatMap((leaveOut) =>
    leaveOut.kind === 'outline' && leaveOut.rides ? [leaveOutOutlineAt(track, leaveOut, track.referenceFrame)] : [],
  )
}

type LeaveOutOutline = Extract<LeaveOut, { kind: 'outline' }>

/** Outline of a leave-out on a frame: plate pixels, or, where it rides on the surface, those of the reference frame. */
export function leaveOutOutlineAt(track: Track, { id }: LeaveOutOutline, frame: number): Float64Array {
  return channelValuesAt(channelOf(track, leaveOutChannel(id)), frame)!
}

function sweptOutlinesOf(document: RotoDocument, partId: string, frame: number): Float64Array[] {
  const part = findObject(document, 'part', partId)
  if (!part || !isAlive(part, frame)) return []
  const shutter = partShutter(document, part, frame)
  const { shapes, mapAt } = shownShapesOf(document, part)
  return shapes.flatMap((shape) =>
    Array.from({ length: SWEEP_LOOKS }, (_, i) => shutterTime(frame, shutter, i / (SWEEP_LOOKS - 1))).flatMap((time) =>
      areasAt(document, shape, time, mapAt?.(time)).map((outline) => flattenOutline(outline, 0.25)),
    ),
  )
}

/** Stamps of tracks that leave nothing out, by pattern and shutter: they are the same on all its frames. */
const plainStamps = new WeakMap<Track, Map<string, number>>()

/**
 * A number that changes when anything changes that a frame's sample is made from: model, look, pattern, and what is
 * left out on this frame and on the pattern's.
 */
export function trackStamp(document: RotoDocument, track: Track, frame: number): number {
  if (track.leaveOut.length > 0) return stampOf(document, track, frame)
  const known = plainStamps.get(track) ?? new Map<string, number>()
  plainStamps.set(track, known)
  const patternFrame = referenceFor(track, frame)?.frame ?? track.referenceFrame
  const key = `${patternFrame} ${shotShutter(document, track.referenceFrame).angle}`
  const stamp = known.get(key) ?? stampOf(document, track, frame)
  known.set(key, stamp)
  return stamp
}

function stampOf(document: RotoDocument, track: Track, frame: number): number {
  const pattern = patternFor(track, frame)
  const still = withLoopAtRest(document, track)
  const hiding = [pattern.frame, frame].map((at) => hidingOutlinesOn(still, track, at).map((o) => Array.from(o)))
  const { model, preprocessing, patternUpdate, surface } = track
  const search = surface === 'point' ? track.search : null
  const riding = ridingOutlines(track).map((o) => Array.from(o))
  const shutter = preprocessing.motionBlur ? [shotShutter(document, track.referenceFrame).angle] : []
  return hashOf(
    JSON.stringify([
      [model, preprocessing, patternUpdate, search],
      [pattern.frame, pattern.outlines.map((o) => Array.from(o)), Array.from(pattern.matrix)],
      [riding, hiding],
      ...shutter,
    ]),
  )
}

/** Documents in which a track's loop is at rest: one stamp is asked for on every frame. */
const atRest = new WeakMap<RotoDocument, Map<string, RotoDocument>>()

/**
 * The document with this track at rest, and with it all tracks that move what it leaves out and themselves leave out what it
 * moves. A Part in front that the track itself carries would otherwise be in the stamp of what carries it: tracking would
 * change the stamp of what it has just made, and no frame would ever be current. In the track's own space it stays put.
 */
function withLoopAtRest(document: RotoDocument, track: Track): RotoDocument {
  let known = atRest.get(document)
  if (!known) atRest.set(document, (known = new Map()))
  let still = known.get(track.id)
  if (!still) {
    const loop = tracksInLoopWith(document, track)
    still = loop.length === 0 ? document : { objects: new Map(document.objects) }
    for (const one of loop) (still.objects as Map<string, DocumentObject>).set(one.id, trackAtRest(one))
    known.set(track.id, still)
  }
  return still
}

function trackAtRest(track: Track): Track {
  const { offset: _, ...channels } = track.channels
  return { ...track, blocks: [], bridges: [], smoothing: null, channels }
}

/** Tracks, itself among them, that move what the track leaves out and depend on the track by what they leave out. */
function tracksInLoopWith(document: RotoDocument, track: Track): Track[] {
  const reached = (from: Track, found = new Map<string, Track>()): Map<string, Track> => {
    for (const id of tracksBehindLeaveOuts(document, from)) {
      const next = findObject(document, 'track', id)
      if (!next || found.has(id)) continue
      found.set(id, next)
      reached(next, found)
    }
    return found
  }
  return [...reached(track).values()].filter((one) => reached(one).has(track.id))
}

/** Ids of the tracks that move the Parts which a track leaves out, or what carries these, or what their outlines borrow. */
function tracksBehindLeaveOuts(document: RotoDocument, track: Track): Set<string> {
  const found = new Set<string>()
  const seen = new Set<string>()
  const visitPart = (id: string) => {
    const part = findObject(document, 'part', id)
    if (!part || seen.has(id)) return
    seen.add(id)
    tracksThatMove(part).forEach((trackId) => found.add(trackId))
    if (part.parentId !== null) visitPart(part.parentId)
    if (part.instance) visitPart(part.instance.of)
    for (const shape of shapesOf(document, id)) visitShape(shape)
  }
  const visitShape = (shape: Shape) => {
    tracksThatMove(shape).forEach((trackId) => found.add(trackId))
    for (const seam of seamsOf(document, shape.id)) {
      const owner = seam.borrowerId === shape.id ? findObject(document, 'shape', seam.ownerId) : undefined
      if (owner && !seen.has(owner.partId)) visitPart(owner.partId)
    }
  }
  for (const leaveOut of track.leaveOut) if (leaveOut.kind === 'part') visitPart(leaveOut.partId)
  return found
}

/** True when the frame was tracked from something else than what is there now. */
export function isSampleStale(document: RotoDocument, track: Track, frame: number): boolean {
  const sample = sampleAt(track, frame)
  return sample?.state === 'tracked' && sample.stamp !== 0 && sample.stamp !== trackStamp(document, track, frame)
}

/** FNV-1a over the characters, 32 bits (Fowler, Noll & Vo); never 0, which stands for "not known". */
export function hashOf(text: string): number {
  let hash = 0x811c9dc5
  for (let i = 0; i < text.length; i++) hash = Math.imul(hash ^ text.charCodeAt(i), 0x01000193)
  return hash >>> 0 || 1
}

/** Four corners that stand for a track on its reference frame: those of its region, or of the box round it. */
export function shownTrackCorners(track: Track): [number, number][] {
  const [outline] = track.outlines
  if (track.outlines.length === 1 && outline!.length === 8) {
    return [0, 2, 4, 6].map((i) => [outline![i]!, outline![i + 1]!])
  }
  const points = track.outlines.flatMap((one) => Array.from(one))
  const [xs, ys] = [points.filter((_, i) => i % 2 === 0), points.filter((_, i) => i % 2 === 1)]
  const [left, top, right, bottom] = [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)]
  return [
    [left, top],
    [right, top],
    [right, bottom],
    [left, bottom],
  ]
}
