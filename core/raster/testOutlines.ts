import { POINT_STRIDE } from '../document'
import { roundOutline } from '../document/testDocuments'

/** Pixels of a side of the square picture that these outlines lie in. */
export const SIZE = 384

/** What must not matter to how exactly an outline is drawn. */
export const MAPS = {
  'half a pixel aside, turned': [0, -1, SIZE + 0.5, 1, 0, 0.5, 0, 0, 1],
  mirrored: [-1, 0, SIZE, 0, 1, 0, 0, 0, 1],
  'on an anamorphic plate': [0.5, 0, 90, 0, 1, 0, 0, 0, 1],
  'in perspective': [1.1, 0.1, -20, 0, 1, -10, 4e-4, 2e-4, 1],
}

/** Points of an outline that winds wildly. */
export function wildOutline(): Float64Array {
  const values = roundOutline(12, 90, 190.3, 187.8)
  for (let p = 0; p < 12; p++) {
    for (let n = 0; n < 6; n++) values[p * POINT_STRIDE + n]! += 25 * Math.sin(37.7 * p + 11.3 * n)
  }
  return values
}
