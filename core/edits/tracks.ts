import {
  CHANNEL_COUNT,
  channelsOf,
  homographyOf,
  identity,
  invert,
  multiply,
  translation,
  type Matrix3,
} from '../geometry'
import { bridgeSlopes, relativeMotion, sampledMatrix, unwrapped, type MotionSamples } from '../motion'
import type { Patch, Bridge, Track } from '../document'
import {
  followedMatrix,
  nearestFollowed,
  patchesForSamples,
  patchesWithoutSamples,
  rawSamplesOf,
  unmeasuredSample,
} from '../evaluation'
import { fieldSet } from './objects'

/** The track put by hand on a frame. */
export function samplePlaced(track: Track, frame: number, matrix: Matrix3): Patch[] {
  return patchesForSamples(track, [unmeasuredSample(frame, 'placed', matrix)])
}

/** The followed place moved on one frame, by plate pixels; on a frame without a sample the nearest one is taken along. */
export function sampleNudged(track: Track, frame: number, dx: number, dy: number): Patch[] {
  const matrix = nearestFollowed(track, frame)
  return samplePlaced(track, frame, multiply(translation(dx, dy), matrix))
}

/** Samples of a stretch taken away, with the Bridges that lie on it. */
export function rangeCleared(track: Track, from: number, to: number): Patch[] {
  const frames = Array.from({ length: to - from + 1 }, (_, i) => from + i)
  const bridges = track.bridges.filter((bridge) => bridge.to <= from || bridge.from >= to)
  return [
    ...patchesWithoutSamples(track, frames),
    ...(bridges.length < track.bridges.length ? [fieldSet(track, 'bridges', bridges)] : []),
  ]
}

/** All that was tracked taken away, with Bridges and patterns of other frames; the track stays as it was drawn. */
export function trackCleared(track: Track): Patch[] {
  return [
    ...track.blocks.map(({ index, values }): Patch => ({ kind: 'block', id: track.id, index, before: Array.from(values), after: null })), // prettier-ignore
    ...(track.bridges.length ? [fieldSet(track, 'bridges', [])] : []),
    ...(track.references.length ? [fieldSet(track, 'references', [])] : []),
  ]
}

/** Frames with a sample that end the gap around a frame, or null when one side has none. */
export function gapAround(track: Track, frame: number): [number, number] | null {
  const { firstFrame, present } = rawSamplesOf(track)
  const has = (f: number) => present[f - firstFrame] === 1
  if (has(frame)) return null
  let [from, to] = [frame, frame]
  while (from >= firstFrame && !has(from)) from--
  while (to < firstFrame + present.length && !has(to)) to++
  return has(from) && has(to) ? [from, to] : null
}

/**
 * A Bridge from one known frame to another: what was tracked in between goes, and a curve runs across that leaves and
 * meets the motion as it is outside.
 */
export function bridgeMade(track: Track, from: number, to: number): Patch[] {
  const { leaving, arriving } = bridgeSlopes(rawSamplesOf(track), from, to)
  const others = track.bridges.filter((bridge) => bridge.to <= from || bridge.from >= to)
  const bridges = [...others, { from, to, leaving, arriving }].sort((a, b) => a.from - b.from)
  const inside = Array.from({ length: to - from - 1 }, (_, i) => from + 1 + i)
  return [...patchesWithoutSamples(track, inside), fieldSet(track, 'bridges', bridges)]
}

/** One of a track's Bridges with other slopes. */
export function bridgeChanged(track: Track, bridge: Bridge, change: Partial<Bridge>): Patch[] {
  const bridges = track.bridges.map((other) => (other.from === bridge.from ? { ...other, ...change } : other))
  return [fieldSet(track, 'bridges', bridges)]
}

/**
 * The stretch between two known frames filled by another track's motion. Its difference to this track at both ends is
 * spread over the stretch in the channels about this track's centre, so that nothing jumps.
 */
export function bridgedByTrack(track: Track, other: MotionSamples, from: number, to: number): Patch[] {
  const raw = rawSamplesOf(track)
  const start = sampledMatrix(raw, from)
  const end = sampledMatrix(raw, to)
  const whole = relativeMotion(other, from, to)
  if (!start || !end || !whole) return []
  const { pixelAspect } = track
  const [px, py] = track.pivot
  const arrived = channelsOf(multiply(whole, start), px, py, pixelAspect)
  const wanted = unwrapped(channelsOf(end, px, py, pixelAspect), arrived)
  const samples = Array.from({ length: to - from - 1 }, (_, i) => from + 1 + i).flatMap((frame) => {
    const motion = relativeMotion(other, from, frame)
    if (!motion) return []
    const channels = channelsOf(multiply(motion, start), px, py, pixelAspect)
    const along = (frame - from) / (to - from)
    for (let c = 0; c < CHANNEL_COUNT; c++) channels[c]! += along * (wanted[c]! - arrived[c]!)
    return [unmeasuredSample(frame, 'bridged', homographyOf(channels, px, py, pixelAspect))]
  })
  const bridges = track.bridges.filter((bridge) => bridge.to <= from || bridge.from >= to)
  return [
    ...patchesForSamples(track, samples),
    ...(bridges.length < track.bridges.length ? [fieldSet(track, 'bridges', bridges)] : []),
  ]
}

/**
 * The pattern re-shaped, moved or taken anew on a frame. On the reference frame this changes the pattern itself; on
 * another it adds one that counts from there on, away from the reference frame, and leaves what is tracked so far.
 *
 * @param outlines  plate pixels of that frame
 * @returns null when the track is not known there
 */
export function patternSet(track: Track, frame: number, outlines: readonly Float64Array[]): Patch[] | null {
  if (frame === track.referenceFrame) return [fieldSet(track, 'outlines', [...outlines])]
  const matrix = followedMatrix(track, frame)
  if (!matrix) return null
  const others = track.references.filter((reference) => reference.frame !== frame)
  const references = [...others, { frame, outlines: [...outlines], matrix }].sort((a, b) => a.frame - b.frame)
  return [fieldSet(track, 'references', references)]
}

/** Samples of a computed motion, for a new track. */
export function samplesOfMotion(motion: MotionSamples, reference: number) {
  const back = sampledMatrix(motion, reference)
  if (!back) return []
  const toReference = invert(back)
  return Array.from(motion.present).flatMap((isPresent, i) => {
    const frame = motion.firstFrame + i
    if (!isPresent) return []
    const matrix = frame === reference ? identity() : multiply(sampledMatrix(motion, frame)!, toReference)
    return [unmeasuredSample(frame, 'combined', matrix)]
  })
}
