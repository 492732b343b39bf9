import { findObject, type RotoDocument } from '@tender-lasso/core/document'
import { controlPlacesAt, worldAt } from '@tender-lasso/core/evaluation'
import { applyToPoint, invert, multiply, type Box } from '@tender-lasso/core/geometry'
import { shotRange, type ShotState } from '../../store'

/** Frames to each side of the present one. */
export const NEIGHBOURS = 3

/** A place of the plate on a frame, and the pixels about it that are shown. */
export interface EdgeLook {
  frame: number
  x: number
  y: number
  /** Whole plate pixels. */
  box: Box
}

/**
 * The same place of what is selected on the frames about the present one: the middle of the selected points, or the place of the pointer, which goes along with its Part.
 *
 * @param across  plate pixels that a tile shows
 * @returns       null where nothing is selected or pointed at
 */
export function looksAt(
  { shown, frame, selection }: Pick<ShotState, 'shown' | 'frame' | 'selection'>,
  pointer: readonly [number, number] | null,
  across: { width: number; height: number },
): EdgeLook[] | null {
  const placeOn = placeFollowed(shown, frame, selection, pointer)
  if (!placeOn) return null
  const [first, last] = shotRange()
  const frames = Array.from({ length: 2 * NEIGHBOURS + 1 }, (_, i) => frame + i - NEIGHBOURS)
  return frames
    .filter((at) => at >= first && at <= last)
    .map((at) => {
      const [x, y] = placeOn(at)
      const [halfWidth, halfHeight] = [Math.ceil(across.width / 2) + 2, Math.ceil(across.height / 2) + 2]
      const [left, top] = [Math.floor(x) - halfWidth, Math.floor(y) - halfHeight]
      return { frame: at, x, y, box: { left, top, right: left + 2 * halfWidth + 1, bottom: top + 2 * halfHeight + 1 } }
    })
}

function placeFollowed(
  document: RotoDocument,
  frame: number,
  { partId, shapeIds, pointIds }: ShotState['selection'],
  pointer: readonly [number, number] | null,
): ((frame: number) => [number, number]) | null {
  const part = partId === null ? undefined : findObject(document, 'part', partId)
  if (!part) return null
  const shapes = shapeIds.flatMap((id) => findObject(document, 'shape', id) ?? [])
  if (shapes.some((shape) => shape.pointIds.some((id) => pointIds.has(id)))) {
    return (at) => {
      let [x, y, count] = [0, 0, 0]
      for (const shape of shapes) {
        const places = controlPlacesAt(document, shape, at)
        shape.pointIds.forEach((id, i) => {
          if (!pointIds.has(id)) return
          x += places[2 * i]!
          y += places[2 * i + 1]!
          count++
        })
      }
      return [x / count, y / count]
    }
  }
  if (!pointer) return null
  const back = invert(worldAt(document, part, frame))
  return (at) => {
    const [x, y] = applyToPoint(multiply(worldAt(document, part, at), back), pointer[0], pointer[1])
    return [x!, y!]
  }
}
