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
  const places = new Float64Array(2 * known.length)
  const place = [0, 0]
  let worst = 0
  for (let i = 0; i < points.length; i += 2) {
    let [x, y] = [0, 0]
    for (let k = 0; k < known.length; k++) {
      applyToPoint(known[k]!, points[i]!, points[i + 1]!, place)
      x += places[2 * k] = place[0]!
      y += places[2 * k + 1] = place[1]!
    }
    x /= known.length
    y /= known.length
    for (let k = 0; k < known.length; k++) {
      worst = Math.max(worst, (places[2 * k]! - x) ** 2 + (places[2 * k + 1]! - y) ** 2)
    }
  }
  return Math.sqrt(worst)
}
