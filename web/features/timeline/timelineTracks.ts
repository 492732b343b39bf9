import { frameState, sampleAt, type FrameState, type TrackSample } from '@tender-lasso/core/evaluation'
import { type RotoDocument, type Track, channelOf } from '@tender-lasso/core/document'
import { css, trackColour } from '../../store'
import { ROW_HEIGHT, xOfFrame, type TimelineLayout } from './timelineLayout'

/** A measure of each tracked frame. */
export interface TrackLane {
  name: string
  words: string
  valueOf(sample: TrackSample): number
  /** Values at the bottom and at the top of the lane. */
  span(track: Track, largest: number): [number, number]
}

export const TRACK_LANES: readonly TrackLane[] = [
  {
    name: 'match',
    words: 'Correlation with the pattern',
    valueOf: (sample) => sample.match,
    span: (track) => [track.minimumMatch, 1],
  },
  {
    name: 'residual',
    words: 'Difference to the pattern, of 255',
    valueOf: (sample) => 255 * sample.residual,
    span: (_track, largest) => [0, Math.max(4, largest)],
  },
  {
    name: 'kept',
    words: 'Share of the pixels that agreed',
    valueOf: (sample) => sample.kept,
    span: () => [0, 1],
  },
]

/**
 * A track as a thread: braided where it was tracked, the braid loose and open where that is doubtful, one strand where
 * it comes from other tracks, dotted on a Bridge, a bead where it was placed by hand, bare where nothing is known. An
 * Offset runs beside it as a second line. An open link marks each pattern.
 */
export function drawTrackThread(
  context: CanvasRenderingContext2D,
  layout: TimelineLayout,
  document: RotoDocument,
  track: Track,
  y: number,
) {
  const colour = css(trackColour(document, track))
  context.strokeStyle = '#3c3c3c'
  context.lineWidth = 1
  line(context, xOfFrame(layout, layout.first), xOfFrame(layout, layout.last), y)
  for (const stretch of stretchesOf(track, layout)) drawStretch(context, stretch, layout, y, colour)
  context.strokeStyle = colour
  context.lineWidth = 1
  const offset = channelOf(track, 'offset').keys
  if (offset.length) {
    const [from, to] = [offset[0]!.time, offset.at(-1)!.time]
    line(context, xOfFrame(layout, from - 0.5), xOfFrame(layout, to + 0.5), y + 7.5)
    for (const key of offset) context.strokeRect(xOfFrame(layout, key.time) - 1.5, y + 6, 3, 3)
  }
  for (const frame of [track.referenceFrame, ...track.references.map((reference) => reference.frame)]) {
    const x = xOfFrame(layout, frame)
    context.fillStyle = '#202020'
    context.beginPath()
    context.rect(x - 3, y - 5, 6, 10)
    context.fill()
    context.stroke()
  }
}

/** Frames in a row that are known in the same way, the last one with them. */
interface Stretch {
  state: FrameState
  from: number
  to: number
}

function stretchesOf(track: Track, { first, last }: TimelineLayout): Stretch[] {
  const stretches: Stretch[] = []
  for (let frame = first; frame <= last; frame++) {
    const state = frameState(track, frame)
    const before = stretches.at(-1)
    if (before?.state === state) before.to = frame
    else stretches.push({ state, from: frame, to: frame })
  }
  return stretches.filter(({ state }) => state !== 'missing')
}

function drawStretch(
  context: CanvasRenderingContext2D,
  { state, from, to }: Stretch,
  layout: TimelineLayout,
  y: number,
  colour: string,
) {
  const [left, right] = [xOfFrame(layout, from - 0.5), xOfFrame(layout, to + 0.5)]
  context.strokeStyle = colour
  context.fillStyle = colour
  context.lineWidth = 1.1
  switch (state) {
    case 'tracked':
      strand(context, left, right, y, 3, 0)
      return strand(context, left, right, y, 3, Math.PI)
    case 'doubtful':
      strand(context, left, right, y, 4.5, 0)
      context.setLineDash([2, 2])
      strand(context, left, right, y, 4.5, Math.PI)
      return context.setLineDash([])
    case 'combined':
      return strand(context, left, right, y, 3, 0)
    case 'bridged':
      beads(context, layout, from, to, y, 1.3)
      return context.fill()
    case 'placed':
      beads(context, layout, from, to, y, 2.8)
      return context.stroke()
  }
}

/** A path of a circle on each frame. */
function beads(
  context: CanvasRenderingContext2D,
  layout: TimelineLayout,
  from: number,
  to: number,
  y: number,
  radius: number,
) {
  context.beginPath()
  for (let frame = from; frame <= to; frame++) {
    const x = xOfFrame(layout, frame)
    context.moveTo(x + radius, y)
    context.arc(x, y, radius, 0, 2 * Math.PI)
  }
}

function line(context: CanvasRenderingContext2D, left: number, right: number, y: number) {
  context.beginPath()
  context.moveTo(left, y)
  context.lineTo(right, y)
  context.stroke()
}

function strand(
  context: CanvasRenderingContext2D,
  left: number,
  right: number,
  y: number,
  height: number,
  phase: number,
) {
  context.beginPath()
  for (let x = left; x <= right + 1; x += 2) context.lineTo(x, y + height * Math.sin(x / 5 + phase))
  context.stroke()
}

/** One measure over the frames; doubtful stretches in ochre. */
export function drawLane(
  context: CanvasRenderingContext2D,
  layout: TimelineLayout,
  track: Track,
  lane: TrackLane,
  y: number,
) {
  const half = ROW_HEIGHT / 2 - 3
  const samples: TrackSample[] = []
  for (let frame = layout.first; frame <= layout.last; frame++) {
    const sample = sampleAt(track, frame)
    if (sample?.state === 'tracked') samples.push(sample)
  }
  const [bottom, top] = lane.span(track, Math.max(0, ...samples.map((sample) => lane.valueOf(sample))))
  const heightOf = (value: number) =>
    y + half - Math.min(1, Math.max(0, (value - bottom) / Math.max(1e-6, top - bottom))) * 2 * half
  context.lineWidth = 1.2
  samples.forEach((sample, i) => {
    const x = xOfFrame(layout, sample.frame)
    const previous = samples[i - 1]
    context.strokeStyle = frameState(track, sample.frame) === 'doubtful' ? '#c79a3b' : '#8fa39b'
    context.beginPath()
    if (previous?.frame === sample.frame - 1) {
      context.moveTo(xOfFrame(layout, previous.frame), heightOf(lane.valueOf(previous)))
    } else context.moveTo(x - 1, heightOf(lane.valueOf(sample)))
    context.lineTo(x, heightOf(lane.valueOf(sample)))
    context.stroke()
  })
}
