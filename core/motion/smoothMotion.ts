import { CHANNEL } from '../geometry'
import { channelsOfRun, putRun, runsOf } from './channelRun'
import type { MotionSamples } from './motionSamples'
import { savitzkyGolay } from './savitzkyGolay'
import { smoothingSpline } from './smoothingSpline'

export interface MotionSmoothing {
  /** polynomial: quadratic in a window of 2 * strength + 1 frames; spline: the stronger one. */
  method: 'polynomial' | 'spline'
  position: number
  rotation: number
  scale: number
  perspective: number
  /** First and last frame; null: all. */
  range: readonly [number, number] | null
}

/**
 * The motion with its channels about the pivot smoothed, each stretch without a gap by itself.
 *
 * The stiffness of the spline is strength^4 / 16: a wave of pi * strength frames then keeps half of its height, since a
 * wave of angular frequency w keeps 1 / (1 + stiffness w^4).
 */
export function smoothMotion(samples: MotionSamples, smoothing: MotionSmoothing): MotionSamples {
  const matrices = samples.matrices.slice()
  const strengths = new Float64Array(8)
  strengths[CHANNEL.x] = strengths[CHANNEL.y] = smoothing.position
  strengths[CHANNEL.rotation] = smoothing.rotation
  strengths[CHANNEL.logScaleX] = strengths[CHANNEL.logScaleY] = strengths[CHANNEL.skew] = smoothing.scale
  strengths[CHANNEL.perspectiveX] = strengths[CHANNEL.perspectiveY] = smoothing.perspective
  const [from, to] = smoothing.range ?? [-Infinity, Infinity]
  for (const whole of runsOf(samples)) {
    const run = { first: Math.max(whole.first, from), last: Math.min(whole.last, to) }
    if (run.first > run.last) continue
    const lists = channelsOfRun(samples, run).map((list, c) => {
      const strength = strengths[c]!
      if (strength === 0) return list
      return smoothing.method === 'spline'
        ? smoothingSpline(list, strength ** 4 / 16)
        : savitzkyGolay(list, Math.round(strength))
    })
    putRun(matrices, samples, run, lists)
  }
  return { ...samples, matrices }
}
