import { applyToPoint, type Box, type Matrix3 } from '../geometry'
import type { LumaImage } from '../image'
import { bicubicAt } from './sampling'

/**
 * A patch of the pattern's frame as another frame shows it, brought back to where the pattern is: with a true motion all
 * frames give the same picture.
 *
 * @param picture  stretch of the frame that holds the patch
 * @param motion   plate positions of the pattern's frame to those of this frame
 * @param box      patch in plate pixels of the pattern's frame
 * @param width, height  pixels of the result
 * @returns values 0..1, row by row; NaN where the frame does not show the patch
 */
export function unwarpedPatch(
  picture: LumaImage,
  motion: Matrix3,
  box: Box,
  width: number,
  height: number,
): Float32Array {
  const out = new Float32Array(width * height)
  const level = { ...picture, scale: 1 }
  const place = [0, 0]
  for (let j = 0; j < height; j++) {
    for (let i = 0; i < width; i++) {
      const x = box.left + ((i + 0.5) / width) * (box.right - box.left)
      const y = box.top + ((j + 0.5) / height) * (box.bottom - box.top)
      applyToPoint(motion, x, y, place)
      const [u, v] = [place[0]! - picture.left - 0.5, place[1]! - picture.top - 0.5]
      const isInside = u >= 1 && v >= 1 && u < picture.width - 2 && v < picture.height - 2
      out[j * width + i] = isInside ? bicubicAt(level, u, v) : NaN
    }
  }
  return out
}
