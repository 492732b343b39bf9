import { applyToPoint } from '../geometry'
import type { MotionSamples } from './motionSamples'
import { relativeMotion } from './relativeMotion'

/**
 * How far several motions disagree on a frame: each carries the same points from the reference frame; the largest
 * distance in pixels of one from their mean. Null where fewer than two know the frame.
 *
 * @param points  x0, y0, ... plate pixels of the reference frame
 */
export function disagreementOn(
  motions: readonly MotionSamples[],
  reference: number,
  frame: number,
  points: ArrayLike<number>,
): number | null {
  const known = motions.flatMap((motion) => relativeMotion(motion, reference, frame) ?? [])
  if (known.length < 2) return null
  let worst = 0
  for (let i = 0; i < points.length; i += 2) {
    const places = known.map((matrix) => applyToPoint(matrix, points[i]!, points[i + 1]!))
    const x = places.reduce((sum, p) => sum + p[0]!, 0) / places.length
    const y = places.reduce((sum, p) => sum + p[1]!, 0) / places.length
    for (const place of places) worst = Math.max(worst, Math.hypot(place[0]! - x, place[1]! - y))
  }
  return worst
}
