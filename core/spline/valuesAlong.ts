import { flattenOutline, type HomogeneousOutline } from './rational'

/** A flattened outline, and numbers at each of its corners, `stride` of them. */
export interface ValuedPolygon {
  polygon: Float64Array
  values: Float64Array
}

/**
 * Flattens an outline and lets numbers that its points have run linearly along the arc between them.
 *
 * @param points     `stride` numbers of each point; null: 0 everywhere
 * @param tolerance  pixels by which the polygon may deviate
 */
export function valuesAlong(
  outline: HomogeneousOutline,
  points: Float64Array | null,
  stride: number,
  tolerance?: number,
): ValuedPolygon {
  const count = points ? points.length / stride : 0
  const starts = new Int32Array(outline.length)
  const polygon = flattenOutline(outline, tolerance, starts)
  const corners = polygon.length / 2
  const values = new Float64Array(corners * stride)
  const lengths = edgeLengths(polygon)
  for (let i = 0; i < count; i++) {
    const first = starts[i]!
    const end = i + 1 < count ? starts[i + 1]! : corners
    const next = ((i + 1) % count) * stride
    let total = 0
    for (let corner = first; corner < end; corner++) total += lengths[corner]!
    let along = 0
    for (let corner = first; corner < end; corner++) {
      const share = total > 0 ? along / total : 0
      for (let n = 0; n < stride; n++) {
        const from = points![i * stride + n]!
        values[corner * stride + n] = from + (points![next + n]! - from) * share
      }
      along += lengths[corner]!
    }
  }
  return { polygon, values }
}

/** Length of the edge that begins at each corner. */
function edgeLengths(polygon: Float64Array): Float64Array {
  const corners = polygon.length / 2
  return Float64Array.from({ length: corners }, (_, i) => {
    const next = (i + 1) % corners
    return Math.hypot(polygon[2 * next]! - polygon[2 * i]!, polygon[2 * next + 1]! - polygon[2 * i + 1]!)
  })
}
