import { TrackingError } from '../errors'
import { invert, multiply, scaledAt, type Matrix3 } from './matrix3'
import { smallestEigenvector } from './symmetricEigen'

/**
 * Homography that maps `from[i]` to `to[i]`, least squares over all points.
 *
 * Normalised direct linear transform: Hartley & Zisserman, Multiple View Geometry, 2nd ed., Algorithm 4.2.
 *
 * @param from  x0, y0, x1, y1 ... in plate pixels of the reference frame; at least 4 points, no 3 of them on a line
 * @param to    the same points in plate pixels of the current frame; same length
 * @param weights  of each point's squared error; null: all alike
 * @returns     3x3 row-major matrix, scaled so that w = 1 at the centroid of `from`
 * @throws TrackingError `degenerate-points` when the points do not determine a homography
 */
export function homographyFromPoints(
  from: ArrayLike<number>,
  to: ArrayLike<number>,
  weights: ArrayLike<number> | null = null,
): Matrix3 {
  const count = from.length / 2
  if (count < 4 || from.length !== to.length) {
    throw new TrackingError(
      'degenerate-points',
      `A homography needs 4 or more point pairs; got ${from.length / 2} and ${to.length / 2}`,
    )
  }
  const source = isotropicNormalisation(from)
  const target = isotropicNormalisation(to)
  const normal = new Float64Array(81)
  const row = new Float64Array(9)
  const accumulate = (weight: number) => {
    for (let i = 0; i < 9; i++) for (let j = 0; j < 9; j++) normal[i * 9 + j]! += weight * row[i]! * row[j]!
  }
  for (let i = 0; i < count; i++) {
    const x = (from[2 * i]! - source.x) * source.scale
    const y = (from[2 * i + 1]! - source.y) * source.scale
    const u = (to[2 * i]! - target.x) * target.scale
    const v = (to[2 * i + 1]! - target.y) * target.scale
    const weight = weights ? weights[i]! : 1
    row.set([0, 0, 0, -x, -y, -1, v * x, v * y, v])
    accumulate(weight)
    row.set([x, y, 1, 0, 0, 0, -u * x, -u * y, -u])
    accumulate(weight)
  }
  const { vector, gap } = smallestEigenvector(normal, 9)
  // Two vanishing eigenvalues mean a family of solutions: points on one line or equal points.
  if (!(gap > 1e-10)) {
    throw new TrackingError('degenerate-points', 'The points lie on a line or fall together: no single homography')
  }
  const normalise = Float64Array.of(
    source.scale,
    0,
    -source.x * source.scale,
    0,
    source.scale,
    -source.y * source.scale,
    0,
    0,
    1,
  )
  const denormalise = invert(
    Float64Array.of(target.scale, 0, -target.x * target.scale, 0, target.scale, -target.y * target.scale, 0, 0, 1),
  )
  return scaledAt(multiply(denormalise, multiply(vector, normalise)), source.x, source.y)
}

/** Centroid, and the scale that brings the mean distance from it to sqrt(2). */
function isotropicNormalisation(points: ArrayLike<number>) {
  const count = points.length / 2
  let x = 0
  let y = 0
  for (let i = 0; i < count; i++) {
    x += points[2 * i]! / count
    y += points[2 * i + 1]! / count
  }
  let mean = 0
  for (let i = 0; i < count; i++) mean += Math.hypot(points[2 * i]! - x, points[2 * i + 1]! - y) / count
  if (!(mean > 0)) throw new TrackingError('degenerate-points', 'All points fall together')
  return { x, y, scale: Math.SQRT2 / mean }
}
