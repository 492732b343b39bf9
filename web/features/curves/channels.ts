import { UNITS, type ShownAs } from '@tender-lasso/core/document'
import { channelsOfRun, runsOf, type MotionSamples } from '@tender-lasso/core/motion'

const same = (value: number) => value
const as = ({ sign, shown, stored }: ShownAs) => ({ unit: sign, shown, stored })
const PERMILLE = { unit: '‰', shown: (v: number) => 1000 * v, stored: (v: number) => v / 1000 }

/** Channels of a track as artists read them: from the number that is stored, and back. */
export const TRACK_CHANNELS = [
  { name: 'x', index: 0, ...as(UNITS.px) },
  { name: 'y', index: 1, ...as(UNITS.px) },
  { name: 'Rotation', index: 2, ...as(UNITS.turn) },
  { name: 'Scale x', index: 3, ...as(UNITS.logScale) },
  { name: 'Scale y', index: 4, ...as(UNITS.logScale) },
  { name: 'Skew', index: 5, unit: '', shown: same, stored: same },
  { name: 'Perspective x', index: 6, ...PERMILLE },
  { name: 'Perspective y', index: 7, ...PERMILLE },
] as const

export type TrackChannel = (typeof TRACK_CHANNELS)[number]

/** One channel over the frames, a list for each stretch without a gap. */
export function channelCurve(samples: MotionSamples, channel: TrackChannel): { frame: number; value: number }[][] {
  return runsOf(samples).map((run) =>
    Array.from(channelsOfRun(samples, run)[channel.index]!, (value, i) => ({
      frame: run.first + i,
      value: channel.shown(value),
    })),
  )
}
