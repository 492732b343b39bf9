import type { Matrix3 } from '../geometry'

/**
 * Outlines under a homography are rational cubics. A closed outline of n points is 3n homogeneous control points
 * [X, Y, W], laid out per point i as anchor i, leaving handle of i, arriving handle of i + 1: 9n numbers.
 */
export type HomogeneousOutline = Float64Array

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
  out: HomogeneousOutline = new Float64Array((points.length / stride) * 9),
): HomogeneousOutline {
  const count = points.length / stride
  const put = (at: number, x: number, y: number) => {
    out[at] = map[0]! * x + map[1]! * y + map[2]!
    out[at + 1] = map[3]! * x + map[4]! * y + map[5]!
    out[at + 2] = map[6]! * x + map[7]! * y + map[8]!
  }
  for (let i = 0; i < count; i++) {
    const p = i * stride
    const next = ((i + 1) % count) * stride
    const x = points[p]!
    const y = points[p + 1]!
    put(i * 9, x, y)
    put(i * 9 + 3, x + points[p + 4]!, y + points[p + 5]!)
    put(i * 9 + 6, points[next]! + points[next + 2]!, points[next + 1]! + points[next + 3]!)
  }
  return out
}

/** A growing list of numbers without garbage: flattening appends to it. */
export class PointBuffer {
  private data = new Float64Array(1024)
  length = 0

  push(x: number, y: number) {
    if (this.length + 2 > this.data.length) {
      const grown = new Float64Array(this.data.length * 2)
      grown.set(this.data)
      this.data = grown
    }
    this.data[this.length++] = x
    this.data[this.length++] = y
  }

  toArray(): Float64Array {
    return this.data.slice(0, this.length)
  }
}

/**
 * The closed outline as a polygon in plate pixels that deviates by at most `tolerance` pixels.
 *
 * For positive weights a rational Bezier curve lies in the convex hull of its projected control points (Farin, Curves
 * and Surfaces for CAGD, 5th ed., section 13.1), so a piece is flat when both inner points lie within the tolerance of
 * the chord. Pieces behind the vanishing line are left out.
 */
export function flattenOutline(outline: HomogeneousOutline, tolerance = 0.02): Float64Array {
  const buffer = new PointBuffer()
  const count = outline.length / 9
  for (let i = 0; i < count; i++) {
    const a = i * 9
    const next = ((i + 1) % count) * 9
    const w = outline[a + 2]!
    const polynomial = w > SMALLEST_WEIGHT && outline[a + 5] === w && outline[a + 8] === w && outline[next + 2] === w
    if (polynomial) flattenPolynomial(outline, a, next, w, tolerance, buffer)
    else
      flattenRational(
        buffer,
        tolerance,
        0,
        outline[a]!,
        outline[a + 1]!,
        w,
        outline[a + 3]!,
        outline[a + 4]!,
        outline[a + 5]!,
        outline[a + 6]!,
        outline[a + 7]!,
        outline[a + 8]!,
        outline[next]!,
        outline[next + 1]!,
        outline[next + 2]!,
      )
  }
  return buffer.toArray()
}

/** Uniform steps; the chord error of a cubic over a step h is at most h^2/8 times its largest second derivative. */
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
  const bend = Math.sqrt(
    Math.max((x0 - 2 * x1 + x2) ** 2 + (y0 - 2 * y1 + y2) ** 2, (x1 - 2 * x2 + x3) ** 2 + (y1 - 2 * y2 + y3) ** 2),
  )
  const steps = Math.max(1, Math.ceil(Math.sqrt((6 * bend) / (8 * tolerance))))
  out.push(x0, y0)
  for (let k = 1; k < steps; k++) {
    const t = k / steps
    const s = 1 - t
    const b0 = s * s * s
    const b1 = 3 * s * s * t
    const b2 = 3 * s * t * t
    const b3 = t * t * t
    out.push(b0 * x0 + b1 * x1 + b2 * x2 + b3 * x3, b0 * y0 + b1 * y1 + b2 * y2 + b3 * y3)
  }
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
