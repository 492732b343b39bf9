import { boundsOf, windingNumber, type Box } from '../../geometry'
import type { PieceBuffer } from './boundaryPieces'
import { forNeighbours, segmentsOf, type Segments } from './segmentRuns'

/**
 * Differences of products below this share of their size are not trusted: the corner lies on the other edge or so near
 * that rounding decides. Doubles carry 53 bits; two differences and a product cost a few.
 */
const LEAST_SURE = 1e-12

/** A place where a segment is crossed by another one. */
interface Crossing {
  /** Number of the crossing, the same for both segments. */
  id: number
  x: number
  y: number
  segment: number
  /** Place on the segment, 0..1. */
  along: number
}

/**
 * Union of closed polygons, each filled by the non-zero rule on its own: all are cut where they cross themselves or one
 * another, and of the stretches in between those are kept that have their own filling on one side only and lie in none
 * of the others.
 *
 * @returns false, and nothing pushed, when corners or edges coincide so nearly that rounding would decide what crosses
 */
export function pushUnionByCrossings(polygons: readonly Float64Array[], out: PieceBuffer): boolean {
  const { length } = out
  const isSure = pushStretches(polygons, out)
  if (!isSure) out.length = length
  return isSure
}

function pushStretches(polygons: readonly Float64Array[], out: PieceBuffer): boolean {
  const segments = segmentsOf(polygons)
  const crossings = crossingsOf(segments)
  if (!crossings) return false
  crossings.sort((a, b) => a.segment - b.segment || a.along - b.along)
  const boxes = polygons.length > 1 ? polygons.map(boundsOf) : []
  const balance = new Int32Array(crossings.length / 2)
  let next = 0
  for (let own = 0; own < polygons.length; own++) {
    const first = next
    while (next < crossings.length && crossings[next]!.segment < segments.starts[own + 1]!) next++
    for (let i = first + 1; i < next; i++) if (isSamePlace(crossings[i - 1]!, crossings[i]!)) return false
    for (const stretch of stretchesOf(polygons[own]!, segments.starts[own]!, crossings.slice(first, next))) {
      const direction = boundaryDirection(stretch, own, polygons, boxes)
      if (direction === 0) continue
      pushPieces(stretch, direction, out)
      if (stretch.from >= 0) balance[stretch.from]! += direction
      if (stretch.to >= 0) balance[stretch.to]! -= direction
    }
  }
  // Every crossing must be left as often as it is reached, or the boundary has a hole through which area would leak.
  return balance.every((value) => value === 0)
}

/** @param direction  below 0: turned round */
function pushPieces({ points, length }: Stretch, direction: number, out: PieceBuffer) {
  if (direction > 0)
    for (let i = 2; i < length; i += 2) out.push(points[i - 2]!, points[i - 1]!, points[i]!, points[i + 1]!)
  else for (let i = length - 2; i > 0; i -= 2) out.push(points[i]!, points[i + 1]!, points[i - 2]!, points[i - 1]!)
}

/** Each crossing twice, once for each of its segments; null when one cannot be told for sure. */
function crossingsOf(segments: Segments): Crossing[] | null {
  const { ends, previous } = segments
  const found: Crossing[] = []
  const isSure = forNeighbours(segments, (s, t) => {
    const i = s * 4
    const j = t * 4
    const ax = ends[i]!
    const bx = ends[i + 2]!
    const cx = ends[j]!
    const dx = ends[j + 2]!
    if (ax < bx ? Math.max(cx, dx) < ax || Math.min(cx, dx) > bx : Math.max(cx, dx) < bx || Math.min(cx, dx) > ax)
      return true
    const ay = ends[i + 1]!
    const by = ends[i + 3]!
    const cy = ends[j + 1]!
    const dy = ends[j + 3]!
    if (ay < by ? Math.max(cy, dy) < ay || Math.min(cy, dy) > by : Math.max(cy, dy) < by || Math.min(cy, dy) > ay)
      return true
    if (previous[s] === t || previous[t] === s) return !foldsBack(ax, ay, bx, by, cx, cy, dx, dy)
    const c = sideOf(ax, ay, bx, by, cx, cy)
    const d = sideOf(ax, ay, bx, by, dx, dy)
    if (c * d > 0) return true
    const a = sideOf(cx, cy, dx, dy, ax, ay)
    const b = sideOf(cx, cy, dx, dy, bx, by)
    if (a * b > 0) return true
    if (a === 0 || b === 0 || c === 0 || d === 0) return false
    const along = a / (a - b)
    const x = ax + along * (bx - ax)
    const y = ay + along * (by - ay)
    const id = found.length / 2
    found.push({ id, x, y, segment: s, along }, { id, x, y, segment: t, along: c / (c - d) })
    return true
  })
  return isSure ? found : null
}

/** Two segments in a row that lie on each other. */
function foldsBack(ax: number, ay: number, bx: number, by: number, cx: number, cy: number, dx: number, dy: number) {
  const isOnOneLine = sideOf(ax, ay, bx, by, cx, cy) === 0 && sideOf(ax, ay, bx, by, dx, dy) === 0
  return isOnOneLine && (bx - ax) * (dx - cx) + (by - ay) * (dy - cy) <= 0
}

/** Twice the signed area of the triangle, or 0 when its sign is not sure. */
function sideOf(ax: number, ay: number, bx: number, by: number, px: number, py: number): number {
  const first = (bx - ax) * (py - ay)
  const second = (by - ay) * (px - ax)
  const side = first - second
  return Math.abs(side) <= LEAST_SURE * (Math.abs(first) + Math.abs(second) + 1) ? 0 : side
}

const isSamePlace = (a: Crossing, b: Crossing) => a.segment === b.segment && b.along - a.along < LEAST_SURE

/** Part of an outline between two crossings, or the whole of it, closed, when it has none. */
interface Stretch {
  points: Float64Array
  /** Numbers of `points` that count. */
  length: number
  /** Numbers of the crossings at its ends, or -1. */
  from: number
  to: number
  /** Segment of the polygon that the first piece lies on. */
  firstSegment: number
}

/** Room for a whole polygon: most are crossed nowhere. */
let whole = new Float64Array(0)

/**
 * @param crossings  those on this polygon, sorted
 * @returns each good until the next one
 */
function* stretchesOf(polygon: Float64Array, firstSegment: number, crossings: Crossing[]): Generator<Stretch> {
  const n = polygon.length
  if (crossings.length === 0) {
    if (whole.length < n + 2) whole = new Float64Array(2 * (n + 2))
    whole.set(polygon)
    whole[n] = polygon[0]!
    whole[n + 1] = polygon[1]!
    yield { points: whole, length: n + 2, from: -1, to: -1, firstSegment: 0 }
    return
  }
  for (let k = 0; k < crossings.length; k++) {
    const from = crossings[k]!
    const to = crossings[(k + 1) % crossings.length]!
    const segment = from.segment - firstSegment
    const isWithinSegment = from.segment === to.segment && from.along < to.along
    const corners = isWithinSegment ? 0 : (2 * (to.segment - from.segment) + n) % n || n
    const points = new Float64Array(corners + 4)
    points[0] = from.x
    points[1] = from.y
    for (let c = 0; c < corners; c += 2) {
      const corner = (2 * segment + 2 + c) % n
      points[2 + c] = polygon[corner]!
      points[3 + c] = polygon[corner + 1]!
    }
    points[corners + 2] = to.x
    points[corners + 3] = to.y
    yield { points, length: points.length, from: from.id, to: to.id, firstSegment: segment }
  }
}

/** 1: the stretch bounds the union as it runs; -1: turned round; 0: it lies inside or bounds nothing. */
function boundaryDirection(
  stretch: Stretch,
  own: number,
  polygons: readonly Float64Array[],
  boxes: readonly Box[],
): number {
  const { points } = stretch
  const at = longestPiece(stretch)
  const x = (points[at]! + points[at + 2]!) / 2
  const y = (points[at + 1]! + points[at + 3]!) / 2
  for (let i = 0; i < polygons.length; i++) {
    if (i === own) continue
    const box = boxes[i]!
    if (x < box.left || x > box.right || y < box.top || y > box.bottom) continue
    if (windingNumber(polygons[i]!, x, y) !== 0) return 0
  }
  const polygon = polygons[own]!
  const skipped = (stretch.firstSegment + at / 2) % (polygon.length / 2)
  const dx = points[at + 2]! - points[at]!
  const dy = points[at + 3]! - points[at + 1]!
  // The filling must lie to the right of what runs down, so below what runs left.
  if (Math.abs(dy) >= Math.abs(dx)) {
    const right = windingToTheRight(polygon, skipped, x, y)
    const left = right + Math.sign(dy)
    if ((right !== 0) === (left !== 0)) return 0
    return (right !== 0) === dy > 0 ? 1 : -1
  }
  const below = windingBelow(polygon, skipped, x, y)
  const above = below - Math.sign(dx)
  if ((below !== 0) === (above !== 0)) return 0
  return (below !== 0) === dx < 0 ? 1 : -1
}

/** Offset of the longest piece: its middle lies as far as can be from the crossings at the ends. */
function longestPiece({ points, length: end }: Stretch): number {
  let longest = -1
  let at = 0
  for (let i = 0; i + 2 < end; i += 2) {
    const length = (points[i + 2]! - points[i]!) ** 2 + (points[i + 3]! - points[i + 1]!) ** 2
    if (length > longest) {
      longest = length
      at = i
    }
  }
  return at
}

/** Winding just to the right of a point on the segment that is left out of the count. */
function windingToTheRight(polygon: Float64Array, skipped: number, x: number, y: number): number {
  let winding = 0
  const n = polygon.length
  for (let i = 0; i < n; i += 2) {
    const j = i + 2 === n ? 0 : i + 2
    const y0 = polygon[i + 1]!
    const y1 = polygon[j + 1]!
    if (y0 <= y === y1 <= y || i === 2 * skipped) continue
    const side = (polygon[j]! - polygon[i]!) * (y - y0) - (x - polygon[i]!) * (y1 - y0)
    if (y0 <= y && side > 0) winding++
    else if (y1 <= y && side < 0) winding--
  }
  return winding
}

/** The same just below it: the picture turned by a right angle, x to y and y to -x. */
function windingBelow(polygon: Float64Array, skipped: number, x: number, y: number): number {
  let winding = 0
  const n = polygon.length
  for (let i = 0; i < n; i += 2) {
    const j = i + 2 === n ? 0 : i + 2
    const x0 = polygon[i]!
    const x1 = polygon[j]!
    if (x0 >= x === x1 >= x || i === 2 * skipped) continue
    const side = (polygon[j + 1]! - polygon[i + 1]!) * (x0 - x) - (y - polygon[i + 1]!) * (x0 - x1)
    if (x0 >= x && side > 0) winding++
    else if (x1 >= x && side < 0) winding--
  }
  return winding
}
