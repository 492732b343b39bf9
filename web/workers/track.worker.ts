import { expose } from 'comlink'
import {
  exposingOf,
  goodFeatures,
  lookChannel,
  lookedAt,
  lookMargin,
  movedPatternBox,
  PatternTracker,
  runTogether,
  unwarpedPatch,
  type Feature,
  type LookChannel,
  type PixelsUsed,
  type TrackedFrame,
  type TrackEnd,
  type TrackRun,
} from '@tender-lasso/core/tracking'
import { boundsOfAll, identity, invert, multiply, type Box, type Matrix3 } from '@tender-lasso/core/geometry'
import type { LumaImage } from '@tender-lasso/core/image'
import { AnalysisTiles } from '../state/analysisTiles'

export interface TrackPlate {
  shotId: string
  width: number
  height: number
}

/** How one of the runs ended; `problem` says why it could not even begin. */
export type RunEnd = TrackEnd | { reason: 'problem'; words: string }

/** A good frame of one of the runs. */
export interface Found {
  index: number
  sample: TrackedFrame
}

let isStopped = false
let plateTiles: { plate: TrackPlate; tiles: AnalysisTiles } | null = null

function tilesOf(plate: TrackPlate): AnalysisTiles {
  if (plateTiles?.plate.shotId !== plate.shotId) {
    plateTiles = { plate, tiles: new AnalysisTiles(plate.shotId, plate.width, plate.height) }
  }
  return plateTiles.tiles
}

const sourceOf = (plate: TrackPlate) => (frame: number, box: Box, channel: LookChannel) =>
  tilesOf(plate).image(frame, box, channel)

/** Plate pixels round several patterns that are fetched before it is known how far they are looked for. */
const ROOM_AT_FIRST = 64

const widened = ({ left, top, right, bottom }: Box, by: number): Box => ({
  left: left - by,
  top: top - by,
  right: right + by,
  bottom: bottom + by,
})

const together = (a: Box, b: Box): Box => ({
  left: Math.min(a.left, b.left),
  top: Math.min(a.top, b.top),
  right: Math.max(a.right, b.right),
  bottom: Math.max(a.bottom, b.bottom),
})

/** Frames that are fetched before they are looked at. */
const AHEAD = 4

/** Milliseconds for which what was found is gathered before it is told. */
const TELL_MS = 60

/**
 * Reads ahead: while one frame is looked at, the stretch under all runs together of those that come next is fetched, in
 * one request a frame however many runs there are.
 */
function sourceAhead(plate: TrackPlate, runs: readonly TrackRun[]) {
  const tiles = tilesOf(plate)
  const frames = [...new Set(runs.flatMap(({ steps }) => steps.map(({ frame }) => frame)))]
  const placeOf = new Map(frames.map((frame, i) => [frame, i]))
  const room = runs.length > 1 ? ROOM_AT_FIRST : 0
  let under = widened(boundsOfAll(runs.flatMap(({ patterns }) => patterns[0]!.outlines)), room)
  let place = -1
  return (frame: number, box: Box, channel: LookChannel) => {
    const now = placeOf.get(frame) ?? -1
    if (now > place) {
      for (const soon of frames.slice(now, now + 1 + AHEAD)) tiles.expect(soon, together(under, box), channel)
      under = box
      place = now
    } else if (now === place) under = together(under, box)
    return tiles.image(frame, box, channel)
  }
}

const trackWorker = {
  /** Tracks in this worker, all runs a frame at a time; `onFound` gets good frames, a few at a time, as they are found. */
  async run(
    plate: TrackPlate,
    runs: readonly TrackRun[],
    onFound: (found: readonly Found[]) => void,
  ): Promise<{ ends: RunEnd[]; samples: TrackedFrame[][] }> {
    isStopped = false
    // Watching may lag behind on its own channel, so what was found comes back with the end as well.
    const samples: TrackedFrame[][] = runs.map(() => [])
    let untold: Found[] = []
    let toldAt = performance.now()
    const ends = await runTogether(runs, sourceAhead(plate, runs), (index, sample) => {
      samples[index]!.push(sample)
      untold.push({ index, sample })
      if (performance.now() - toldAt > TELL_MS) {
        onFound(untold)
        untold = []
        toldAt = performance.now()
      }
      return !isStopped
    })
    return {
      ends: ends.map((end) => (end instanceof Error ? { reason: 'problem', words: end.message } : end)),
      samples,
    }
  },

  stop() {
    isStopped = true
  },

  /** Corners to follow inside outlines on a frame. */
  async features(
    plate: TrackPlate,
    frame: number,
    outlines: readonly Float64Array[],
    spacing: number,
    most: number,
  ): Promise<Feature[]> {
    const box = movedPatternBox(outlines, identity(), [-6, -6, 6, 6])
    return goodFeatures(await tilesOf(plate).image(frame, box), outlines, [], spacing, most)
  },

  /**
   * The pattern's box as a frame shows it, brought back to where the pattern is, as the tracker sees it.
   *
   * @param motion  pattern's frame to this frame
   */
  async patch(
    plate: TrackPlate,
    run: Pick<TrackRun, 'look' | 'patterns'>,
    frame: number,
    motion: Matrix3,
    box: Box,
    width: number,
    height: number,
  ): Promise<Float32Array> {
    const channel = await lookChannel(run, sourceOf(plate))
    const room = 4 + lookMargin(run.look)
    const outline = [box.left, box.top, box.right, box.top, box.right, box.bottom, box.left, box.bottom]
    const around = movedPatternBox([outline], motion, [-room, -room, room, room])
    const picture = lookedAt(await tilesOf(plate).image(frame, around, channel), run.look)
    return unwarpedPatch(picture, motion, box, width, height)
  },

  /** Which pixels of a frame a track uses there, and how much each counts. */
  async pixelsUsed(
    plate: TrackPlate,
    run: TrackRun,
    matrix: Matrix3,
  ): Promise<(PixelsUsed & { channel: LookChannel }) | null> {
    const [step] = run.steps
    const pattern = step && run.patterns[step.pattern]
    if (!pattern) return null
    const channel = await lookChannel(run, sourceOf(plate))
    const room = 8 + lookMargin(run.look)
    const seen = async (frame: number, motion: Matrix3): Promise<LumaImage> => {
      const box = movedPatternBox(pattern.outlines, motion, [-room, -room, room, room])
      return lookedAt(await tilesOf(plate).image(frame, box, channel), run.look)
    }
    const motion = multiply(matrix, invert(pattern.matrix))
    const tracker = new PatternTracker(await seen(pattern.frame, identity()), pattern, run)
    const [before, beforeThat] = run.known
    const exposing = before && exposingOf(run, pattern, [before.matrix, beforeThat?.matrix ?? null], false)
    const picture = await seen(step.frame, motion)
    return { ...tracker.pixelsUsed(picture, motion, step.hidden, exposing?.(motion) ?? null), channel }
  },
}

export type TrackWorker = typeof trackWorker
expose(trackWorker)
