import { boundsOfAll, boxAroundAll, grown, invert, movedPolygon, multiply, type Box } from '@tender-lasso/core/geometry'
import type { PictureChannel, PictureSource, TrackRun } from '@tender-lasso/core/tracking'
import type { AnalysisTiles } from './analysisTiles'

/** With fewer frames than this fetched before they are looked at, the next are asked for. */
const LEAST_AHEAD = 3
/** Frames that are then fetched ahead: several in one request, each of which costs page, server and browser much. */
export const MOST_AHEAD = 12
/** Plate pixels more on each side than the last motion leads to: a motion that changes would need a request a frame. */
const ROOM_AHEAD = 32
/** Plate pixels round several patterns that are fetched before it is known how far they are looked for. */
const ROOM_AT_FIRST = 64

/** Runs that go through the frames together, in one channel: others may be many frames away. */
interface Front {
  /** Where it began. */
  first: number
  /** Place of the frame that is looked at, in the order of the frames. */
  place: number
  /** The stretch of that frame that is looked at. */
  under: Box
  /** Where it was on the frame before. */
  before: Box
}

/**
 * Pictures for runs of tracks, read ahead: while one frame is looked at, the stretch under all of them that the next
 * frames will show, as far as the last motion tells, is fetched in one request for several frames, however many runs
 * there are; so is that under all patterns on the frame they were drawn on.
 */
export function readAhead(
  tiles: Pick<AnalysisTiles, 'image' | 'isExpected' | 'expect'>,
  runs: readonly TrackRun[],
): PictureSource {
  const frames = [...new Set(runs.flatMap(({ steps }) => steps.map(({ frame }) => frame)))]
  const placeOf = new Map(frames.map((frame, i) => [frame, i]))
  const room = runs.length > 1 ? ROOM_AT_FIRST : 0
  const atFirst = grown(boundsOfAll(runs.flatMap(lastOutlines)), room)
  const firstPlaces = new Set(runs.flatMap(({ steps }) => (steps[0] ? [placeOf.get(steps[0].frame)!] : [])))
  const frontsOf = new Map<PictureChannel, Front[]>()
  const patternsAsked = new Set<string>()

  function expectPatterns(frame: number, box: Box, channel: PictureChannel) {
    const key = `${channel} ${frame}`
    if (patternsAsked.has(key)) return
    patternsAsked.add(key)
    const outlines = runs.flatMap(({ patterns }) => patterns.filter((one) => one.frame === frame).flatMap((one) => one.outlines)) // prettier-ignore
    if (outlines.length) tiles.expect([frame], boxAroundAll([box, grown(boundsOfAll(outlines), room)]), channel)
  }

  function expectFrames(place: number, box: Box, channel: PictureChannel, { under, before }: Front) {
    const [dx, dy] = sharedShift(before, under)
    const after = (steps: number) => shifted(under, dx * (1 + steps), dy * (1 + steps))
    const soon = frames.slice(place, place + 1 + MOST_AHEAD)
    const isNear = soon
      .slice(0, 1 + LEAST_AHEAD)
      .every((frame, steps) => tiles.isExpected(frame, steps ? after(steps) : boxAroundAll([box, after(0)]), channel))
    if (isNear) return
    // The same box for all of them, so that one request brings them.
    tiles.expect(soon, grown(boxAroundAll([box, under, after(MOST_AHEAD)]), ROOM_AHEAD), channel)
  }

  function goOn(place: number, box: Box, channel: PictureChannel) {
    const fronts = frontsOf.get(channel) ?? []
    frontsOf.set(channel, fronts)
    const here = fronts.find((front) => front.place === place)
    if (here) return void (here.under = boxAroundAll([here.under, box]))
    let front = fronts.find((one) => one.place === place - 1)
    if (!front) {
      // What is looked at on the way back leads nowhere.
      if (!firstPlaces.has(place) || fronts.some((one) => one.first === place)) return
      front = { first: place, place: place - 1, under: atFirst, before: atFirst }
      fronts.push(front)
    }
    expectFrames(place, box, channel, front)
    Object.assign(front, { place, before: front.under, under: box })
  }

  return (frame, box, channel) => {
    const place = placeOf.get(frame)
    if (place === undefined) expectPatterns(frame, box, channel)
    else goOn(place, box, channel)
    return tiles.image(frame, box, channel)
  }
}

/** A run's pattern where it was known last. */
function lastOutlines({ patterns, known }: TrackRun): ArrayLike<number>[] {
  const [{ outlines, matrix }] = patterns as [TrackRun['patterns'][number]]
  const motion = known[0] && multiply(known[0].matrix, invert(matrix))
  return outlines.map((outline) => (motion ? movedPolygon(outline, motion) : outline))
}

/** How far opposite sides both went: where only one did, a pattern was looked for farther off. */
function sharedShift(from: Box, to: Box): [x: number, y: number] {
  const shared = (a: number, b: number) => (a * b <= 0 ? 0 : Math.sign(a) * Math.min(Math.abs(a), Math.abs(b)))
  return [shared(to.left - from.left, to.right - from.right), shared(to.top - from.top, to.bottom - from.bottom)]
}

const shifted = ({ left, top, right, bottom }: Box, x: number, y: number): Box => ({
  left: left + x,
  top: top + y,
  right: right + x,
  bottom: bottom + y,
})
