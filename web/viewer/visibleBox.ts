import { applyToPoint, boundsOf, invert, type Box, type Matrix3 } from '@tender-lasso/core/geometry'

/**
 * Box of the plate that the viewer shows, in plate pixels, cut at the plate's edges.
 *
 * @param toScreen  plate pixels to CSS pixels of the viewer
 */
export function visibleBox(
  toScreen: Matrix3,
  viewer: { width: number; height: number },
  plate: { width: number; height: number },
): Box {
  const toPlate = invert(toScreen)
  const corners = [0, 0, viewer.width, 0, viewer.width, viewer.height, 0, viewer.height]
  const onPlate: number[] = []
  for (let i = 0; i < 8; i += 2) onPlate.push(...applyToPoint(toPlate, corners[i]!, corners[i + 1]!))
  const box = boundsOf(onPlate)
  return {
    left: Math.max(0, Math.floor(box.left)),
    top: Math.max(0, Math.floor(box.top)),
    right: Math.min(plate.width, Math.ceil(box.right)),
    bottom: Math.min(plate.height, Math.ceil(box.bottom)),
  }
}
