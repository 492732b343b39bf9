import type { Matrix3 } from '../geometry'
import { PointBuffer } from './pointBuffer'

/**
 * Outlines under a homography are rational cubics. A closed outline of n points is 3n homogeneous control points
 * [X, Y, W], laid out per point i as anchor i, leaving handle of i, arriving handle of i + 1: 9n numbers.
 */
export type HomogeneousOutline = Float64Array

/** Numbers of one segment of a homogeneous outline. */
export const SEGMENT_STRIDE = 9
/** Places of a segment's control points X, Y, W: its anchor, the handle leaving it, the one arriving at the next anchor. */
export const SEGMENT = { anchor: 0, leaving: 3, arriving: 6 } as const

/** Points with W below this are at or behind the vanishing line of the map and are not drawn. */
export const SMALLEST_WEIGHT = 1e-6

/**
 * The outline carried by a map, as homogeneous control points.
 *
 * @param points  n points of `stride` numbers each: x, y, arriving handle dx, dy, leaving handle dx, dy, ...
 * @param map     from the points' space to plate pixels
 */
export function homogeneousOutline(
  points: Float64Array,
  stride: number,
  map: Matrix3,
  out: HomogeneousOutline = new Float64Array((points.length / stride) * SEGMENT_STRIDE),
): HomogeneousOutline {
  const count = points.length / stride
  // Numbers by themselves: this is asked for each shape at each moment of a shutter.
  const [a, b, c] = [map[0]!, map[1]!, map[2]!]
  const [d, e, f] = [map[3]!, map[4]!, map[5]!]
  const [g, h, k] = [map[6]!, map[7]!, map[8]!]
  for (let i = 0, at = 0, p = 0; i < count; i++, at += SEGMENT_STRIDE, p += stride) {
    const next = i + 1 === count ? 0 : p + stride
    const x = points[p]!
    const y = points[p + 1]!
    out[at] = a * x + b * y + c
    out[at + 1] = d * x + e * y + f
    out[at + 2] = g * x + h * y + k
    const leavingX = x + points[p + 4]!
    const leavingY = y + points[p + 5]!
    out[at + 3] = a * leavingX + b * leavingY + c
    out[at + 4] = d * leavingX + e * leavingY + f
    out[at + 5] = g * leavingX + h * leavingY + k
    const arrivingX = points[next]! + points[next + 2]!
    const arrivingY = points[next + 1]! + points[next + 3]!
    out[at + 6] = a * arrivingX + b * arrivingY + c
    out[at + 7] = d * arrivingX + e * arrivingY + f
    out[at + 8] = g * arrivingX + h * arrivingY + k
  }
  return out
}

/**
 * The outline of points that are carried by different maps: each point and its handles by its own.
 *
 * Weights of different maps have no common measure. Each map's are taken over their mean at its own points, so that they
 * are about 1 where maps meet, and a segment between two points of one map is just what that map makes of it.
 *
 * @param maps  for each point, from the points' space to plate pixels
 */
export function mixedOutline(
  points: Float64Array,
  stride: number,
  maps: readonly Matrix3[],
  out: HomogeneousOutline = new Float64Array(maps.length * SEGMENT_STRIDE),
): HomogeneousOutline {
  const outlines = new Map<Matrix3, HomogeneousOutline>()
  for (const map of new Set(maps)) {
    const outline = homogeneousOutline(points, stride, map)
    let [sum, count] = [0, 0]
    maps.forEach((own, i) => {
      if (own !== map) return
      sum += outline[i * SEGMENT_STRIDE + 2]!
      count++
    })
    outlines.set(
      map,
      outline.map((value) => (value * count) / sum),
    )
  }
  maps.forEach((map, i) => {
    const next = (i + 1) % maps.length
    const [from, arriving, end] = [0, SEGMENT.arriving, SEGMENT_STRIDE].map((at) => i * SEGMENT_STRIDE + at) as [number, number, number] // prettier-ignore
    out.set(outlines.get(map)!.subarray(from, arriving), from)
    out.set(outlines.get(maps[next]!)!.subarray(arriving, end), arriving)
  })
  return out
}

/** A polygon x0, y0, x1, y1 ... carried by a map, its sides as cubics. */
export function outlineOfPolygon(polygon: Float64Array, map: Matrix3): HomogeneousOutline {
  const count = polygon.length / 2
  const points = new Float64Array(count * 6)
  for (let i = 0; i < count; i++) {
    const [before, after] = [(i + count - 1) % count, (i + 1) % count]
    for (let axis = 0; axis < 2; axis++) {
      const here = polygon[2 * i + axis]!
      points[6 * i + axis] = here
      points[6 * i + 2 + axis] = (polygon[2 * before + axis]! - here) / 3
      points[6 * i + 4 + axis] = (polygon[2 * after + axis]! - here) / 3
    }
  }
  return homogeneousOutline(points, 6, map)
}

/**
 * The closed outline as a polygon in plate pixels that deviates by at most `tolerance` pixels.
 *
 * For positive weights a rational Bezier curve lies in the convex hull of its projected control points (Farin, Curves
 * and Surfaces for CAGD, 5th ed., section 13.1), so a piece is flat when both inner points lie within the tolerance of
 * the chord. Pieces behind the vanishing line are left out.
 *
 * Chords of a curve lie on its inner side. Where a polynomial segment is cut, its vertices are set half of that outside of it, so that the chords are
 * as far to one side as to the other: half as wrong, and the area is kept nearly three times better, with the same corners. Anchors stay where they are.
 *
 * @param starts  gets for each segment the corner of the polygon at which it begins
 */
export function flattenOutline(outline: HomogeneousOutline, tolerance = 0.02, starts?: Int32Array): Float64Array {
  const buffer = new PointBuffer()
  const count = outline.length / SEGMENT_STRIDE
  for (let i = 0; i < count; i++) {
    if (starts) starts[i] = buffer.length / 2
    const a = i * SEGMENT_STRIDE
    const next = ((i + 1) % count) * SEGMENT_STRIDE
    flattenSegment(outline, a, next, tolerance, buffer)
  }
  return buffer.toArray()
}

/** Appends the corners of one segment but its last, from the numbers at `a` to the anchor at `next`. */
export function flattenSegment(
  outline: HomogeneousOutline,
  a: number,
  next: number,
  tolerance: number,
  buffer: PointBuffer,
) {
  const w = outline[a + 2]!
  const polynomial = w > SMALLEST_WEIGHT && outline[a + 5] === w && outline[a + 8] === w && outline[next + 2] === w
  if (polynomial) flattenPolynomial(outline, a, next, w, tolerance, buffer)
  else flattenRational(buffer, tolerance, 0, outline[a]!, outline[a + 1]!, w, outline[a + 3]!, outline[a + 4]!, outline[a + 5]!, outline[a + 6]!, outline[a + 7]!, outline[a + 8]!, outline[next]!, outline[next + 1]!, outline[next + 2]!) // prettier-ignore
}

/** A cubic is stepped in this many stretches, each by its own bend. */
const STRETCHES = 4

/**
 * Even steps within each stretch. The error of a chord over a step h is at most h^2/8 times the largest second
 * derivative across the chord. That derivative runs straight between its values at the stretch's ends; every chord of
 * the stretch lies in the cone of the three legs of its control polygon (they hull the tangent), so its direction
 * differs from the stretch's own chord by at most the widest leg's angle.
 */
function flattenPolynomial(
  o: HomogeneousOutline,
  a: number,
  next: number,
  w: number,
  tolerance: number,
  out: PointBuffer,
) {
  const x0 = o[a]! / w
  const y0 = o[a + 1]! / w
  const x1 = o[a + 3]! / w
  const y1 = o[a + 4]! / w
  const x2 = o[a + 6]! / w
  const y2 = o[a + 7]! / w
  const x3 = o[next]! / w
  const y3 = o[next + 1]! / w
  // Polynomial coefficients: the curve is ((a t + b) t + c) t + p0.
  const cx = 3 * (x1 - x0)
  const cy = 3 * (y1 - y0)
  const bx = 3 * (x0 - 2 * x1 + x2)
  const by = 3 * (y0 - 2 * y1 + y2)
  const ax = x3 - x0 - cx - bx
  const ay = y3 - y0 - cy - by
  out.push(x0, y0)
  // Half of the largest second derivative, which is at an end: the chord of the whole segment lies within a quarter of it.
  const bent = Math.max(Math.hypot(bx, by), Math.hypot(3 * ax + bx, 3 * ay + by))
  // One chord lies all on the inner side: it must be twice as good.
  if (bent / 4 <= tolerance / 2) return
  const h = 1 / STRETCHES
  let px = x0
  let py = y0
  let halfBefore = 0
  for (let stretch = 0; stretch < STRETCHES; stretch++) {
    const s = stretch * h
    const e = s + h
    const qx = ((ax * e + bx) * e + cx) * e + x0
    const qy = ((ay * e + by) * e + cy) * e + y0
    const chordX = qx - px
    const chordY = qy - py
    const length = Math.sqrt(chordX * chordX + chordY * chordY)
    const bend = length > 1e-9 ? bendAcross(ax, ay, bx, by, cx, cy, s, e, chordX / length, chordY / length, length) : 0
    const most =
      2 * Math.max(Math.hypot(3 * ax * s + bx, 3 * ay * s + by), Math.hypot(3 * ax * e + bx, 3 * ay * e + by))
    const steps = Math.max(1, Math.ceil(h * Math.sqrt((length > 1e-9 ? Math.min(bend, most) : most) / (8 * tolerance))))
    const step = h / steps
    // A chord over a step lies h^2/8 of the second derivative inside of the curve. Half of that outside, a cubic is another cubic.
    const half = (step * step) / 16
    if (stretch > 0) {
      // Where chords of two lengths meet, across the curve itself.
      const tx = (3 * ax * s + 2 * bx) * s + cx
      const ty = (3 * ay * s + 2 * by) * s + cy
      const squared = tx * tx + ty * ty
      const across = (6 * ay * s + 2 * by) * tx - (6 * ax * s + 2 * bx) * ty
      const outside = squared > 1e-9 ? (across * (halfBefore + half)) / (2 * squared) : 0
      out.push(px + outside * ty, py - outside * tx)
    }
    const inverse = length > 1e-9 ? 1 / length : 0
    const nx = -chordY * inverse
    const ny = chordX * inverse
    const c = 6 * half * (ax * nx + ay * ny)
    const p = 2 * half * (bx * nx + by * ny)
    for (let k = 1; k < steps; k++) {
      const t = s + k * step
      const outside = c * t + p
      out.push(((ax * t + bx) * t + cx) * t + x0 - outside * nx, ((ay * t + by) * t + cy) * t + y0 - outside * ny)
    }
    halfBefore = half
    px = qx
    py = qy
  }
}

/** Largest second derivative across any chord of the stretch s to e, whose own chord has direction (ux, uy). */
function bendAcross(
  ax: number,
  ay: number,
  bx: number,
  by: number,
  cx: number,
  cy: number,
  s: number,
  e: number,
  ux: number,
  uy: number,
  length: number,
): number {
  const third = (e - s) / 3
  const l0x = ((3 * ax * s + 2 * bx) * s + cx) * third
  const l0y = ((3 * ay * s + 2 * by) * s + cy) * third
  const l2x = ((3 * ax * e + 2 * bx) * e + cx) * third
  const l2y = ((3 * ay * e + 2 * by) * e + cy) * third
  const l1x = ux * length - l0x - l2x
  const l1y = uy * length - l0y - l2y
  const sine = Math.max(sineTo(l0x, l0y, ux, uy), sineTo(l1x, l1y, ux, uy), sineTo(l2x, l2y, ux, uy))
  const ddsx = 6 * ax * s + 2 * bx
  const ddsy = 6 * ay * s + 2 * by
  const ddex = 6 * ax * e + 2 * bx
  const ddey = 6 * ay * e + 2 * by
  const across = Math.max(Math.abs(ddsx * uy - ddsy * ux), Math.abs(ddex * uy - ddey * ux))
  const along = Math.max(Math.abs(ddsx * ux + ddsy * uy), Math.abs(ddex * ux + ddey * uy))
  return across + along * sine
}

/** Sine of the angle between a leg and a direction, 1 when it is a right angle or more. */
function sineTo(x: number, y: number, ux: number, uy: number): number {
  const along = x * ux + y * uy
  const across = Math.abs(x * uy - y * ux)
  if (along <= 0) return across === 0 && along === 0 ? 0 : 1
  return across / Math.sqrt(along * along + across * across)
}

const DEEPEST = 14

function flattenRational(
  out: PointBuffer,
  tolerance: number,
  depth: number,
  x0: number,
  y0: number,
  w0: number,
  x1: number,
  y1: number,
  w1: number,
  x2: number,
  y2: number,
  w2: number,
  x3: number,
  y3: number,
  w3: number,
) {
  const inFront = w0 > SMALLEST_WEIGHT && w1 > SMALLEST_WEIGHT && w2 > SMALLEST_WEIGHT && w3 > SMALLEST_WEIGHT
  if (inFront) {
    const ax = x0 / w0
    const ay = y0 / w0
    const dx = x3 / w3 - ax
    const dy = y3 / w3 - ay
    if (depth >= DEEPEST || isNear(x1 / w1 - ax, y1 / w1 - ay, dx, dy, tolerance)) {
      if (depth >= DEEPEST || isNear(x2 / w2 - ax, y2 / w2 - ay, dx, dy, tolerance)) {
        out.push(ax, ay)
        return
      }
    }
  } else if (depth >= DEEPEST || (w0 <= SMALLEST_WEIGHT && w1 <= 0 && w2 <= 0 && w3 <= SMALLEST_WEIGHT)) {
    return
  }
  const ax = (x0 + x1) / 2
  const ay = (y0 + y1) / 2
  const aw = (w0 + w1) / 2
  const bx = (x1 + x2) / 2
  const by = (y1 + y2) / 2
  const bw = (w1 + w2) / 2
  const cx = (x2 + x3) / 2
  const cy = (y2 + y3) / 2
  const cw = (w2 + w3) / 2
  const dx = (ax + bx) / 2
  const dy = (ay + by) / 2
  const dw = (aw + bw) / 2
  const ex = (bx + cx) / 2
  const ey = (by + cy) / 2
  const ew = (bw + cw) / 2
  const fx = (dx + ex) / 2
  const fy = (dy + ey) / 2
  const fw = (dw + ew) / 2
  flattenRational(out, tolerance, depth + 1, x0, y0, w0, ax, ay, aw, dx, dy, dw, fx, fy, fw)
  flattenRational(out, tolerance, depth + 1, fx, fy, fw, ex, ey, ew, cx, cy, cw, x3, y3, w3)
}

/** Distance of (px, py) from the segment (0, 0) - (dx, dy) is at most the tolerance. */
function isNear(px: number, py: number, dx: number, dy: number, tolerance: number): boolean {
  const lengthSquared = dx * dx + dy * dy
  let t = lengthSquared > 0 ? (px * dx + py * dy) / lengthSquared : 0
  t = t < 0 ? 0 : t > 1 ? 1 : t
  const ex = px - t * dx
  const ey = py - t * dy
  return ex * ex + ey * ey <= tolerance * tolerance
}

/** Sums of the control points of segment i of a homogeneous outline, X, Y and W, each point times its weight. */
function weighted(outline: HomogeneousOutline, i: number, weights: readonly number[]): [number, number, number] {
  const next = ((i + 1) % (outline.length / SEGMENT_STRIDE)) * SEGMENT_STRIDE
  const at = [SEGMENT.anchor, SEGMENT.leaving, SEGMENT.arriving].map((place) => i * SEGMENT_STRIDE + place).concat(next)
  const sum = (axis: number) => weights.reduce((total, w, k) => total + w * outline[at[k]! + axis]!, 0)
  return [sum(0), sum(1), sum(2)]
}

const bernstein = (t: number) => {
  const s = 1 - t
  return [s * s * s, 3 * s * s * t, 3 * s * t * t, t * t * t]
}

/** Point of segment i of a homogeneous outline, in plate pixels. */
export function rationalPoint(outline: HomogeneousOutline, i: number, t: number): [number, number] {
  const [x, y, w] = weighted(outline, i, bernstein(t))
  return [x / w, y / w]
}

/** How that point goes on with the segment's parameter, by the quotient rule: plate pixels. */
export function rationalTangent(outline: HomogeneousOutline, i: number, t: number): [number, number] {
  const s = 1 - t
  const [x, y, w] = weighted(outline, i, bernstein(t))
  const [dx, dy, dw] = weighted(outline, i, [-3 * s * s, 3 * s * s - 6 * s * t, 6 * s * t - 3 * t * t, 3 * t * t])
  return [(dx - (x / w) * dw) / w, (dy - (y / w) * dw) / w]
}
