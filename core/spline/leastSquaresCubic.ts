/**
 * Cubic through the first and the last sample with given tangent directions there; the tangents' lengths are those of
 * least squares at the samples' parameters (Schneider, "An Algorithm for Automatically Fitting Digitized Curves",
 * Graphics Gems, 1990, section "Fitting the curve").
 *
 * @param samples     x0, y0, x1, y1 ...
 * @param parameters  0..1, one a sample, first 0, last 1
 * @param t1, t2      unit directions from the first point into the curve, and from the last point into the curve
 * @param fallback    length of both tangents where the system gives some that point backwards (Wu & Barsky, as in the
 *                    paper: a third of the way)
 * @returns x0, y0, x1, y1, x2, y2, x3, y3
 */
export function leastSquaresCubic(
  samples: ArrayLike<number>,
  parameters: ArrayLike<number>,
  t1: readonly [number, number],
  t2: readonly [number, number],
  fallback: number,
): Float64Array {
  const x0 = samples[0]!
  const y0 = samples[1]!
  const x3 = samples[samples.length - 2]!
  const y3 = samples[samples.length - 1]!
  let [c00, c01, c11, r0, r1] = [0, 0, 0, 0, 0]
  for (let i = 0; i < parameters.length; i++) {
    const t = parameters[i]!
    const s = 1 - t
    const b1 = 3 * s * s * t
    const b2 = 3 * s * t * t
    const onStart = s * s * s + b1
    const onEnd = b2 + t * t * t
    const restX = samples[2 * i]! - x0 * onStart - x3 * onEnd
    const restY = samples[2 * i + 1]! - y0 * onStart - y3 * onEnd
    c00 += b1 * b1
    c01 += b1 * b2 * (t1[0] * t2[0] + t1[1] * t2[1])
    c11 += b2 * b2
    r0 += b1 * (t1[0] * restX + t1[1] * restY)
    r1 += b2 * (t2[0] * restX + t2[1] * restY)
  }
  const determinant = c00 * c11 - c01 * c01
  let alpha1 = determinant > 1e-12 ? (r0 * c11 - r1 * c01) / determinant : 0
  let alpha2 = determinant > 1e-12 ? (c00 * r1 - c01 * r0) / determinant : 0
  if (alpha1 < 1e-6 * fallback || alpha2 < 1e-6 * fallback) alpha1 = alpha2 = fallback
  return Float64Array.of(
    x0,
    y0,
    x0 + t1[0] * alpha1,
    y0 + t1[1] * alpha1,
    x3 + t2[0] * alpha2,
    y3 + t2[1] * alpha2,
    x3,
    y3,
  )
}
