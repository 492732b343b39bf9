import { windingNumber } from './polygon'

/** Distance from (x, y) to the line of a closed polygon x0, y0, x1, y1 ..., never negative. */
export function distanceToPolygon(polygon: ArrayLike<number>, x: number, y: number): number {
  let least = Infinity
  for (let i = 0; i < polygon.length; i += 2) {
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
  return Math.sqrt(least)
}

/** The same, negative inside by the non-zero rule. */
export const signedDistanceToPolygon = (polygon: ArrayLike<number>, x: number, y: number): number =>
  distanceToPolygon(polygon, x, y) * (windingNumber(polygon, x, y) === 0 ? 1 : -1)
