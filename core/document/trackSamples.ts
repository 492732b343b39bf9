import type { MotionSamples } from '../animation'
import type { Patch } from './patches'
import { BLOCK_FRAMES, SAMPLE, SAMPLE_STATE, SAMPLE_STRIDE, type Track } from './objects'

/** What a track knows of one frame. */
export interface TrackSample {
  frame: number
  matrix: Float64Array
  match: number
  kept: number
}

const blockOf = (frame: number) => Math.floor(frame / BLOCK_FRAMES)

const samplesOfTrack = new WeakMap<Track, MotionSamples>()

/** All samples of a track as one motion; computed once for each version of the track. */
export function motionSamplesOf(track: Track): MotionSamples {
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
    }
  }
  const firstFrame = track.blocks[0]!.index * BLOCK_FRAMES
  const count = (track.blocks.at(-1)!.index + 1) * BLOCK_FRAMES - firstFrame
  const matrices = new Float64Array(count * 9)
  const present = new Uint8Array(count)
  for (const block of track.blocks) {
    for (let i = 0; i < BLOCK_FRAMES; i++) {
      const at = i * SAMPLE_STRIDE
      if (block.values[at + SAMPLE.state] === SAMPLE_STATE.missing) continue
      const index = block.index * BLOCK_FRAMES + i - firstFrame
      present[index] = 1
      matrices.set(block.values.subarray(at + SAMPLE.matrix, at + SAMPLE.matrix + 9), index * 9)
    }
  }
  return { firstFrame, matrices, present, pivot: track.pivot }
}

/** The sample of one frame, or null where the track has none. */
export function sampleAt(track: Track, frame: number): TrackSample | null {
  const block = track.blocks.find((b) => b.index === blockOf(frame))
  const at = (frame - blockOf(frame) * BLOCK_FRAMES) * SAMPLE_STRIDE
  if (!block || block.values[at + SAMPLE.state] === SAMPLE_STATE.missing) return null
  return {
    frame,
    matrix: block.values.slice(at + SAMPLE.matrix, at + SAMPLE.matrix + 9),
    match: block.values[at + SAMPLE.match]!,
    kept: block.values[at + SAMPLE.kept]!,
  }
}

/** Patches that put the samples into the track, block by block, leaving other frames as they are. */
export function patchesForSamples(track: Track, samples: readonly TrackSample[]): Patch[] {
  const blocks = new Map<number, { before: Float64Array | null; after: Float64Array }>()
  for (const sample of samples) {
    const index = blockOf(sample.frame)
    let block = blocks.get(index)
    if (!block) {
      const before = track.blocks.find((b) => b.index === index)?.values ?? null
      block = { before, after: before ? before.slice() : new Float64Array(BLOCK_FRAMES * SAMPLE_STRIDE) }
      blocks.set(index, block)
    }
    const at = (sample.frame - index * BLOCK_FRAMES) * SAMPLE_STRIDE
    block.after[at + SAMPLE.state] = SAMPLE_STATE.tracked
    block.after.set(sample.matrix, at + SAMPLE.matrix)
    block.after[at + SAMPLE.match] = sample.match
    block.after[at + SAMPLE.kept] = sample.kept
  }
  return [...blocks].map(([index, { before, after }]) => ({
    kind: 'block' as const,
    id: track.id,
    index,
    before: before && Array.from(before),
    after: Array.from(after),
  }))
}
