import { windingNumber, type Box } from './polygon'

/** Distance from (x, y) to the line of a closed polygon x0, y0, x1, y1 ..., never negative. */
export const distanceToPolygon = (polygon: ArrayLike<number>, x: number, y: number): number =>
  Math.sqrt(squareToEdges(polygon, 0, polygon.length, x, y))

/** Edges whose box is looked at before they are. */
const TOGETHER = 8

/**
 * The distance to the line of a polygon as far as it is at most `most`, for many places of one polygon: stretches that lie
 * farther away are not looked at.
 *
 * @returns finds the distance; Infinity where it is more
 */
export function distanceWithin(polygon: ArrayLike<number>, most: number): (x: number, y: number) => number {
  const step = 2 * TOGETHER
  const boxes = Array.from({ length: Math.ceil(polygon.length / step) }, (_, k) => boxOfEdges(polygon, k * step, step))
  return (x, y) => {
    let least = most * most
    let isNear = false
    boxes.forEach(({ left, top, right, bottom }, k) => {
      const [dx, dy] = [Math.max(0, left - x, x - right), Math.max(0, top - y, y - bottom)]
      if (dx * dx + dy * dy > least) return
      const squared = squareToEdges(polygon, k * step, Math.min(polygon.length, (k + 1) * step), x, y)
      if (squared > least) return
      least = squared
      isNear = true
    })
    return isNear ? Math.sqrt(least) : Infinity
  }
}

/** Where the edges from those numbers on lie, the end of the last one among them. */
function boxOfEdges(polygon: ArrayLike<number>, first: number, count: number): Box {
  const box = { left: Infinity, top: Infinity, right: -Infinity, bottom: -Infinity }
  for (let i = first; i <= Math.min(polygon.length, first + count); i += 2) {
    const at = i === polygon.length ? 0 : i
    box.left = Math.min(box.left, polygon[at]!)
    box.right = Math.max(box.right, polygon[at]!)
    box.top = Math.min(box.top, polygon[at + 1]!)
    box.bottom = Math.max(box.bottom, polygon[at + 1]!)
  }
  return box
}

function squareToEdges(polygon: ArrayLike<number>, first: number, end: number, x: number, y: number): number {
  let least = Infinity
  for (let i = first; i < end; i += 2) {
    const j = i + 2 === polygon.length ? 0 : i + 2
    const [ax, ay] = [polygon[i]!, polygon[i + 1]!]
    const [dx, dy] = [polygon[j]! - ax, polygon[j + 1]! - ay]
    const lengthSquared = dx * dx + dy * dy
    const along = lengthSquared > 0 ? ((x - ax) * dx + (y - ay) * dy) / lengthSquared : 0
    const t = along < 0 ? 0 : along > 1 ? 1 : along
    const [ex, ey] = [ax + t * dx - x, ay + t * dy - y]
    const squared = ex * ex + ey * ey
    if (squared < least) least = squared
  }
  return least
}

/** Distance from (x, y) to the line of a closed polygon, negative inside by the non-zero rule. */
export const signedDistanceToPolygon = (polygon: ArrayLike<number>, x: number, y: number): number =>
  distanceToPolygon(polygon, x, y) * (windingNumber(polygon, x, y) === 0 ? 1 : -1)
