import { valuesAlong, type HomogeneousOutline } from '../../spline'
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
 *
 * @param tolerance  pixels by which the polygon may deviate; missing: what a rendered edge asks for
 */
export function widePolygon({ outline, pointWidths }: WideOutline, edge: EdgeProfile, tolerance?: number): WidePolygon {
  const { polygon, values: widths } = valuesAlong(outline, pointWidths, WIDTHS_STRIDE, tolerance)
  for (let at = 0; at < widths.length; at += WIDTHS_STRIDE) {
    widths[at] = Math.max(0, widths[at]! + edge.innerFeather)
    widths[at + 1] = Math.max(0, widths[at + 1]! + edge.outerFeather)
  }
  return { polygon, widths }
}
