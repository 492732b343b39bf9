import {
  applyToPoint,
  identity,
  invert,
  movedBy,
  movedPolygon,
  multiply,
  windingNumber,
  type Box,
  type Matrix3,
} from '../geometry'
import type { LumaImage } from '../image'
import {
  holdingPower,
  PICTURE_CHANNELS,
  preprocessed,
  preprocessingMargin,
  type PictureChannel,
  type Preprocessing,
} from './preprocessing'
import {
  movedPatternBox,
  PatternTracker,
  type Alignment,
  type ExposingUnder,
  type SearchBox,
  type TrackerOptions,
} from './patternTracker'
import { patternFrameOf, type Pattern } from './patternTemplate'

/** A pattern on its frame, and the track's motion there. */
export interface PlacedPattern extends Pattern {
  frame: number
  matrix: Matrix3
  /** The track's motion on a frame next to it, which tells how far the pattern itself is blurred; null: not known. */
  beside?: Matrix3 | null
}

/** A frame to track: what it is compared with (index into the run's patterns) and what covers the surface on it. */
export interface FrameStep {
  frame: number
  pattern: number
  hidden: readonly ArrayLike<number>[]
}

export interface TrackRun extends TrackerOptions {
  /** Share of a frame's time for which the shutter is open, to allow for its blur; 0: frames are taken for sharp. */
  shutter?: number
  preprocessing: Preprocessing
  patterns: readonly PlacedPattern[]
  /** In the order to track them, leading away from the first pattern's frame. */
  steps: readonly FrameStep[]
  /** When the pattern is taken anew from the last tracked frame: never, on each, or when the match was below. */
  patternUpdate: { when: 'first' | 'every' | 'weak'; below: number }
  minimumMatch: number
  /** Pixels by which a frame may miss the one before when it is tracked back to it; null: not asked. */
  mostReturnError: number | null
  /**
   * Known motions of frames just before the first step, newest first: the run carries on from them. One that was placed
   * by hand is not exact enough to be tracked back to.
   */
  known: readonly { frame: number; matrix: Matrix3; isExact: boolean }[]
}

export interface TrackedFrame extends Alignment {
  frame: number
  /** Frame whose picture it was compared with. */
  patternFrame: number
  /** How well that pattern holds along its weaker direction, 0..1: below {@link SLIDES_BELOW} it may slide unseen. */
  hold: number
  /** Pixels by which it missed the frame before when tracked back to it, 0 where that one was not exact; null: not asked. */
  returned: number | null
}

export type TrackEnd = { reason: 'finished' } | { reason: 'stopped' } | LostEnd

/** Why a frame is not believed, and where the pattern is found again beyond it, if it is. */
export type LostEnd = (
  | { reason: 'lost'; frame: number; match: number; kept: number }
  | { reason: 'hidden'; frame: number; hidden: number }
  | { reason: 'alike'; frame: number; match: number }
  | { reason: 'no-return'; frame: number; pixels: number }
  | { reason: 'outside'; frame: number }
) & { again?: TrackedFrame | null }

/** Where pictures come from. The box is clamped to the plate by the source. */
export type PictureSource = (frame: number, box: Box, channel: PictureChannel) => Promise<LumaImage>

/** Room around the expected place of a plane: motion that was not foreseen, and the filters' reach. */
const MARGIN = 48
/** Room for the filters' reach round a point's search. */
const FILTER_REACH = 8
/** Pixels to each side in which a point is looked for before its whole search box is. */
const NEAR = 8
const NEAR_SEARCH: SearchBox = [-NEAR, -NEAR, NEAR, NEAR]
/** Pixels to each side in which it is looked for on the way back: further off it counts as lost anyway. */
const RETURN_SEARCH: SearchBox = [-4, -4, 4, 4]
/** Match and share of agreeing pixels that leave no doubt. */
const CLEAR_MATCH = 0.9
const CLEAR_KEPT = 0.8
/** A pattern that holds its place less well along an edge than this share of across it slides along the edge. */
export const SLIDES_BELOW = 0.2
/** Fewer agreeing pixels than this and the region is taken for hidden. */
const LEAST_KEPT = 0.2
/**
 * Share of the pattern that may be covered where it is expected. Beyond the first, a doubtful match elsewhere than it is
 * expected does not count: so many plate pixels away.
 */
const MUCH_HIDDEN = 0.5
const ELSEWHERE = 8
const MOSTLY_HIDDEN = 0.75
const HARDLY_HIDDEN = 0.05
/** A doubtful place must fit better than those beside it by this much of a correlation. */
const LEAST_DISTINCT = 0.08
/** Frames beyond its end on which a track is looked for again, and plate pixels to each side: more with every frame. */
const LOOK_AHEAD = 72
const REACH_AT_FIRST = 48
const REACH_A_FRAME = 4
const MOST_REACH = 160
/** Plate pixels a frame by which what is found again may go otherwise than it went, beside half of its speed. */
const SPEED_ROOM = 1.5
/** Runs of more tracks than this do not look for each that is lost: it would hold up the others. */
const MOST_LOOKING_AHEAD = 4

/** Plate pixels to the left, above, right and below; negative is left and up. */
type Margin = [number, number, number, number]

/**
 * One track under way, frame by frame. Each frame starts from the last motion carried on at constant speed.
 */
class TrackUnderWay {
  private readonly margin: Margin
  /** Where it is first looked for on a frame, and on the way back. */
  private readonly nearMargin: Margin
  private readonly returnMargin: Margin
  private patternIndex = -1
  private pattern: PlacedPattern
  /** Of the pattern: leads back to the track's own frame, and where its centre is there. */
  private fromPattern!: Matrix3
  private ownPlace!: [number, number]
  private tracker: PatternTracker | null = null
  private previous: Matrix3
  private beforePrevious: Matrix3 | null
  private previousFrame: number
  private isPreviousExact: boolean
  private channel: PictureChannel | null = null
  /** The picture in which the pattern was found on the frame before: the way back mostly stays inside it. */
  private pictureBefore: LumaImage | null = null

  constructor(
    private readonly run: TrackRun,
    private readonly pictures: PictureSource,
  ) {
    this.margin = roomRound(run)
    this.nearMargin = roomRound({ ...run, search: NEAR_SEARCH })
    this.returnMargin = roomRound({ ...run, search: RETURN_SEARCH })
    this.pattern = { ...run.patterns[0]! }
    this.place()
    this.previous = run.known[0]?.matrix ?? this.pattern.matrix
    this.previousFrame = run.known[0]?.frame ?? this.pattern.frame
    this.isPreviousExact = run.known[0]?.isExact ?? true
    this.beforePrevious = run.known[1]?.matrix ?? null
  }

  /** @throws TrackingError from the pattern */
  async track(step: FrameStep): Promise<TrackedFrame | TrackEnd> {
    const { run } = this
    if (step.pattern !== this.patternIndex) {
      this.patternIndex = step.pattern
      await this.take({ ...run.patterns[step.pattern]! })
      // Another pattern need not have moved like the one before it: only from its own frame can it be held to that.
      this.isPreviousExact &&= this.previousFrame === this.pattern.frame
    }
    // Motions are those of the track; the tracker's lead from the pattern's frame.
    const { pattern, fromPattern } = this
    const prediction = multiply(carriedOn(this.previous, this.beforePrevious, this.ownPlace), fromPattern)
    let { found, picture } = await this.nearPrediction(step, prediction)
    if (!found) {
      picture = await this.seen(step.frame, pattern.outlines, prediction)
      if (!isInPicture(picture, pattern, prediction, run.surface)) return { reason: 'outside', frame: step.frame }
      const isFirstStep = this.previousFrame === pattern.frame
      const exposing = exposingOf(run, pattern, [this.previous, this.beforePrevious], isFirstStep)
      found = this.tracker!.align(picture, prediction, step.hidden, undefined, exposing)
      if (found.match < 0.8 || found.kept < 0.5) {
        // The speed may have changed at once: try from where it was, too, and keep the better.
        const still = multiply(this.previous, fromPattern)
        const other = await this.seen(step.frame, pattern.outlines, still)
        const again = this.tracker!.align(other, still, step.hidden, undefined, exposing)
        if (again.match * again.kept > found.match * found.kept) {
          found = again
          picture = other
        }
      }
    }
    const hidden = hiddenShare(pattern, prediction, step.hidden)
    if (hidden > MOSTLY_HIDDEN) return { reason: 'hidden', frame: step.frame, hidden }
    if (found.match < run.minimumMatch || found.kept < LEAST_KEPT) {
      return { reason: 'lost', frame: step.frame, match: found.match, kept: found.kept }
    }
    // A doubtful match where the motion leads may be cloth or blur; elsewhere it may be something else that is alike.
    const isElsewhere = this.tracker!.distanceBetween(prediction, found.matrix) > ELSEWHERE
    if (isElsewhere && isDoubtfulMatch(found.match, run.minimumMatch)) {
      if (hidden > MUCH_HIDDEN) return { reason: 'hidden', frame: step.frame, hidden }
      // A point's own neighbourhood is looked at on the way back.
      if (run.surface === 'plane' && this.tracker!.distinctness(picture!, found.matrix) < LEAST_DISTINCT) {
        return { reason: 'alike', frame: step.frame, match: found.match }
      }
    }
    const matrix = multiply(found.matrix, pattern.matrix)
    let returned: number | null = null
    if (run.mostReturnError !== null) {
      returned = this.isPreviousExact ? await this.returnError(step, found.matrix, picture!) : 0
      if (returned > run.mostReturnError) return { reason: 'no-return', frame: step.frame, pixels: returned }
    }
    if (this.previousFrame === this.pattern.frame) this.pattern.beside ??= matrix
    this.beforePrevious = this.previous
    this.previous = matrix
    this.previousFrame = step.frame
    this.pictureBefore = picture
    this.isPreviousExact = true
    const { when, below } = run.patternUpdate
    const { hold } = this.tracker!
    const tracked = { ...found, matrix, frame: step.frame, patternFrame: pattern.frame, hold, returned }
    if (when === 'every' || (when === 'weak' && found.match < below)) {
      const outlines = pattern.outlines.map((outline) => movedPolygon(outline, found.matrix))
      await this.take({ frame: step.frame, matrix, outlines, hidden: step.hidden })
    }
    return tracked
  }

  /**
   * The first later frame on which the pattern is found beyond doubt, in a place that grows with the frames that passed.
   *
   * @param isWanted  asked before each frame
   */
  async findAgain(steps: readonly FrameStep[], isWanted: () => boolean): Promise<TrackedFrame | null> {
    const { run, pattern, tracker, fromPattern } = this
    if (!tracker) return null
    let [expected, before] = [this.previous, this.beforePrevious]
    let last: { matrix: Matrix3; index: number } | null = null
    for (const [i, step] of steps.slice(0, LOOK_AHEAD).entries()) {
      // Another pattern is another surface: this one says nothing of it.
      if (!isWanted() || step.pattern !== this.patternIndex) return null
      const next = carriedOn(expected, before, this.ownPlace)
      ;[before, expected] = [expected, next]
      const prediction = multiply(next, fromPattern)
      // While a part of it is still covered, another like it nearby would be the better match.
      if (i === 0 || hiddenShare(pattern, prediction, step.hidden) > HARDLY_HIDDEN) continue
      const reach = Math.min(MOST_REACH, REACH_AT_FIRST + i * REACH_A_FRAME)
      const margin = this.margin.map((side) => side + Math.sign(side) * reach) as Margin
      const box = movedPatternBox(pattern.outlines, prediction, margin)
      const picture = preprocessed(await this.pictures(step.frame, box, this.channel!), run.preprocessing)
      if (picture.width < 16 || picture.height < 16) continue
      const found = tracker.locate(picture, prediction, step.hidden, reach)
      if (found.match < CLEAR_MATCH || found.kept < CLEAR_KEPT) continue
      const matrix = multiply(found.matrix, pattern.matrix)
      // Seen twice, going as it went: something alike may stand where it was expected.
      if (last?.index === i - 1 && this.goesOnAs(last.matrix, matrix, [before, next])) {
        return { ...found, matrix, frame: step.frame, patternFrame: pattern.frame, hold: tracker.hold, returned: 0 }
      }
      last = { matrix, index: i }
    }
    return null
  }

  /** Whether the pattern goes from one frame to the next about as it was going. */
  private goesOnAs(from: Matrix3, to: Matrix3, [was, is]: readonly [Matrix3, Matrix3]): boolean {
    const [x, y] = this.ownPlace
    const way = (a: Matrix3, b: Matrix3) => {
      const [p, q] = [applyToPoint(a, x, y), applyToPoint(b, x, y)]
      return [q[0]! - p[0]!, q[1]! - p[1]!] as const
    }
    const [own, usual] = [way(from, to), way(was, is)]
    return Math.hypot(own[0] - usual[0], own[1] - usual[1]) <= SPEED_ROOM + 0.5 * Math.hypot(...usual)
  }

  /**
   * A point is mostly where its motion leads: looked for there first, in a small part of its search box. Nothing where
   * it is not clearly found so.
   */
  private async nearPrediction(
    step: FrameStep,
    prediction: Matrix3,
  ): Promise<{ found: Alignment | null; picture: LumaImage | null }> {
    const nothing = { found: null, picture: null }
    if (this.run.surface === 'plane' || this.run.search.every((side) => Math.abs(side) <= NEAR)) return nothing
    const { outlines } = this.pattern
    const picture = await this.seen(step.frame, outlines, prediction, this.nearMargin)
    if (!isInPicture(picture, this.pattern, prediction, 'point')) return nothing
    const found = this.tracker!.align(picture, prediction, step.hidden, NEAR_SEARCH)
    return found.match >= CLEAR_MATCH && found.kept >= CLEAR_KEPT ? { found, picture } : nothing
  }

  private async seen(
    frame: number,
    outlines: readonly ArrayLike<number>[],
    motion: Matrix3,
    margin: Margin = this.margin,
  ) {
    this.channel ??= await lookChannel(this.run, this.pictures)
    const box = movedPatternBox(outlines, motion, margin)
    return preprocessed(await this.pictures(frame, box, this.channel), this.run.preprocessing)
  }

  private async take(pattern: PlacedPattern) {
    const picture = await this.seen(pattern.frame, pattern.outlines, identity())
    this.tracker = new PatternTracker(picture, pattern, this.run)
    this.pattern = pattern
    this.place()
    if (pattern.frame === this.previousFrame) this.pictureBefore = picture
  }

  /** What is asked of the pattern on every frame is worked out once. */
  private place() {
    const { outlines, matrix } = this.pattern
    const { centreX, centreY } = patternFrameOf(outlines)
    this.fromPattern = invert(matrix)
    applyToPoint(this.fromPattern, centreX, centreY, (this.ownPlace = [0, 0]))
  }

  /** Distance in pixels between where the pattern was on the frame before and where its present look leads back to. */
  private async returnError({ hidden }: FrameStep, motion: Matrix3, picture: LumaImage): Promise<number> {
    const before = multiply(this.previous, this.fromPattern)
    const { outlines } = this.pattern
    const box = movedPatternBox(outlines, before, this.returnMargin)
    const there =
      this.pictureBefore && holds(this.pictureBefore, box)
        ? this.pictureBefore
        : await this.seen(this.previousFrame, outlines, before, this.returnMargin)
    return this.tracker!.returnError({ picture, motion, hidden }, { picture: there, motion: before }, RETURN_SEARCH)
  }
}

/**
 * What is known of a frame's blur once its motion is; null when it is not asked for.
 *
 * @param earlier      the track's motion on the frame tracked before, and on the one before that if known
 * @param isFirstStep  that frame is the pattern's own: this step then tells how the pattern was moving itself
 */
export function exposingOf(
  { shutter = 0 }: Pick<TrackRun, 'shutter'>,
  pattern: PlacedPattern,
  earlier: readonly [Matrix3, Matrix3 | null],
  isFirstStep: boolean,
): ExposingUnder | null {
  if (shutter === 0) return null
  const fromPattern = invert(pattern.matrix)
  const [before, beforeThat] = earlier
  const beside = pattern.beside ? multiply(pattern.beside, fromPattern) : null
  return (motion) => ({
    shutter,
    motions: [motion, multiply(before, fromPattern), beforeThat && multiply(beforeThat, fromPattern)],
    besidePattern: beside ?? (isFirstStep ? motion : null),
  })
}

/**
 * Tracks frame after frame until the list ends, the artist stops it, the match falls below the minimum or the pattern
 * leaves the picture.
 *
 * @param onFrame  called with each good frame; return false to stop
 * @throws TrackingError from the pattern
 */
export async function runTrack(
  run: TrackRun,
  pictures: PictureSource,
  onFrame: (sample: TrackedFrame) => boolean,
): Promise<TrackEnd> {
  const [end] = await runTogether([run], pictures, (_, sample) => onFrame(sample))
  if (end instanceof Error) throw end
  return end!
}

/**
 * Several tracks, each frame of all of them before the next, so that a frame's picture is read once.
 *
 * @param onFrame  called with the index of the run and each good frame; return false to stop all
 * @param isWanted  false once the artist has stopped it, asked while a lost track is looked for
 * @returns how each ended; an error where a pattern cannot be tracked at all
 */
export async function runTogether(
  runs: readonly TrackRun[],
  pictures: PictureSource,
  onFrame: (index: number, sample: TrackedFrame) => boolean,
  isWanted: () => boolean = () => true,
): Promise<(TrackEnd | Error)[]> {
  const ends: (TrackEnd | Error | null)[] = runs.map(() => null)
  const underWay = runs.map((run) => new TrackUnderWay(run, pictures))
  const most = Math.max(0, ...runs.map((run) => run.steps.length))
  for (let k = 0; k < most; k++) {
    for (let i = 0; i < runs.length; i++) {
      const step = runs[i]!.steps[k]
      if (ends[i] || !step) continue
      try {
        const result = await underWay[i]!.track(step)
        if ('reason' in result) ends[i] = await withFoundAgain(result, runs, i, k)
        else if (!onFrame(i, result)) return ends.map((end) => end ?? { reason: 'stopped' })
      } catch (error) {
        ends[i] = error instanceof Error ? error : new Error(String(error))
      }
    }
  }
  return ends.map((end) => end ?? { reason: 'finished' })

  async function withFoundAgain(end: TrackEnd, all: readonly TrackRun[], i: number, k: number): Promise<TrackEnd> {
    if (end.reason === 'finished' || end.reason === 'stopped' || all.length > MOST_LOOKING_AHEAD) return end
    return { ...end, again: await underWay[i]!.findAgain(all[i]!.steps.slice(k), isWanted) }
  }
}

/** Doubtful is a match in the lower half of what is allowed. */
export const isDoubtfulMatch = (match: number, minimum: number) => match < minimum + (1 - minimum) / 2

/** Places across and down at which it is looked how much of a pattern is hidden. */
const HIDDEN_LOOKS = 12

/** Share of what is seen of a pattern on its own frame that closed polygons cover, where a motion puts it. */
function hiddenShare(
  { outlines, hidden: neverSeen }: Pick<Pattern, 'outlines' | 'hidden'>,
  motion: Matrix3,
  hidden: readonly ArrayLike<number>[],
): number {
  if (hidden.length === 0) return 0
  const { box } = patternFrameOf(outlines)
  const place = [0, 0]
  let [inside, covered] = [0, 0]
  for (let j = 0; j < HIDDEN_LOOKS; j++) {
    for (let i = 0; i < HIDDEN_LOOKS; i++) {
      const x = box.left + ((i + 0.5) / HIDDEN_LOOKS) * (box.right - box.left)
      const y = box.top + ((j + 0.5) / HIDDEN_LOOKS) * (box.bottom - box.top)
      // Where two outlines lie over one another is a hole.
      if (outlines.filter((outline) => windingNumber(outline, x, y) !== 0).length % 2 === 0) continue
      if (isInAny(neverSeen, x, y)) continue
      inside++
      applyToPoint(motion, x, y, place)
      if (isInAny(hidden, place[0]!, place[1]!)) covered++
    }
  }
  return inside === 0 ? 0 : covered / inside
}

const isInAny = (polygons: readonly ArrayLike<number>[], x: number, y: number) =>
  polygons.some((polygon) => windingNumber(polygon, x, y) !== 0)

/** The channel a run looks at; the one that holds its first pattern's place best when that is asked for. */
export async function lookChannel(
  { preprocessing, patterns }: Pick<TrackRun, 'preprocessing' | 'patterns'>,
  pictures: PictureSource,
): Promise<PictureChannel> {
  if (preprocessing.channel !== 'best') return preprocessing.channel
  const box = movedPatternBox(patterns[0]!.outlines, identity(), [-4, -4, 4, 4])
  const powers = await Promise.all(
    PICTURE_CHANNELS.map(async (channel) => holdingPower(await pictures(patterns[0]!.frame, box, channel))),
  )
  return PICTURE_CHANNELS[powers.indexOf(Math.max(...powers))]!
}

function roomRound({ surface, search, preprocessing }: Pick<TrackRun, 'surface' | 'search' | 'preprocessing'>): Margin {
  const more = preprocessingMargin(preprocessing)
  if (surface === 'plane') return [-MARGIN - more, -MARGIN - more, MARGIN + more, MARGIN + more]
  const [left, top, right, bottom] = search
  const room = FILTER_REACH + more
  return [left - room, top - room, right + room, bottom + room]
}

const holds = ({ left, top, width, height }: LumaImage, box: Box) =>
  left <= box.left && top <= box.top && left + width >= box.right && top + height >= box.bottom

/** A plane may hang over the edge; a point whose middle is outside cannot be told from something alike inside. */
function isInPicture(picture: LumaImage, pattern: PlacedPattern, motion: Matrix3, surface: 'plane' | 'point'): boolean {
  if (picture.width < 16 || picture.height < 16) return false
  if (surface === 'plane') return true
  const { centreX, centreY } = patternFrameOf(pattern.outlines)
  const [x, y] = applyToPoint(motion, centreX, centreY)
  const [right, bottom] = [picture.left + picture.width, picture.top + picture.height]
  return x! > picture.left && x! < right && y! > picture.top && y! < bottom
}

/** The last motion moved on by the way that a place, the pattern's centre on the track's own frame, went in the last step. */
function carriedOn(previous: Matrix3, before: Matrix3 | null, [x, y]: readonly [number, number]): Matrix3 {
  if (!before) return previous
  const now = applyToPoint(previous, x, y)
  const then = applyToPoint(before, x, y)
  return movedBy(previous, now[0]! - then[0]!, now[1]! - then[1]!)
}
