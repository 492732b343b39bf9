/** Where a point's numbers stand: place, tangents relative to it, and its tension. */
export interface BsplineStride {
  stride: number
  tension: number
}

/**
 * The uniform cubic B-spline of a control polygon as Bezier segments, point by point: each control point becomes the knot
 * point with its two tangents.
 *
 * A knot point is 1/6, 4/6, 1/6 of its neighbours, its inner Bezier points lie a third along the legs of the polygon (de
 * Boor, A Practical Guide to Splines; Farin, Curves and Surfaces for CAGD, 5th ed., section 8.2). Tension t draws these
 * three towards the control point by t: the curve stays smooth for t < 1 and has a corner there at 1; so does the picture
 * under any affine map. The ends of an open curve are the first and the last control point.
 *
 * @param points    n points of `stride` numbers: x, y, then two tangents of two numbers that are written over
 * @param isClosed  the last point is followed by the first
 * @returns the same numbers with places and tangents of the curve
 */
export function bsplineAsBezier(
  points: Float64Array,
  { stride, tension }: BsplineStride,
  isClosed: boolean,
): Float64Array {
  const count = points.length / stride
  const out = points.slice()
  for (let i = 0; i < count; i++) {
    const at = i * stride
    const isEnd = !isClosed && (i === 0 || i === count - 1)
    const pull = isEnd ? 1 : Math.min(1, Math.max(0, 1 - points[at + tension]!))
    const before = ((i + count - 1) % count) * stride
    const after = ((i + 1) % count) * stride
    for (let axis = 0; axis < 2; axis++) {
      const here = points[at + axis]!
      // An end has its neighbour's mirror image beyond it, so that the curve begins in it.
      const next = !isClosed && i === count - 1 ? 2 * here - points[before + axis]! : points[after + axis]!
      const previous = !isClosed && i === 0 ? 2 * here - points[after + axis]! : points[before + axis]!
      const knot = here + (pull * (previous - 2 * here + next)) / 6
      out[at + axis] = knot
      out[at + 2 + axis] = here + (pull * (previous - here)) / 3 - knot
      out[at + 4 + axis] = here + (pull * (next - here)) / 3 - knot
    }
  }
  return out
}
