import { SEGMENT, SEGMENT_STRIDE, type HomogeneousOutline } from '../spline'
import { seamsOf, type RotoDocument, type Shape } from '../document'
import { shutterTime, type Shutter } from '../timing'

/**
 * How much of the motion within the shutter each point of a closed shape takes part in; null where all take part in all of it. Points that a Seam ties to another shape go with that,
 * so that no gap opens.
 */
function blurWeightsOf(document: RotoDocument, shape: Shape): Float64Array | null {
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
function weightedOutline(
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
      const weight = weights[n < SEGMENT.arriving ? i : (i + 1) % count]!
      out[at] = middle[at]! + (now[at]! - middle[at]!) * weight
    }
  }
  return out
}

/** When a shape is looked at for a place u from 0 to 1 of an open shutter on a frame: one without motion blur always at its middle. */
export const timeInShutter = (shape: Shape, frame: number, shutter: Shutter, u: number): number =>
  shutterTime(frame, shutter, shape.motionBlur ? u : 0.5)

/**
 * Outlines of a shape at a place u of an open shutter, as its matte has them.
 *
 * @param outlinesAt  the outlines that it has at a place by its motion alone; of a closed shape a single one
 */
export function outlinesInShutter(
  document: RotoDocument,
  shape: Shape,
  u: number,
  outlinesAt: (u: number) => HomogeneousOutline[],
): HomogeneousOutline[] {
  const weights = blurWeightsOf(document, shape)
  return weights ? [weightedOutline(outlinesAt(u)[0]!, outlinesAt(0.5)[0]!, weights)] : outlinesAt(u)
}
