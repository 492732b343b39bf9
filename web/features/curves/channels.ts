import { channelsOfRun, runsOf, type MotionSamples } from '@tender-lasso/core/motion'

/** Channels of a track as artists read them: from the number that is stored, and back. */
export const TRACK_CHANNELS = [
  { name: 'x', index: 0, unit: 'px', shown: (v: number) => v, stored: (v: number) => v },
  { name: 'y', index: 1, unit: 'px', shown: (v: number) => v, stored: (v: number) => v },
  { name: 'Rotation', index: 2, unit: '°', shown: (v: number) => (v * 180) / Math.PI, stored: (v: number) => (v * Math.PI) / 180 },
  { name: 'Scale x', index: 3, unit: '%', shown: (v: number) => 100 * Math.exp(v), stored: (v: number) => Math.log(Math.max(1e-6, v / 100)) },
  { name: 'Scale y', index: 4, unit: '%', shown: (v: number) => 100 * Math.exp(v), stored: (v: number) => Math.log(Math.max(1e-6, v / 100)) },
  { name: 'Skew', index: 5, unit: '', shown: (v: number) => v, stored: (v: number) => v },
  { name: 'Perspective x', index: 6, unit: '‰', shown: (v: number) => 1000 * v, stored: (v: number) => v / 1000 },
  { name: 'Perspective y', index: 7, unit: '‰', shown: (v: number) => 1000 * v, stored: (v: number) => v / 1000 },
] as const // prettier-ignore

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
