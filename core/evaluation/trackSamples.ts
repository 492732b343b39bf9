import { type Matrix3, MATRIX_LENGTH } from '../geometry'
import type { MotionSamples } from '../motion'
import { type Patch, BLOCK_FRAMES, RETURNED, SAMPLE, SAMPLE_STATE, SAMPLE_STRIDE, type Track } from '../document'

export type SampleState = Exclude<keyof typeof SAMPLE_STATE, 'missing'>

/** What a track has stored of one frame. */
export interface TrackSample {
  frame: number
  state: SampleState
  /** Plate positions of the reference frame to those of this frame. */
  matrix: Matrix3
  /** Correlation with the pattern, 0..1. */
  match: number
  /** Share of the pixels that agreed, 0..1. */
  kept: number
  /** Root of the mean squared difference of those pixels, of 1. */
  residual: number
  /** {@link trackStamp} of what the sample was made from. */
  stamp: number
  /** Frame whose picture it was compared with. */
  patternFrame: number
  /** Pixels by which the frame missed the one before when it was tracked back to it; null: it was not. */
  returned: number | null
}

/** A sample that nobody measured. */
export function unmeasuredSample(frame: number, state: SampleState, matrix: Matrix3): TrackSample {
  return { frame, state, matrix, match: 0, kept: 0, residual: 0, stamp: 0, patternFrame: frame, returned: 0 }
}

const STATES = Object.entries(SAMPLE_STATE).reduce<(SampleState | 'missing')[]>((list, [name, value]) => {
  list[value] = name as SampleState
  return list
}, [])

const blockOf = (frame: number) => Math.floor(frame / BLOCK_FRAMES)

const samplesOfTrack = new WeakMap<Track, MotionSamples>()

/** The stored samples of a track as one motion, without Bridges, Offset and smoothing. */
export function rawSamplesOf(track: Track): MotionSamples {
  let samples = samplesOfTrack.get(track)
  if (!samples) {
    samples = collect(track)
    samplesOfTrack.set(track, samples)
  }
  return samples
}

function collect(track: Track): MotionSamples {
  if (track.blocks.length === 0) {
    return {
      firstFrame: track.referenceFrame,
      matrices: new Float64Array(0),
      present: new Uint8Array(0),
      pivot: track.pivot,
      pixelAspect: track.pixelAspect,
    }
  }
  const firstFrame = track.blocks[0]!.index * BLOCK_FRAMES
  const count = (track.blocks.at(-1)!.index + 1) * BLOCK_FRAMES - firstFrame
  const matrices = new Float64Array(count * MATRIX_LENGTH)
  const present = new Uint8Array(count)
  for (const block of track.blocks) {
    for (let i = 0; i < BLOCK_FRAMES; i++) {
      const at = i * SAMPLE_STRIDE
      if (block.values[at + SAMPLE.state] === SAMPLE_STATE.missing) continue
      const index = block.index * BLOCK_FRAMES + i - firstFrame
      present[index] = 1
      matrices.set(block.values.subarray(at + SAMPLE.matrix, at + SAMPLE.matrix + MATRIX_LENGTH), index * MATRIX_LENGTH)
    }
  }
  return { firstFrame, matrices, present, pivot: track.pivot, pixelAspect: track.pixelAspect }
}

const placeInBlock = (frame: number) => (frame - blockOf(frame) * BLOCK_FRAMES) * SAMPLE_STRIDE

function storedBlock(track: Track, frame: number): Float64Array | undefined {
  const index = blockOf(frame)
  return track.blocks.find((block) => block.index === index)?.values
}

/** The state alone of the stored sample of one frame, or null where the track has none. */
export function sampledState(track: Track, frame: number): SampleState | null {
  const values = storedBlock(track, frame)
  const state = values && STATES[values[placeInBlock(frame) + SAMPLE.state]!]
  return !state || state === 'missing' ? null : state
}

/** The match alone of the stored sample of one frame; 0 where the track has none. */
export function sampledMatch(track: Track, frame: number): number {
  return storedBlock(track, frame)?.[placeInBlock(frame) + SAMPLE.match] ?? 0
}

/** The stored sample of one frame, or null where the track has none. */
export function sampleAt(track: Track, frame: number): TrackSample | null {
  const state = sampledState(track, frame)
  if (!state) return null
  const values = storedBlock(track, frame)!
  const at = placeInBlock(frame)
  const number = (place: number) => values[at + place]!
  return {
    frame,
    state,
    matrix: values.slice(at + SAMPLE.matrix, at + SAMPLE.matrix + MATRIX_LENGTH),
    match: number(SAMPLE.match),
    kept: number(SAMPLE.kept),
    residual: number(SAMPLE.residual),
    stamp: number(SAMPLE.stamp),
    patternFrame: number(SAMPLE.patternFrame),
    returned: returnedFrom(number(SAMPLE.returned)),
  }
}

/** What is not stored, of tracks of before, is taken for good: they were tracked with the limit that they have. */
function returnedFrom(stored: number): number | null {
  if (stored === RETURNED.notAsked) return null
  return stored === RETURNED.notStored ? 0 : stored - 1
}

/** Patches that put the samples into the track, block by block, leaving other frames as they are. */
export const patchesForSamples = (track: Track, samples: readonly TrackSample[]) => samplesReplaced(track, samples, [])

/** Patches that take the samples of these frames away. */
export const patchesWithoutSamples = (track: Track, frames: readonly number[]) => samplesReplaced(track, [], frames)

/** Both in one: samples that are put in, and frames whose samples go. */
export function samplesReplaced(track: Track, samples: readonly TrackSample[], without: readonly number[]): Patch[] {
  const known = without.filter((frame) => sampleAt(track, frame))
  const frames = [...samples.map((sample) => sample.frame), ...known]
  return patchesForBlocks(track, frames, (block, at, i) => {
    const sample = samples[i]
    if (!sample) return void block.fill(0, at, at + SAMPLE_STRIDE)
    block[at + SAMPLE.state] = SAMPLE_STATE[sample.state]
    block.set(sample.matrix, at + SAMPLE.matrix)
    block[at + SAMPLE.match] = sample.match
    block[at + SAMPLE.kept] = sample.kept
    block[at + SAMPLE.residual] = sample.residual
    block[at + SAMPLE.stamp] = sample.stamp
    block[at + SAMPLE.patternFrame] = sample.patternFrame
    block[at + SAMPLE.returned] = sample.returned === null ? RETURNED.notAsked : 1 + sample.returned
  })
}

function patchesForBlocks(
  track: Track,
  frames: readonly number[],
  write: (block: Float64Array, at: number, i: number) => void,
): Patch[] {
  const blocks = new Map<number, { before: Float64Array | null; after: Float64Array }>()
  frames.forEach((frame, i) => {
    const index = blockOf(frame)
    let block = blocks.get(index)
    if (!block) {
      const before = storedBlock(track, frame) ?? null
      block = { before, after: before ? before.slice() : new Float64Array(BLOCK_FRAMES * SAMPLE_STRIDE) }
      blocks.set(index, block)
    }
    write(block.after, (frame - index * BLOCK_FRAMES) * SAMPLE_STRIDE, i)
  })
  return [...blocks].map(([index, { before, after }]) => ({
    kind: 'block' as const,
    id: track.id,
    index,
    before: before && numbersOf(before),
    after: after.some((value) => value !== 0) ? numbersOf(after) : null,
  }))
}

/** As a patch has them. `Array.from` walks an iterator: a hundred tracks wait for it a few times a second. */
function numbersOf(values: Float64Array): number[] {
  const numbers: number[] = []
  for (let i = 0; i < values.length; i++) numbers.push(values[i]!)
  return numbers
}
