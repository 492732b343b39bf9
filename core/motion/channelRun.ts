import { CHANNEL_COUNT, channelsOf, homographyOf, MATRIX_LENGTH } from '../geometry'
import type { MotionSamples } from './motionSamples'
import { unwrapped } from './unwrapped'

/** Stretch of frames that all have a sample; both ends belong to it. */
export interface Run {
  first: number
  last: number
}

/** Stretches without a gap, in order. */
export function runsOf({ firstFrame, present }: Pick<MotionSamples, 'firstFrame' | 'present'>): Run[] {
  const runs: Run[] = []
  for (let i = 0; i < present.length; i++) {
    if (!present[i]) continue
    const frame = firstFrame + i
    const last = runs.at(-1)
    if (last?.last === frame - 1) last.last = frame
    else runs.push({ first: frame, last: frame })
  }
  return runs
}

/** Channels about the pivot on one frame that has a sample. */
export function channelsAt(samples: MotionSamples, frame: number): Float64Array {
  const at = (frame - samples.firstFrame) * MATRIX_LENGTH
  return channelsOf(samples.matrices.subarray(at, at + 9), samples.pivot[0], samples.pivot[1], samples.pixelAspect)
}

/**
 * Channels of all frames of a run, rotation unwrapped from frame to frame.
 *
 * @returns one list a channel, `run.last - run.first + 1` numbers each
 */
export function channelsOfRun(samples: MotionSamples, run: Run): Float64Array[] {
  const length = run.last - run.first + 1
  const lists = Array.from({ length: CHANNEL_COUNT }, () => new Float64Array(length))
  let previous: Float64Array | null = null
  for (let i = 0; i < length; i++) {
    const channels = channelsAt(samples, run.first + i)
    if (previous) unwrapped(channels, previous)
    for (let c = 0; c < CHANNEL_COUNT; c++) lists[c]![i] = channels[c]!
    previous = channels
  }
  return lists
}

/** Writes a run's channels back as matrices, in place. */
export function putRun(matrices: Float64Array, samples: MotionSamples, run: Run, lists: readonly Float64Array[]) {
  const { pixelAspect } = samples
  const [x, y] = samples.pivot
  const channels = new Float64Array(CHANNEL_COUNT)
  for (let i = 0; i <= run.last - run.first; i++) {
    for (let c = 0; c < CHANNEL_COUNT; c++) channels[c] = lists[c]![i]!
    matrices.set(homographyOf(channels, x, y, pixelAspect), (run.first + i - samples.firstFrame) * MATRIX_LENGTH)
  }
}
