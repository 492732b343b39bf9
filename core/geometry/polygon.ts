import { applyToPoint, type Matrix3 } from './matrix3'

/** Axis-aligned box; `right` and `bottom` are exclusive edges. Empty when left >= right. */
export interface Box {
  left: number
  top: number
  right: number
  bottom: number
}

/** True when the boxes share more than an edge. */
export function boxesOverlap(a: Box, b: Box): boolean {
  return a.left < b.right && a.right > b.left && a.top < b.bottom && a.bottom > b.top
}

/** A box wider by so many pixels to all sides. */
export const grown = ({ left, top, right, bottom }: Box, by: number): Box => ({
  left: left - by,
  top: top - by,
  right: right + by,
  bottom: bottom + by,
})

/** The least box that holds all of these. */
export function boxAroundAll(boxes: readonly Box[]): Box {
  const around = { left: Infinity, top: Infinity, right: -Infinity, bottom: -Infinity }
  for (const { left, top, right, bottom } of boxes) {
    around.left = Math.min(around.left, left)
    around.top = Math.min(around.top, top)
    around.right = Math.max(around.right, right)
    around.bottom = Math.max(around.bottom, bottom)
  }
  return around
}

/** The polygon x0, y0, x1, y1 ... with every vertex moved by a homography. */
export const movedPolygon = (polygon: ArrayLike<number>, map: Matrix3): Float64Array =>
  movePolygon(polygon, map, new Float64Array(polygon.length))

/** The same into `out`, which may be the polygon itself. */
export function movePolygon(polygon: ArrayLike<number>, map: Matrix3, out: Float64Array): Float64Array {
  const place = [0, 0]
  for (let i = 0; i < polygon.length; i += 2) {
    applyToPoint(map, polygon[i]!, polygon[i + 1]!, place)
    out[i] = place[0]!
    out[i + 1] = place[1]!
  }
  return out
}

/** Twice-halved shoelace sum: positive when the vertices x0, y0, x1, y1 ... run clockwise on screen (y down). */
export function signedArea(polygon: ArrayLike<number>): number {
  let sum = 0
  const n = polygon.length
  for (let i = 0; i < n; i += 2) {
    const j = (i + 2) % n
    sum += polygon[i]! * polygon[j + 1]! - polygon[j]! * polygon[i + 1]!
  }
  return sum / 2
}

export function boundsOf(points: ArrayLike<number>): Box {
  const box = { left: Infinity, top: Infinity, right: -Infinity, bottom: -Infinity }
  for (let i = 0; i < points.length; i += 2) {
    box.left = Math.min(box.left, points[i]!)
    box.right = Math.max(box.right, points[i]!)
    box.top = Math.min(box.top, points[i + 1]!)
    box.bottom = Math.max(box.bottom, points[i + 1]!)
  }
  return box
}

/** Corners of the square round a place, `half` to each side, clockwise on screen from the top left. */
export const squareRound = (x: number, y: number, half: number): number[] =>
  [x - half, y - half, x + half, y - half, x + half, y + half, x - half, y + half] // prettier-ignore

/** Bounding box of several polygons together. */
export const boundsOfAll = (polygons: readonly ArrayLike<number>[]): Box => boxAroundAll(polygons.map(boundsOf))

export function centroidOfVertices(points: ArrayLike<number>): [number, number] {
  let x = 0
  let y = 0
  const count = points.length / 2
  for (let i = 0; i < points.length; i += 2) {
    x += points[i]! / count
    y += points[i + 1]! / count
  }
  return [x, y]
}

/** How often the closed polygon runs round (x, y); non-zero means inside under the non-zero rule. */
export function windingNumber(polygon: ArrayLike<number>, x: number, y: number): number {
  let winding = 0
  const n = polygon.length
  for (let i = 0; i < n; i += 2) {
    const j = (i + 2) % n
    const y0 = polygon[i + 1]!
    const y1 = polygon[j + 1]!
    if (y0 <= y === y1 <= y) continue
    const side = (polygon[j]! - polygon[i]!) * (y - y0) - (x - polygon[i]!) * (y1 - y0)
    if (y0 <= y && side > 0) winding++
    else if (y1 <= y && side < 0) winding--
  }
  return winding
}
