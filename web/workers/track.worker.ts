import { expose } from 'comlink'
import {
  exposingOf,
  goodFeatures,
  lookChannel,
  preprocessed,
  preprocessingMargin,
  movedPatternBox,
  PatternTracker,
  runTogether,
  unwarpedPatch,
  type Feature,
  type PictureChannel,
  type PixelsUsed,
  type TrackedFrame,
  type TrackEnd,
  type TrackRun,
} from '@tender-lasso/core/tracking'
import { boundsOfAll, identity, invert, multiply, type Box, type Matrix3 } from '@tender-lasso/core/geometry'
import type { LumaImage } from '@tender-lasso/core/image'
import { toLinear, type ColourEncoding } from '@tender-lasso/core/colour'
import {
  boxAround,
  movingEdgeAt,
  softnessAlong,
  type EdgeMeasure,
  type EdgePlace,
  type MovingEdge,
} from '@tender-lasso/core/measures'
import { AnalysisTiles } from '../media'

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
/** Runs wait for frames that are still to be read; what is only looked at does not. */
let isRunning = false
let plateTiles: { plate: TrackPlate; tiles: AnalysisTiles } | null = null

function tilesOf(plate: TrackPlate): AnalysisTiles {
  if (plateTiles?.plate.shotId !== plate.shotId) {
    plateTiles = {
      plate,
      tiles: new AnalysisTiles(plate.shotId, plate.width, plate.height, undefined, () => isRunning && !isStopped),
    }
  }
  return plateTiles.tiles
}

const sourceOf = (plate: TrackPlate) => (frame: number, box: Box, channel: PictureChannel) =>
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

/** With fewer frames than this fetched before they are looked at, the next are asked for. */
const LEAST_AHEAD = 3
/** Frames that are then fetched ahead: several in one request, each of which costs page, server and browser much. */
const MOST_AHEAD = 8

/** Plate pixels more on each side than the last motion leads to: a motion that changes would need a request a frame. */
const ROOM_AHEAD = 24

/** Milliseconds for which what was found is gathered before it is told. */
const TELL_MS = 60

/**
 * Reads ahead: while one frame is looked at, the stretch under all runs together of those that come next is fetched,
 * where the last motion will have taken it, in one request for several frames however many runs there are.
 */
function sourceAhead(plate: TrackPlate, runs: readonly TrackRun[]) {
  const tiles = tilesOf(plate)
  const frames = [...new Set(runs.flatMap(({ steps }) => steps.map(({ frame }) => frame)))]
  const placeOf = new Map(frames.map((frame, i) => [frame, i]))
  const room = runs.length > 1 ? ROOM_AT_FIRST : 0
  let under = widened(boundsOfAll(runs.flatMap(({ patterns }) => patterns[0]!.outlines)), room)
  let before = under
  let place = -1
  return (frame: number, box: Box, channel: PictureChannel) => {
    const now = placeOf.get(frame) ?? -1
    if (now > place) {
      const soon = frames.slice(now, now + 1 + MOST_AHEAD)
      const boxIn = (steps: number) => together(box, carriedOn(before, under, 1 + steps))
      const near = soon.slice(0, 1 + LEAST_AHEAD)
      if (!near.every((at, steps) => tiles.isExpected(at, boxIn(steps), channel))) {
        // The same box for all of them, so that one request brings them.
        tiles.expect(soon, widened(boxIn(MOST_AHEAD), ROOM_AHEAD), channel)
      }
      before = under
      under = box
      place = now
    } else if (now === place) under = together(under, box)
    return tiles.image(frame, box, channel)
  }
}

/** Where a box will be after some more frames of the motion that took it from one place to another. */
function carriedOn(from: Box, to: Box, frames: number): Box {
  const x = (frames / 2) * (to.left + to.right - from.left - from.right)
  const y = (frames / 2) * (to.top + to.bottom - from.top - from.bottom)
  return { left: to.left + x, top: to.top + y, right: to.right + x, bottom: to.bottom + y }
}

/** A plate that is looked at in scene-linear light: encoded, an edge looks shifted and its two sides unlike. */
export interface LitPlate extends TrackPlate {
  colourEncoding: ColourEncoding
}

/** Red, green and blue about places. */
function litChannels(plate: LitPlate, frame: number, places: readonly EdgePlace[]): Promise<LumaImage[]> {
  const box = boxAround(places)
  const lit = async (channel: PictureChannel): Promise<LumaImage> => {
    const image = await tilesOf(plate).image(frame, box, channel)
    return { ...image, data: image.data.map((value) => toLinear(plate.colourEncoding, value)) }
  }
  return Promise.all([lit('red'), lit('green'), lit('blue')])
}

const trackWorker = {
  /** Tracks in this worker, all runs a frame at a time; `onFound` gets good frames, a few at a time, as they are found. */
  async run(
    plate: TrackPlate,
    runs: readonly TrackRun[],
    onFound: (found: readonly Found[]) => void,
  ): Promise<{ ends: RunEnd[]; samples: TrackedFrame[][] }> {
    isStopped = false
    isRunning = true
    // Watching may lag behind on its own channel, so what was found comes back with the end as well.
    const samples: TrackedFrame[][] = runs.map(() => [])
    let untold: Found[] = []
    let toldAt = performance.now()
    const ends = await runTogether(
      runs,
      sourceAhead(plate, runs),
      (index, sample) => {
        samples[index]!.push(sample)
        untold.push({ index, sample })
        if (performance.now() - toldAt > TELL_MS) {
          onFound(untold)
          untold = []
          toldAt = performance.now()
        }
        return !isStopped
      },
      () => !isStopped,
    ).finally(() => (isRunning = false))
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
    run: Pick<TrackRun, 'preprocessing' | 'patterns'>,
    frame: number,
    motion: Matrix3,
    box: Box,
    width: number,
    height: number,
  ): Promise<Float32Array> {
    const channel = await lookChannel(run, sourceOf(plate))
    const room = 4 + preprocessingMargin(run.preprocessing)
    const outline = [box.left, box.top, box.right, box.top, box.right, box.bottom, box.left, box.bottom]
    const around = movedPatternBox([outline], motion, [-room, -room, room, room])
    const picture = preprocessed(await tilesOf(plate).image(frame, around, channel), run.preprocessing)
    return unwarpedPatch(picture, motion, box, width, height)
  },

  /** How soft a frame is at places of outlines. */
  async softness(plate: LitPlate, frame: number, places: readonly EdgePlace[]): Promise<EdgeMeasure[]> {
    if (places.length === 0) return []
    return softnessAlong(await litChannels(plate, frame, places), places)
  },

  /** The pixels across places of outlines that move. */
  async movingEdges(plate: LitPlate, frame: number, places: readonly EdgePlace[]): Promise<MovingEdge[]> {
    if (places.length === 0) return []
    const channels = await litChannels(plate, frame, places)
    return places.flatMap((place) => movingEdgeAt(channels, place) ?? [])
  },

  /** Which pixels of a frame a track uses there, and how much each counts. */
  async pixelsUsed(
    plate: TrackPlate,
    run: TrackRun,
    matrix: Matrix3,
  ): Promise<(PixelsUsed & { channel: PictureChannel }) | null> {
    const [step] = run.steps
    const pattern = step && run.patterns[step.pattern]
    if (!pattern) return null
    const channel = await lookChannel(run, sourceOf(plate))
    const room = 8 + preprocessingMargin(run.preprocessing)
    const seen = async (frame: number, motion: Matrix3): Promise<LumaImage> => {
      const box = movedPatternBox(pattern.outlines, motion, [-room, -room, room, room])
      return preprocessed(await tilesOf(plate).image(frame, box, channel), run.preprocessing)
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
