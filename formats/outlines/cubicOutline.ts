import {
  flattenOutline,
  rationalPoint,
  rationalTangent,
  SEGMENT,
  SEGMENT_STRIDE,
  type HomogeneousOutline,
} from '@tender-lasso/core/spline'

/** Plate pixels by which a curve under perspective may be off where it is written as plain cubics. */
const TOLERANCE = 0.0025

/** Halvings of a segment at most: at eight times as many pieces nothing is gained that a picture could show. */
const DEEPEST = 8

/** Numbers of a corner: anchor, leaving control point, the one that arrives at the next anchor. */
export const CORNER = { anchor: 0, leaving: 2, arriving: 4 } as const
export const CORNER_STRIDE = 6

/** A closed outline as plain cubics. */
export interface CubicOutline {
  /** CORNER_STRIDE numbers a corner, plate pixels; the last one goes back to the first. */
  corners: number[]
  /** By how many pixels it may be off: what plain cubics cannot hold of a perspective. */
  deviation: number
}

/**
 * An outline as cubics. Where nothing stands under perspective these are the outline's own; else each piece is the cubic with the same ends and tangents, in so
 * many pieces that it lies near enough.
 */
export function cubicOutline(outline: HomogeneousOutline): CubicOutline {
  const count = outline.length / SEGMENT_STRIDE
  for (let i = 2; i < outline.length; i += 3) if (!(outline[i]! > 1e-6)) return polygonOf(outline)
  const corners: number[] = []
  let deviation = 0
  for (let i = 0; i < count; i++) {
    const at = i * SEGMENT_STRIDE
    const next = ((i + 1) % count) * SEGMENT_STRIDE
    const weights = [SEGMENT.anchor, SEGMENT.leaving, SEGMENT.arriving].map((place) => outline[at + place + 2]!)
    if (weights.every((w) => w === outline[next + 2])) {
      for (const place of [SEGMENT.anchor, SEGMENT.leaving, SEGMENT.arriving]) {
        corners.push(outline[at + place]! / weights[0]!, outline[at + place + 1]! / weights[0]!)
      }
    } else deviation = Math.max(deviation, pushCubics(outline, i, 0, 1, 0, corners))
  }
  return { corners, deviation }
}

/** The same outline the other way round, from the same anchor. */
export function reversedCorners(corners: readonly number[]): number[] {
  const points = Array.from({ length: corners.length / 2 }, (_, i) => [corners[2 * i]!, corners[2 * i + 1]!])
  const [first, ...others] = points
  return first ? [first, ...others.reverse()].flat() : []
}

/** Three control points of each piece, the last of each being the first of the next; returns how far they are off. */
function pushCubics(
  outline: HomogeneousOutline,
  i: number,
  from: number,
  to: number,
  depth: number,
  out: number[],
): number {
  const [p0, p3] = [rationalPoint(outline, i, from), rationalPoint(outline, i, to)]
  const third = (to - from) / 3
  const [t0, t3] = [rationalTangent(outline, i, from), rationalTangent(outline, i, to)]
  const p1 = [p0[0] + third * t0[0], p0[1] + third * t0[1]] as const
  const p2 = [p3[0] - third * t3[0], p3[1] - third * t3[1]] as const
  let off = 0
  for (let k = 1; k < 8; k++) {
    const t = k / 8
    const s = 1 - t
    const [x, y] = rationalPoint(outline, i, from + (to - from) * t)
    const at = (axis: 0 | 1) =>
      s * s * s * p0[axis] + 3 * s * s * t * p1[axis] + 3 * s * t * t * p2[axis] + t * t * t * p3[axis]
    off = Math.max(off, Math.hypot(at(0) - x, at(1) - y))
  }
  if (off > TOLERANCE && depth < DEEPEST) {
    const middle = (from + to) / 2
    return Math.max(
      pushCubics(outline, i, from, middle, depth + 1, out),
      pushCubics(outline, i, middle, to, depth + 1, out),
    )
  }
  out.push(p0[0], p0[1], p1[0], p1[1], p2[0], p2[1])
  return off
}

/** What reaches behind the picture plane is cut there: a polygon is what is left. */
function polygonOf(outline: HomogeneousOutline): CubicOutline {
  const polygon = flattenOutline(outline, TOLERANCE)
  const corners: number[] = []
  for (let i = 0; i < polygon.length; i += 2) {
    const [x, y] = [polygon[i]!, polygon[i + 1]!]
    const next = (i + 2) % polygon.length
    corners.push(x, y, x, y, polygon[next]!, polygon[next + 1]!)
  }
  return { corners, deviation: TOLERANCE }
}
