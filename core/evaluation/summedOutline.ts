import type { SmoothStretch } from '../animation'
import { POINT, POINT_STRIDE } from '../document'
import type { Matrix3 } from '../geometry'
import { SEGMENT, SEGMENT_STRIDE, type HomogeneousOutline } from '../spline'

/**
 * The outline that `homogeneousOutline` makes of points that are a sum of keys, in one pass: only those numbers are summed
 * that an outline has, and none is stored on the way. Half the time, and the same to the last digit.
 *
 * @param map  from the points' space to plate pixels
 */
export function summedOutline(
  { earlier, start, end, later, w0, w1, w2, w3 }: SmoothStretch,
  map: Matrix3,
  out: HomogeneousOutline = new Float64Array((start.length / POINT_STRIDE) * SEGMENT_STRIDE),
): HomogeneousOutline {
  // Numbers by themselves: this is asked for each shape at each moment of a shutter.
  const [a, b, c] = [map[0]!, map[1]!, map[2]!]
  const [d, e, f] = [map[3]!, map[4]!, map[5]!]
  const [g, h, k] = [map[6]!, map[7]!, map[8]!]
  const count = start.length / POINT_STRIDE
  // The handle that arrives at a point belongs to the segment before it.
  let before = (count - 1) * SEGMENT_STRIDE + SEGMENT.arriving
  for (let i = 0, p = 0, at = 0; i < count; i++, p += POINT_STRIDE, at += SEGMENT_STRIDE) {
    const x = w0 * earlier[p]! + w1 * start[p]! + w2 * end[p]! + w3 * later[p]!
    const q = p + POINT.y
    const y = w0 * earlier[q]! + w1 * start[q]! + w2 * end[q]! + w3 * later[q]!
    out[at] = a * x + b * y + c
    out[at + 1] = d * x + e * y + f
    out[at + 2] = g * x + h * y + k
    const r = p + POINT.outX
    const leavingX = x + (w0 * earlier[r]! + w1 * start[r]! + w2 * end[r]! + w3 * later[r]!)
    const s = p + POINT.outY
    const leavingY = y + (w0 * earlier[s]! + w1 * start[s]! + w2 * end[s]! + w3 * later[s]!)
    out[at + SEGMENT.leaving] = a * leavingX + b * leavingY + c
    out[at + SEGMENT.leaving + 1] = d * leavingX + e * leavingY + f
    out[at + SEGMENT.leaving + 2] = g * leavingX + h * leavingY + k
    const t = p + POINT.inX
    const arrivingX = x + (w0 * earlier[t]! + w1 * start[t]! + w2 * end[t]! + w3 * later[t]!)
    const u = p + POINT.inY
    const arrivingY = y + (w0 * earlier[u]! + w1 * start[u]! + w2 * end[u]! + w3 * later[u]!)
    out[before] = a * arrivingX + b * arrivingY + c
    out[before + 1] = d * arrivingX + e * arrivingY + f
    out[before + 2] = g * arrivingX + h * arrivingY + k
    before = at + SEGMENT.arriving
  }
  return out
}
