import { CHANNEL_COUNT, channelsOf, homographyOf, type Matrix3, matrixAt } from '../geometry'
import { hermite } from './hermite'
import { unwrapped } from './unwrapped'

/** About what and in which pixels a motion is split into channels. */
export interface MotionSplit {
  /** Plate pixels of the reference frame. */
  readonly pivot: readonly [number, number]
  /** Width of a pixel over its height: rotation is measured in square pixels. */
  readonly pixelAspect: number
}

/**
 * One homography per frame, with gaps: what a track gives. H(f) maps plate positions on the track's reference frame to
 * plate positions on frame f.
 */
export interface MotionSamples extends MotionSplit {
  readonly firstFrame: number
  /** 9 numbers per frame, row-major. */
  readonly matrices: Float64Array
  /** 1 where the frame has a matrix. */
  readonly present: Uint8Array
}

export type MotionState = 'sampled' | 'between' | 'held' | 'none'

/**
 * The motion at any time, and where it comes from.
 *
 * Between two neighbouring samples the channels about the pivot follow C1 Hermite curves. Before the first and after
 * the last sample, and across missing frames, the nearest earlier sample (or the first) is held: nothing is invented.
 */
export function motionAt(samples: MotionSamples, time: number): { matrix: Matrix3 | null; state: MotionState } {
  const { firstFrame, present } = samples
  const index = Math.floor(time) - firstFrame
  const fraction = time - Math.floor(time)
  const has = (i: number) => i >= 0 && i < present.length && present[i] === 1
  if (has(index) && fraction === 0) return { matrix: matrixOf(samples, index), state: 'sampled' }
  if (has(index) && has(index + 1)) return { matrix: between(samples, index, fraction, has), state: 'between' }
  for (let i = Math.min(index, present.length - 1); i >= 0; i--) {
    if (has(i)) return { matrix: matrixOf(samples, i), state: 'held' }
  }
  const first = present.indexOf(1)
  return first < 0 ? { matrix: null, state: 'none' } : { matrix: matrixOf(samples, first), state: 'held' }
}

function matrixOf(samples: MotionSamples, index: number): Matrix3 {
  return matrixAt(samples.matrices, index).slice()
}

function between(samples: MotionSamples, index: number, u: number, has: (i: number) => boolean): Matrix3 {
  const [px, py] = samples.pivot
  const channels = (i: number) => channelsOf(matrixOf(samples, i), px, py, samples.pixelAspect)
  const p0 = channels(index)
  const p1 = unwrapped(channels(index + 1), p0)
  const before = has(index - 1) ? unwrapped(channels(index - 1), p0) : null
  const after = has(index + 2) ? unwrapped(channels(index + 2), p1) : null
  const out = new Float64Array(CHANNEL_COUNT)
  for (let i = 0; i < CHANNEL_COUNT; i++) {
    const chord = p1[i]! - p0[i]!
    const m0 = before ? (p1[i]! - before[i]!) / 2 : chord
    const m1 = after ? (after[i]! - p0[i]!) / 2 : chord
    out[i] = hermite(p0[i]!, m0, p1[i]!, m1, u)
  }
  return homographyOf(out, px, py, samples.pixelAspect)
}
