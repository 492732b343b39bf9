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
  type PictureSource,
  type PixelsUsed,
  type TrackedFrame,
  type TrackEnd,
  type TrackRun,
} from '@tender-lasso/core/tracking'
import { identity, invert, multiply, type Box, type Matrix3 } from '@tender-lasso/core/geometry'
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
import { AnalysisTiles, readAhead } from '../media'

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

/** Runs that have not ended; the artist stops those of now, not ones begun after them. */
const running = new Set<{ isStopped: boolean }>()
/** Runs wait for frames that are still to be read; what is only looked at does not. */
const isAwaited = () => [...running].some(({ isStopped }) => !isStopped)
let plateTiles: { plate: TrackPlate; tiles: AnalysisTiles } | null = null

function tilesOf(plate: TrackPlate): AnalysisTiles {
  if (plateTiles?.plate.shotId !== plate.shotId) {
    plateTiles = {
      plate,
      tiles: new AnalysisTiles(plate.shotId, plate.width, plate.height, undefined, isAwaited),
    }
  }
  return plateTiles.tiles
}

const sourceOf = (plate: TrackPlate) => (frame: number, box: Box, channel: PictureChannel) =>
  tilesOf(plate).image(frame, box, channel)

/** Frames of each run that a rehearsal looks at. */
const REHEARSED = 8
/** Told apart, so that each ends the ones before it. */
let rehearsal = 0

/** Milliseconds after which it is heard what the page says, such as to stop. */
const LISTEN_MS = 30

/** The same pictures, with a moment now and then in which messages come in. */
function listening(source: PictureSource): PictureSource {
  let heardAt = performance.now()
  return async (frame, box, channel) => {
    if (performance.now() - heardAt > LISTEN_MS) {
      await nextTask()
      heardAt = performance.now()
    }
    return source(frame, box, channel)
  }
}

/** Without the milliseconds by which a timer would be late. */
function nextTask(): Promise<void> {
  const { port1, port2 } = new MessageChannel()
  return new Promise((resolve) => {
    port1.onmessage = () => {
      port1.close()
      resolve()
    }
    port2.postMessage(null)
  })
}

/** Milliseconds for which what was found is gathered before it is told. */
const TELL_MS = 60

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
  /**
   * Tracks in this worker, all runs a frame at a time; `onFound` gets good frames, a few at a time, as they are found.
   *
   * @returns how each ended, once all that was found has been taken
   */
  async run(
    plate: TrackPlate,
    runs: readonly TrackRun[],
    onFound: (found: readonly Found[]) => void | Promise<void>,
  ): Promise<RunEnd[]> {
    const own = { isStopped: false }
    running.add(own)
    rehearsal++
    let untold: Found[] = []
    let toldAt = performance.now()
    let taken: unknown
    const tell = () => {
      taken = onFound(untold)
      untold = []
      toldAt = performance.now()
    }
    const ends = await runTogether(
      runs,
      listening(readAhead(tilesOf(plate), runs)),
      (index, sample) => {
        untold.push({ index, sample })
        if (performance.now() - toldAt > TELL_MS) tell()
        return !own.isStopped
      },
      () => !own.isStopped,
    ).finally(() => running.delete(own))
    tell()
    // News keep their order: when the last are taken, all are.
    await taken
    return ends.map((end) => (end instanceof Error ? { reason: 'problem', words: end.message } : end))
  },

  stop() {
    for (const one of running) one.isStopped = true
  },

  /**
   * Fetches what runs will look at first, and tracks their nearest frames for nothing: code that has been used is
   * compiled. A run ends it.
   */
  async getReady(plate: TrackPlate, runs: readonly TrackRun[]) {
    if (running.size > 0) return
    const own = ++rehearsal
    const isWanted = () => own === rehearsal
    const near = runs.map((run) => ({ ...run, steps: run.steps.slice(0, REHEARSED) }))
    await runTogether(near, listening(readAhead(tilesOf(plate), runs)), isWanted, isWanted)
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
