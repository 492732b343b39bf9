import { distanceWithin } from './distanceToPolygon'
import { signedArea, windingNumber } from './polygon'
import { wrappedAngle } from './vectors2d'

/** Pixels by which the arcs round corners may deviate, and by which a place of the contour may be too near or too far. */
const TOLERANCE = 0.05

/** Of an edge, pixels. */
const LONGEST_PART = 6

/** Of the distance, from a corner to where the edges beside it meet, moved: so far only at sharp ones. */
const FAR = 1.2

/**
 * Where the signed distance to a closed polygon has one value: its line moved outwards (or, below zero, inwards) along its normals,
 * with arcs round the corners; what would come too near to another stretch is left out, so that nothing folds over.
 *
 * @param polygon   x0, y0, x1, y1 ..., pixels
 * @param distance  pixels, positive outside
 * @returns         open polylines x0, y0, x1, y1 ..., empty where the polygon is nowhere so wide
 */
export function contourAtDistance(polygon: ArrayLike<number>, distance: number): number[][] {
  if (distance === 0) return [[...Array.from(polygon), polygon[0]!, polygon[1]!]]
  const lines: number[][] = []
  let line: number[] = []
  const distanceTo = distanceWithin(polygon, Math.abs(distance) + TOLERANCE)
  const add = (x: number, y: number, isOnThatSide = true) => {
    if (isOnThatSide && Math.abs(distanceTo(x, y) - Math.abs(distance)) <= TOLERANCE) line.push(x, y)
    else if (line.length > 0) {
      lines.push(line)
      line = []
    }
  }
  const edges = edgesOf(polygon)
  // Outwards is to the right of a polygon whose area is positive, y running down.
  const way = (signedArea(polygon) > 0 ? 1 : -1) * distance
  const step = 2 * Math.acos(Math.max(-1, 1 - TOLERANCE / Math.max(TOLERANCE, Math.abs(distance))))
  edges.forEach(({ ax, ay, bx, by, angle }, i) => {
    const [nx, ny] = [Math.sin(angle) * way, -Math.cos(angle) * way]
    // Long edges in parts, of which some may lie too near to others.
    const parts = Math.ceil(Math.hypot(bx - ax, by - ay) / LONGEST_PART)
    for (let p = 1; p < parts; p++) add(ax + ((bx - ax) * p) / parts + nx, ay + ((by - ay) * p) / parts + ny)
    const turn = wrappedAngle(edges[(i + 1) % edges.length]!.angle - angle)
    if (turn * way <= 0) {
      // The inner side of a corner: the moved edges meet halfway between their normals.
      const half = angle + turn / 2
      const reach = way / Math.cos(turn / 2)
      const [x, y] = [bx + Math.sin(half) * reach, by - Math.cos(half) * reach]
      // Those of a sharp corner may do so beyond the other side of the polygon.
      const isFar = Math.abs(reach) > FAR * Math.abs(distance)
      add(x, y, !isFar || (windingNumber(polygon, x, y) === 0) === distance > 0)
      return
    }
    const steps = Math.max(1, Math.ceil(Math.abs(turn) / step))
    for (let s = 0; s <= steps; s++) {
      const at = angle + (turn * s) / steps
      add(bx + Math.sin(at) * way, by - Math.cos(at) * way)
    }
  })
  if (line.length > 0) lines.push(line)
  const [first, last] = [lines[0], lines.at(-1)]
  if (!first || !last) return []
  // Round about: the end goes on where it began.
  const gap = Math.hypot(first[0]! - last.at(-2)!, first[1]! - last.at(-1)!)
  if (first === last && gap < LONGEST_PART + 2) first.push(first[0]!, first[1]!)
  else if (gap < LONGEST_PART + 2) lines.splice(0, 1, [...lines.pop()!, ...first])
  return lines.filter(({ length }) => length >= 4)
}

function edgesOf(polygon: ArrayLike<number>) {
  const edges: { ax: number; ay: number; bx: number; by: number; angle: number }[] = []
  for (let i = 0; i < polygon.length; i += 2) {
    const j = i + 2 === polygon.length ? 0 : i + 2
    const [ax, ay, bx, by] = [polygon[i]!, polygon[i + 1]!, polygon[j]!, polygon[j + 1]!]
    if (ax !== bx || ay !== by) edges.push({ ax, ay, bx, by, angle: Math.atan2(by - ay, bx - ax) })
  }
  return edges
}
