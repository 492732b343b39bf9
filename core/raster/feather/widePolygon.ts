import { flattenOutline, type HomogeneousOutline } from '../../spline'
import type { EdgeProfile } from './edgeProfile'

/** An outline and what its points add to the widths of its edge. */
export interface WideOutline {
  outline: HomogeneousOutline
  /** Inner, outer of each point, pixels of the target; null: none adds anything. */
  pointWidths: Float64Array | null
}

/** Numbers of a corner's widths: inner, outer. */
export const WIDTHS_STRIDE = 2

/** A flattened outline, and how wide its edge is at each corner: inner, outer, pixels, never negative. */
export interface WidePolygon {
  polygon: Float64Array
  widths: Float64Array
}

/**
 * Flattens an outline whose edge is not of one width: between points the widths run linearly along the arc.
 */
export function widePolygon({ outline, pointWidths: points }: WideOutline, edge: EdgeProfile): WidePolygon {
  const count = points ? points.length / WIDTHS_STRIDE : 0
  const starts = new Int32Array(outline.length)
  const polygon = flattenOutline(outline, undefined, starts)
  const corners = polygon.length / 2
  const widths = new Float64Array(corners * WIDTHS_STRIDE)
  const lengths = edgeLengths(polygon)
  for (let i = 0; i < count; i++) {
    const first = starts[i]!
    const end = i + 1 < count ? starts[i + 1]! : corners
    const next = ((i + 1) % count) * WIDTHS_STRIDE
    let total = 0
    for (let corner = first; corner < end; corner++) total += lengths[corner]!
    let along = 0
    for (let corner = first; corner < end; corner++) {
      const share = total > 0 ? along / total : 0
      for (let side = 0; side < WIDTHS_STRIDE; side++) {
        const from = points![i * WIDTHS_STRIDE + side]!
        widths[corner * WIDTHS_STRIDE + side] = from + (points![next + side]! - from) * share
      }
      along += lengths[corner]!
    }
  }
  for (let at = 0; at < widths.length; at += WIDTHS_STRIDE) {
    widths[at] = Math.max(0, widths[at]! + edge.innerFeather)
    widths[at + 1] = Math.max(0, widths[at + 1]! + edge.outerFeather)
  }
  return { polygon, widths }
}

/** Length of the edge that begins at each corner. */
function edgeLengths(polygon: Float64Array): Float64Array {
  const corners = polygon.length / 2
  return Float64Array.from({ length: corners }, (_, i) => {
    const next = (i + 1) % corners
    return Math.hypot(polygon[2 * next]! - polygon[2 * i]!, polygon[2 * next + 1]! - polygon[2 * i + 1]!)
  })
}
