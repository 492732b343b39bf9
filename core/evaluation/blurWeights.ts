import { SEGMENT_STRIDE, type HomogeneousOutline } from '../spline'
import { seamsOf, type RotoDocument, type Shape } from '../document'
import { shutterTime, type Shutter } from '../timing'
import { outlineAt } from './outlines'

/**
 * How much of the motion within the shutter each point of a closed shape takes part in; null where all take part in all of it. Points that a Seam ties to another shape go with that,
 * so that no gap opens.
 */
export function blurWeightsOf(document: RotoDocument, shape: Shape): Float64Array | null {
  const { blurWeights } = shape
  const isBare = !shape.isClosed || Object.keys(blurWeights).length === 0
  if (isBare) return null
  const tied = new Set(
    seamsOf(document, shape.id).flatMap(({ pairs }) => pairs.flatMap(({ owner, borrower }) => [owner, borrower])),
  )
  const weights = Float64Array.from(shape.pointIds, (id) => (tied.has(id) ? 1 : (blurWeights[id] ?? 1)))
  return weights.every((weight) => weight === 1) ? null : weights
}

/**
 * An outline at a moment of the open shutter, each point and its tangents only so far from where they are at its middle as the weight says.
 *
 * @param now     at the moment
 * @param middle  the same outline at the middle of the shutter
 */
export function weightedOutline(
  now: HomogeneousOutline,
  middle: HomogeneousOutline,
  weights: Float64Array,
): HomogeneousOutline {
  const count = weights.length
  const out = new Float64Array(now.length)
  for (let i = 0; i < count; i++) {
    // Anchor and leaving handle go with their point, the arriving handle with the next one.
    for (let n = 0; n < SEGMENT_STRIDE; n++) {
      const at = i * SEGMENT_STRIDE + n
      const weight = weights[n < 6 ? i : (i + 1) % count]!
      out[at] = middle[at]! + (now[at]! - middle[at]!) * weight
    }
  }
  return out
}

/** The outline of a shape at a place u from 0 to 1 of an open shutter on a frame, as its matte has it. */
export function outlineInShutter(
  document: RotoDocument,
  shape: Shape,
  frame: number,
  shutter: Shutter,
  u: number,
): HomogeneousOutline {
  const at = (place: number) => outlineAt(document, shape, shutterTime(frame, shutter, shape.motionBlur ? place : 0.5))
  const weights = blurWeightsOf(document, shape)
  return weights ? weightedOutline(at(u), at(0.5), weights) : at(u)
}
