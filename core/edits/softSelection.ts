import { controlPlacesAt } from '../evaluation'
import type { RotoDocument, Shape } from '../document'

/**
 * How much each point of a shape goes along with chosen ones: these in full, others less the farther they are from the
 * nearest chosen one on the plate, nothing from `radius` on (3u^2 - 2u^3, so that the outline keeps no kink).
 *
 * @param chosen  empty: all points go in full
 * @param radius  plate pixels; 0: only the chosen ones
 */
export function pointShares(
  document: RotoDocument,
  shape: Shape,
  frame: number,
  chosen: ReadonlySet<string>,
  radius: number,
): (pointId: string) => number {
  if (chosen.size === 0) return () => 1
  if (radius <= 0) return (id) => (chosen.has(id) ? 1 : 0)
  const places = controlPlacesAt(document, shape, frame)
  const centres = shape.pointIds.flatMap((id, i) => (chosen.has(id) ? [i] : []))
  const shares = new Map(
    shape.pointIds.map((id, i) => {
      const distance = Math.min(
        ...centres.map((c) => Math.hypot(places[2 * c]! - places[2 * i]!, places[2 * c + 1]! - places[2 * i + 1]!)),
      )
      const near = Math.max(0, 1 - distance / radius)
      return [id, near * near * (3 - 2 * near)]
    }),
  )
  return (id) => shares.get(id) ?? 0
}
