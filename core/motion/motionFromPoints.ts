import {
  affineFromPoints,
  robustHomographyFromPoints,
  similarityFromPoints,
  translation,
  type Matrix3,
} from '../geometry'
import type { MotionSamples } from './motionSamples'
import { centreAt, motionOver, spanOf } from './relativeMotion'

/** Least number of points for each kind of motion. */
export const POINTS_FOR = { position: 1, similarity: 2, affine: 3, perspective: 4 } as const

/**
 * The motion that carries the centres of several tracks from one frame to each other: one gives position, two position,
 * rotation and scale, three affine, four or more perspective (robust least squares). Frames on which fewer points are
 * known than the model needs stay empty.
 *
 * @param reference  frame that all of them know
 */
export function motionFromPoints(
  tracks: readonly MotionSamples[],
  model: keyof typeof POINTS_FOR,
  reference: number,
): MotionSamples {
  const start = tracks.map((track) => centreAt(track, reference))
  const known = start.filter((p) => p !== null)
  const pivot: [number, number] = [mean(known.map(([x]) => x)), mean(known.map(([, y]) => y))]
  const pixelAspect = tracks[0]?.pixelAspect ?? 1
  return motionOver(spanOf(tracks), { pivot, pixelAspect }, (frame) => {
    const from: number[] = []
    const to: number[] = []
    tracks.forEach((track, i) => {
      const now = centreAt(track, frame)
      if (!now || !start[i]) return
      from.push(...start[i])
      to.push(...now)
    })
    return from.length / 2 < POINTS_FOR[model] ? null : fitted(model, from, to, pixelAspect)
  })
}

function fitted(
  model: keyof typeof POINTS_FOR,
  from: readonly number[],
  to: readonly number[],
  pixelAspect: number,
): Matrix3 | null {
  try {
    if (model === 'perspective') return robustHomographyFromPoints(from, to).matrix
    if (model === 'affine') return affineFromPoints(from, to)
    if (model === 'similarity') return similarityFromPoints(from, to, pixelAspect)
  } catch {
    // Points that fall onto one line on this frame: nothing is known there.
    return null
  }
  const shift = (axis: 0 | 1) => mean(from.flatMap((value, i) => (i % 2 === axis ? [to[i]! - value] : [])))
  return translation(shift(0), shift(1))
}

const mean = (values: readonly number[]) => values.reduce((sum, value) => sum + value, 0) / Math.max(1, values.length)
