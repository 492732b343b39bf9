import { CHANNEL_COUNT } from '../geometry'
import { channelsAt, putRun } from './channelRun'
import { unwrapped } from './unwrapped'
import { hermite } from './hermite'
import type { MotionSamples } from './motionSamples'

/** Change of each channel per frame at the two ends of a Bridge. */
export interface BridgeSlopes {
  leaving: Float64Array
  arriving: Float64Array
}

const has = (samples: MotionSamples, frame: number) => samples.present[frame - samples.firstFrame] === 1

/**
 * Slopes that carry the motion on as it was before the gap and meet it as it goes on behind: the mean change over up to
 * `frames` frames outside the gap; a straight line where there is only one sample on a side.
 */
export function bridgeSlopes(samples: MotionSamples, from: number, to: number, frames = 3): BridgeSlopes {
  const start = channelsAt(samples, from)
  const end = unwrapped(channelsAt(samples, to), start)
  const straight = start.map((value, c) => (end[c]! - value) / (to - from))
  const slope = (at: number, step: 1 | -1, own: Float64Array) => {
    let reach = 0
    while (reach < frames && has(samples, at + step * (reach + 1))) reach++
    if (reach === 0) return straight.slice()
    const far = unwrapped(channelsAt(samples, at + step * reach), own)
    return own.map((value, c) => ((far[c]! - value) * step) / reach)
  }
  return { leaving: slope(from, -1, start), arriving: slope(to, 1, end) }
}

/**
 * Fills the frames between two samples: each channel about the pivot runs along a cubic Hermite curve. Changes `samples`
 * in place; does nothing where one of the ends has no sample.
 */
export function fillBridge(samples: MotionSamples, from: number, to: number, slopes: BridgeSlopes): boolean {
  if (to - from < 2 || !has(samples, from) || !has(samples, to)) return false
  const start = channelsAt(samples, from)
  const end = unwrapped(channelsAt(samples, to), start)
  const length = to - from
  const lists = Array.from({ length: CHANNEL_COUNT }, (_, c) =>
    Float64Array.from({ length: length - 1 }, (_, i) =>
      hermite(start[c]!, slopes.leaving[c]! * length, end[c]!, slopes.arriving[c]! * length, (i + 1) / length),
    ),
  )
  putRun(samples.matrices, samples, { first: from + 1, last: to - 1 }, lists)
  samples.present.fill(1, from + 1 - samples.firstFrame, to - samples.firstFrame)
  return true
}
