import { allOf, findObject } from '@tender-lasso/core/document'
import { controlPlacesAt } from '@tender-lasso/core/evaluation'
import { GRAB_PIXELS, reachableShapes } from '../../selection'
import type { ToolContext } from './tool'

/**
 * The place that a dragged point catches on: a point of another shape, or of its own shape that stays; else guides, the
 * edges and the middle lines of the frame, each axis by itself.
 *
 * @param isDragged  points that move along and so are nothing to catch on
 * @param scale      screen pixels per plate pixel
 */
export function snapped(
  { document, frame, selection }: ToolContext,
  x: number,
  y: number,
  isDragged: (pointId: string) => boolean,
  scale: number,
): [number, number] {
  const reach = GRAB_PIXELS / scale
  let best: [number, number] | null = null
  let least = reach
  for (const shape of reachableShapes(document, frame, selection.shapeIds)) {
    const places = controlPlacesAt(document, shape, frame)
    shape.pointIds.forEach((id, i) => {
      if (isDragged(id)) return
      const distance = Math.hypot(places[2 * i]! - x, places[2 * i + 1]! - y)
      if (distance > least) return
      least = distance
      best = [places[2 * i]!, places[2 * i + 1]!]
    })
  }
  if (best) return best
  const shot = findObject(document, 'shot', 'shot')
  if (!shot) return [x, y]
  const guides = allOf(document, 'guide')
  const caught = (axis: 'x' | 'y', value: number, length: number) => {
    const own = guides.flatMap((guide) => (guide.axis === axis ? [guide.at] : []))
    return [...own, 0, length / 2, length].find((line) => Math.abs(line - value) <= reach) ?? value
  }
  return [caught('x', x, shot.width), caught('y', y, shot.height)]
}
