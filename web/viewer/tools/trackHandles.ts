import { fieldSet, leaveOutShaped, patternSet, sampleNudged } from '@tender-lasso/core/edits'
import { followedOn, motionSamplesOf, nearestFollowed } from '@tender-lasso/core/evaluation'
import { leaveOutOutlineAt, patternFor, trackOutlinesOn } from '@tender-lasso/core/tracks'
import { type LeaveOut, type Patch, type Track } from '@tender-lasso/core/document'
import { applyToPoint, boundsOfAll, invert, movedPolygon, multiply, windingNumber } from '@tender-lasso/core/geometry'
import { sampledMatrix } from '@tender-lasso/core/motion'

/** Something of a track that can be taken hold of on a frame. Places are plate pixels of that frame. */
export type TrackHandle =
  | { kind: 'corner'; outline: number; corner: number }
  | { kind: 'leaveOut'; index: number; corner: number }
  | { kind: 'search'; side: 0 | 1 | 2 | 3 }
  | { kind: 'pivot' }
  | { kind: 'inside' }

/** Where the track's centre is shown on a frame: what is reported, with Offset and smoothing. */
export function reportedCentre(track: Track, frame: number): [number, number] | null {
  const matrix = sampledMatrix(motionSamplesOf(track), frame) ?? followedOn(track, frame)
  if (!matrix) return null
  const [x, y] = applyToPoint(matrix, track.pivot[0], track.pivot[1])
  return [x!, y!]
}

/** Outlines of the pattern on a frame; where the track is not known, as they are on the nearest frame that it knows. */
export function shownOutlines(track: Track, frame: number): readonly Float64Array[] {
  const known = trackOutlinesOn(track, frame)
  if (known) return known
  const pattern = patternFor(track, frame)
  const map = multiply(nearestFollowed(track, frame), invert(pattern.matrix))
  return pattern.outlines.map((outline) => movedPolygon(outline, map))
}

/** Box in which a point is looked for on a frame: left, top, right, bottom. */
export function searchBoxOn(track: Track, frame: number): [number, number, number, number] {
  const box = boundsOfAll(shownOutlines(track, frame))
  const [left, top, right, bottom] = track.search
  return [box.left + left, box.top + top, box.right + right, box.bottom + bottom]
}

/** Outline of a leave-out on a frame, or null for a Part and where the surface is not known. */
export function leaveOutOn(track: Track, leaveOut: LeaveOut, frame: number): Float64Array | null {
  if (leaveOut.kind === 'part') return null
  const outline = leaveOutOutlineAt(track, leaveOut, frame)
  if (!leaveOut.rides) return outline
  const matrix = followedOn(track, frame)
  return matrix && movedPolygon(outline, matrix)
}

/** The handle within reach of a place, nearest kind first: centre, corners, leave-outs, search box, inside. */
export function handleAt(track: Track, frame: number, x: number, y: number, reach: number): TrackHandle | null {
  const near = (px: number, py: number) => Math.hypot(px - x, py - y) <= reach
  const outlines = shownOutlines(track, frame)
  for (const [outline, points] of outlines.entries()) {
    const corner = cornerNear(points, near)
    if (corner !== null) return { kind: 'corner', outline, corner }
  }
  for (const [index, leaveOut] of track.leaveOut.entries()) {
    const points = leaveOutOn(track, leaveOut, frame)
    const corner = points && cornerNear(points, near)
    if (corner !== null) return { kind: 'leaveOut', index, corner }
  }
  const centre = reportedCentre(track, frame)
  if (track.surface === 'plane' && centre && near(centre[0], centre[1])) return { kind: 'pivot' }
  if (track.surface === 'point') {
    const [left, top, right, bottom] = searchBoxOn(track, frame)
    const [isAcross, isDown] = [x > left - reach && x < right + reach, y > top - reach && y < bottom + reach]
    if (isDown && Math.abs(x - left) <= reach) return { kind: 'search', side: 0 }
    if (isAcross && Math.abs(y - top) <= reach) return { kind: 'search', side: 1 }
    if (isDown && Math.abs(x - right) <= reach) return { kind: 'search', side: 2 }
    if (isAcross && Math.abs(y - bottom) <= reach) return { kind: 'search', side: 3 }
  }
  return outlines.some((outline) => windingNumber(outline, x, y) !== 0) ? { kind: 'inside' } : null
}

function cornerNear(points: Float64Array, near: (x: number, y: number) => boolean): number | null {
  for (let i = 0; i < points.length; i += 2) if (near(points[i]!, points[i + 1]!)) return i / 2
  return null
}

/**
 * What dragging a handle by (dx, dy) plate pixels changes, or why it cannot.
 *
 * @param another  the pattern goes to another place while the track keeps its own: it carries on with it from here
 */
export function handleDragged(
  track: Track,
  frame: number,
  handle: TrackHandle,
  dx: number,
  dy: number,
  another: boolean,
): Patch[] | string {
  switch (handle.kind) {
    case 'corner': {
      const outlines = shownOutlines(track, frame).map((outline, i) =>
        i === handle.outline ? cornerMoved(outline, handle.corner, dx, dy) : outline,
      )
      return patternSet(track, frame, outlines) ?? NOT_KNOWN(track)
    }
    case 'leaveOut':
      return leaveOutDragged(track, frame, handle, dx, dy)
    case 'search': {
      const search = track.search.slice() as Track['search']
      const way = handle.side % 2 === 0 ? dx : dy
      const value = Math.round(search[handle.side] + way)
      search[handle.side] = handle.side < 2 ? Math.min(-2, value) : Math.max(2, value)
      return [fieldSet(track, 'search', search)]
    }
    case 'pivot': {
      const matrix = followedOn(track, frame)
      if (!matrix) return NOT_KNOWN(track)
      const now = applyToPoint(matrix, track.pivot[0], track.pivot[1])
      const [x, y] = applyToPoint(invert(matrix), now[0]! + dx, now[1]! + dy)
      return [fieldSet(track, 'pivot', [x!, y!])]
    }
    case 'inside': {
      const moved = shownOutlines(track, frame).map((outline) => shifted(outline, dx, dy))
      if (another) return patternSet(track, frame, moved) ?? NOT_KNOWN(track)
      if (frame !== track.referenceFrame || track.blocks.length > 0) return sampleNudged(track, frame, dx, dy)
      const pivot: [number, number] = [track.pivot[0] + dx, track.pivot[1] + dy]
      return [fieldSet(track, 'outlines', [...moved]), fieldSet(track, 'pivot', pivot)]
    }
  }
}

const NOT_KNOWN = (track: Track) =>
  `${track.name} is not known on this frame: track on to it, place it by dragging it, or go to ${track.referenceFrame}`

const shifted = (outline: Float64Array, dx: number, dy: number) => outline.map((value, i) => value + (i % 2 ? dy : dx))

function cornerMoved(outline: Float64Array, corner: number, dx: number, dy: number): Float64Array {
  const out = outline.slice()
  out[2 * corner]! += dx
  out[2 * corner + 1]! += dy
  return out
}

function leaveOutDragged(
  track: Track,
  frame: number,
  { index, corner }: { index: number; corner: number },
  dx: number,
  dy: number,
): Patch[] | string {
  const leaveOut = track.leaveOut[index]!
  const shown = leaveOutOn(track, leaveOut, frame)
  if (leaveOut.kind === 'part' || !shown) return NOT_KNOWN(track)
  const moved = cornerMoved(shown, corner, dx, dy)
  const outline = leaveOut.rides ? movedPolygon(moved, invert(followedOn(track, frame)!)) : moved
  return leaveOutShaped(track, leaveOut, frame, outline)
}
