import { applyToPoint, identity, invert, multiply, type Matrix3 } from '../../geometry'
import { homogeneousOutline } from '../../spline'
import { shapePointsAt, shapesOf, worldAt } from '../evaluate'
import {
  find,
  POINT,
  POINT_STRIDE,
  type Carrier,
  type Mover,
  type Part,
  type RotoDocument,
  type Shape,
} from '../objects'
import { motionSamplesOf } from '../trackMotion'
import type { Patch } from '../patches'

function partChanged(part: Part, after: Part): Patch {
  return { kind: 'object', id: part.id, before: part, after }
}

/** The Part carried by a track from `referenceFrame` on to both sides; on that frame nothing moves. */
export function moverAttached(document: RotoDocument, part: Part, trackId: string, referenceFrame: number): Patch[] {
  const base = part.carriers.length ? identity() : worldAt(document, part, referenceFrame)
  return [partChanged(part, { ...part, mover: { trackId, referenceFrame, base } })]
}

/** The present Mover as a carrier that no track changes any more. Null when it moves nothing. */
function frozen(document: RotoDocument, mover: Mover): Carrier | null {
  const track = find(document, 'track', mover.trackId)
  if (!track) return null
  const samples = motionSamplesOf(track)
  return {
    firstFrame: samples.firstFrame,
    matrices: samples.matrices,
    present: Array.from(samples.present, (p) => (p ? 1 : 0)),
    pivot: [samples.pivot[0], samples.pivot[1]],
    referenceFrame: mover.referenceFrame,
    base: mover.base,
  }
}

/** The Mover let go without any move at any time: its motion stays as a frozen carrier. */
export function moverDroppedExactly(document: RotoDocument, part: Part): Patch[] {
  const carrier = part.mover && frozen(document, part.mover)
  if (!carrier) return []
  return [partChanged(part, { ...part, mover: null, carriers: [...part.carriers, carrier] })]
}

/** Another track takes over: M_new(t) . M_new(r)^-1 . M_old(t), nothing moves on `referenceFrame`. */
export function moverReplacedExactly(
  document: RotoDocument,
  part: Part,
  trackId: string,
  referenceFrame: number,
): Patch[] {
  const carrier = part.mover && frozen(document, part.mover)
  if (!carrier) return moverAttached(document, part, trackId, referenceFrame)
  const mover = { trackId, referenceFrame, base: identity() }
  return [partChanged(part, { ...part, mover, carriers: [...part.carriers, carrier] })]
}

/**
 * The Mover let go, every key re-expressed in plate space, so that the outline stays on the keys; between them it may
 * differ.
 *
 * @param frames  frames over which the difference is measured
 * @returns patches, and the largest distance in pixels between old and new outline with the frame where it is
 */
export function moverDroppedAtKeys(
  document: RotoDocument,
  part: Part,
  frames: readonly number[],
): { patches: Patch[]; largest: { pixels: number; frame: number } } {
  const bare = { ...part, mover: null, carriers: [] }
  const bareDocument = { objects: new Map(document.objects).set(part.id, bare) }
  const patches: Patch[] = [partChanged(part, bare)]
  const largest = { pixels: 0, frame: frames[0] ?? 0 }
  for (const shape of shapesOf(document, part.id)) {
    const keys = shape.keys.map((key) => {
      const map = multiply(invert(worldAt(bareDocument, bare, key.time)), worldAt(document, part, key.time))
      return { ...key, values: mappedPoints(key.values, map) }
    })
    const after: Shape = { ...shape, keys }
    patches.push({ kind: 'object', id: shape.id, before: shape, after })
    for (const frame of frames) {
      const old = homogeneousOutline(shapePointsAt(shape, frame), POINT_STRIDE, worldAt(document, part, frame))
      const now = homogeneousOutline(shapePointsAt(after, frame), POINT_STRIDE, worldAt(bareDocument, bare, frame))
      const pixels = largestDistance(old, now)
      if (pixels > largest.pixels) Object.assign(largest, { pixels, frame })
    }
  }
  return { patches, largest }
}

/** Points and tangent ends sent through a map; tangents stay relative to their point. */
export function mappedPoints(values: Float64Array, map: Matrix3): Float64Array {
  const out = values.slice()
  const anchor = [0, 0]
  const end = [0, 0]
  for (let at = 0; at < values.length; at += POINT_STRIDE) {
    const x = values[at]!
    const y = values[at + 1]!
    applyToPoint(map, x, y, anchor)
    out[at] = anchor[0]!
    out[at + 1] = anchor[1]!
    for (const tangent of [POINT.inX, POINT.outX]) {
      applyToPoint(map, x + values[at + tangent]!, y + values[at + tangent + 1]!, end)
      out[at + tangent] = end[0]! - anchor[0]!
      out[at + tangent + 1] = end[1]! - anchor[1]!
    }
  }
  return out
}

/** Largest distance between equal parameters of two homogeneous outlines, eight samples a segment. */
function largestDistance(a: Float64Array, b: Float64Array): number {
  let worst = 0
  const count = a.length / 9
  for (let i = 0; i < count; i++) {
    for (let k = 0; k < 8; k++) {
      const p = rationalPoint(a, i, k / 8)
      const q = rationalPoint(b, i, k / 8)
      worst = Math.max(worst, Math.hypot(p[0] - q[0], p[1] - q[1]))
    }
  }
  return worst
}

/** Point of segment i of a homogeneous outline, in plate pixels. */
export function rationalPoint(outline: Float64Array, i: number, t: number): [number, number] {
  const next = ((i + 1) % (outline.length / 9)) * 9
  const s = 1 - t
  const weights = [s * s * s, 3 * s * s * t, 3 * s * t * t, t * t * t]
  const at = [i * 9, i * 9 + 3, i * 9 + 6, next]
  const sum = [0, 1, 2].map((axis) => weights.reduce((total, w, k) => total + w * outline[at[k]! + axis]!, 0))
  return [sum[0]! / sum[2]!, sum[1]! / sum[2]!]
}
