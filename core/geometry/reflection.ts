import type { Matrix3 } from './matrix3'

/**
 * Reflection about the line through two places. On an anamorphic plate it is one of square pixels: what is seen as upright there is reflected upright.
 *
 * @param line         x0, y0, x1, y1, pixels; two different places
 * @param pixelAspect  width of a pixel over its height
 */
export function reflectionAbout(line: ArrayLike<number>, pixelAspect = 1): Matrix3 {
  const [x, y] = [line[0]! * pixelAspect, line[1]!]
  const [dx, dy] = [line[2]! * pixelAspect - x, line[3]! - y]
  const squared = dx * dx + dy * dy
  // 2 u u^T - 1 with u along the line.
  const a = (2 * dx * dx) / squared - 1
  const b = (2 * dx * dy) / squared
  const [cx, cy] = [x - a * x - b * y, y - b * x + a * y]
  return Float64Array.of(a, b / pixelAspect, cx / pixelAspect, b * pixelAspect, -a, cy, 0, 0, 1)
}
