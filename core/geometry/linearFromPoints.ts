import { TrackingError } from '../errors'
import { invert, type Matrix3 } from './matrix3'

/** Sums over point pairs about their centroids. */
function moments(from: ArrayLike<number>, to: ArrayLike<number>) {
  const count = from.length / 2
  const m = { x: 0, y: 0, u: 0, v: 0, xx: 0, xy: 0, yy: 0, xu: 0, yu: 0, xv: 0, yv: 0 }
  for (let i = 0; i < from.length; i += 2) {
    m.x += from[i]! / count
    m.y += from[i + 1]! / count
    m.u += to[i]! / count
    m.v += to[i + 1]! / count
  }
  for (let i = 0; i < from.length; i += 2) {
    const [x, y, u, v] = [from[i]! - m.x, from[i + 1]! - m.y, to[i]! - m.u, to[i + 1]! - m.v]
    m.xx += x * x
    m.xy += x * y
    m.yy += y * y
    m.xu += x * u
    m.yu += y * u
    m.xv += x * v
    m.yv += y * v
  }
  return m
}

/**
 * Rotation, scale and position that map `from[i]` to `to[i]`, least squares.
 *
 * Umeyama, "Least-Squares Estimation of Transformation Parameters Between Two Point Patterns", PAMI 13 (1991), in its
 * closed form for the plane without reflection.
 *
 * @param from, to     x0, y0, x1, y1 ...; two points or more that do not fall together
 * @param pixelAspect  width of a pixel over its height; the rotation is one of square pixels
 * @throws TrackingError `degenerate-points`
 */
export function similarityFromPoints(from: ArrayLike<number>, to: ArrayLike<number>, pixelAspect = 1): Matrix3 {
  const m = moments(from, to)
  const squared = pixelAspect * pixelAspect
  const spread = squared * m.xx + m.yy
  if (!(spread > 0)) throw new TrackingError('degenerate-points', 'All points fall together')
  const a = (squared * m.xu + m.yv) / spread
  const b = (pixelAspect * (m.xv - m.yu)) / spread
  const [right, down] = [b / pixelAspect, b * pixelAspect]
  return Float64Array.of(a, -right, m.u - a * m.x + right * m.y, down, a, m.v - down * m.x - a * m.y, 0, 0, 1)
}

/**
 * Affine map of `from[i]` to `to[i]`, least squares.
 *
 * @param from, to  x0, y0, x1, y1 ...; three points or more that do not lie on one line
 * @throws TrackingError `degenerate-points`
 */
export function affineFromPoints(from: ArrayLike<number>, to: ArrayLike<number>): Matrix3 {
  const m = moments(from, to)
  const determinant = m.xx * m.yy - m.xy * m.xy
  if (!(determinant > 1e-9 * (m.xx + m.yy) ** 2)) {
    throw new TrackingError('degenerate-points', 'The points lie on a line: no single affine map')
  }
  const [ixx, ixy, , , iyy] = invert(Float64Array.of(m.xx, m.xy, 0, m.xy, m.yy, 0, 0, 0, 1))
  const a = ixx! * m.xu + ixy! * m.yu
  const b = ixy! * m.xu + iyy! * m.yu
  const c = ixx! * m.xv + ixy! * m.yv
  const d = ixy! * m.xv + iyy! * m.yv
  return Float64Array.of(a, b, m.u - a * m.x - b * m.y, c, d, m.v - c * m.x - d * m.y, 0, 0, 1)
}
