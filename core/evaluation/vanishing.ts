import polylabel from 'polylabel'
import { centroidOfVertices, signedDistanceToPolygon } from '../geometry'
import { edgeReach, isPlainEdge, rampAt } from '../raster'
import { flattenOutline } from '../spline'
import type { RotoDocument, Shape } from '../document'
import { edgeOn } from './edge'
import { areasAt } from './outlines'
import { hasPointWidths } from './pointWidths'

/** Plate pixels by which the deepest place may be missed. */
const PRECISION = 0.25
/** Alpha that an 8-bit matte does not hold any more. */
const NOTHING = 0.5 / 255

/**
 * Half of the width of a closed shape where it is widest, when its feather or its growth leaves nothing of it on a frame; else null. Points with widths of their own
 * are not looked at.
 *
 * @returns  plate pixels
 */
export function vanishedHalfWidth(document: RotoDocument, shape: Shape, frame: number): number | null {
  const { edge } = edgeOn(shape, frame)
  if (!shape.isClosed || isPlainEdge(edge) || hasPointWidths(shape)) return null
  const [outline] = areasAt(document, shape, frame)
  const polygon = outline && flattenOutline(outline)
  if (!polygon || polygon.length < 6) return null
  // Most are deep enough in their middle already; this is asked while they are dragged.
  const reach = edgeReach(edge)
  if (-signedDistanceToPolygon(polygon, ...centroidOfVertices(polygon)) > reach) return null
  const ring = Array.from(
    { length: polygon.length / 2 },
    (_, i) => [polygon[2 * i]!, polygon[2 * i + 1]!] as [number, number],
  )
  const [x, y] = polylabel([ring], PRECISION)
  const halfWidth = Math.max(0, -signedDistanceToPolygon(polygon, x!, y!))
  // Nothing is deeper than that place, so nothing is denser.
  if (halfWidth > reach) return null
  return rampAt(-halfWidth - edge.grow, edge.innerFeather, edge.outerFeather, edge.falloff) < NOTHING ? halfWidth : null
}
