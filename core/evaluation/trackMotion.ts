import {
  applyToPoint,
  boundsOfAll,
  identity,
  invert,
  multiply,
  translation,
  type Matrix3,
  MATRIX_LENGTH,
  matrixAt,
} from '../geometry'
import { fillBridge, sampledMatrix, smoothMotion, type MotionSamples } from '../motion'
import { isDoubtfulMatch } from '../tracking'
import { channelValuesAt } from './channelValues'
import { rawSamplesOf, sampledMatch, sampledState } from './trackSamples'
import { channelOf, type Track } from '../document'

/** How a frame of a track is known, as the thread shows it. */
export type FrameState = 'missing' | 'tracked' | 'doubtful' | 'placed' | 'bridged' | 'combined'

const motionOfTrack = new WeakMap<Track, MotionSamples>()

/**
 * The motion of a track as others use it: stored samples, Bridges over the gaps, Offset, smoothing, in this order. The
 * stored samples stay as they are, so each of the others can be changed or taken away at any time.
 */
export function motionSamplesOf(track: Track): MotionSamples {
  let motion = motionOfTrack.get(track)
  if (!motion) {
    motion = evaluated(track)
    motionOfTrack.set(track, motion)
  }
  return motion
}

function evaluated(track: Track): MotionSamples {
  const raw = reported(track, rawSamplesOf(track))
  const offset = channelOf(track, 'offset')
  if (track.bridges.length === 0 && !hasOffset(track) && !track.smoothing) return raw
  const motion = { ...raw, matrices: raw.matrices.slice(), present: raw.present.slice() }
  for (const bridge of track.bridges) fillBridge(motion, bridge.from, bridge.to, bridge)
  if (hasOffset(track)) {
    for (let i = 0; i < motion.present.length; i++) {
      if (!motion.present[i]) continue
      const [x, y] = channelValuesAt(offset, motion.firstFrame + i)!
      motion.matrices.set(multiply(translation(x!, y!), matrixAt(motion.matrices, i)), i * MATRIX_LENGTH)
    }
  }
  return track.smoothing ? smoothMotion(motion, track.smoothing) : motion
}

/** True when a track reports another place than the one followed, on any frame. */
const hasOffset = (track: Track) => track.channels.offset !== undefined

/** A point that reports its place alone, however its pattern turned meanwhile. */
function reported(track: Track, raw: MotionSamples): MotionSamples {
  if (track.surface !== 'point' || track.model !== 'position' || !track.preprocessing.follows) return raw
  const matrices = new Float64Array(raw.matrices.length)
  raw.present.forEach((isPresent, i) => {
    if (!isPresent) return
    const [dx, dy] = wayOfPatterns(track, raw.firstFrame + i, matrixAt(raw.matrices, i))
    matrices.set(translation(dx, dy), i * MATRIX_LENGTH)
  })
  return { ...raw, matrices }
}

/**
 * How far the middles of a point's patterns have gone by a frame, one pattern after the other: of a pattern far from the
 * place that is reported, its turn would throw that place about.
 */
function wayOfPatterns(track: Track, frame: number, matrix: Matrix3): [number, number] {
  const side = Math.sign(frame - track.referenceFrame)
  const given = track.references
    .filter((one) => side * (one.frame - track.referenceFrame) > 0 && side * (frame - one.frame) >= 0)
    .sort((a, b) => side * (a.frame - b.frame))
  const patterns = [{ outlines: track.outlines, matrix: identity() }, ...given]
  let [dx, dy] = [0, 0]
  patterns.forEach((pattern, i) => {
    const until = patterns[i + 1]?.matrix ?? matrix
    const { left, top, right, bottom } = boundsOfAll(pattern.outlines)
    const [x, y] = [(left + right) / 2, (top + bottom) / 2]
    const [toX, toY] = applyToPoint(multiply(until, invert(pattern.matrix)), x, y)
    dx += toX! - x
    dy += toY! - y
  })
  return [dx, dy]
}

/** Where the followed pattern is on a frame, without Offset and smoothing: what the tracker goes on from. */
export function followedMatrix(track: Track, frame: number): Matrix3 | null {
  const stored = sampledMatrix(rawSamplesOf(track), frame)
  if (stored || track.bridges.length === 0) return stored
  const bare = hasOffset(track) || track.smoothing ? { ...track, channels: {}, smoothing: null } : track
  return sampledMatrix(motionSamplesOf(bare), frame)
}

/** {@link followedMatrix}, and on the reference frame, known or not yet tracked, no motion. */
export function followedOn(track: Track, frame: number): Matrix3 | null {
  return followedMatrix(track, frame) ?? (frame === track.referenceFrame ? identity() : null)
}

/** How the frame is known; doubtful is a match in the lower half of what the track allows. */
export function frameState(track: Track, frame: number): FrameState {
  const state = sampledState(track, frame)
  if (!state) {
    return track.bridges.some(({ from, to }) => frame > from && frame < to) &&
      sampledMatrix(motionSamplesOf(track), frame)
      ? 'bridged'
      : 'missing'
  }
  if (state !== 'tracked') return state
  return isDoubtfulMatch(sampledMatch(track, frame), track.minimumMatch) ? 'doubtful' : 'tracked'
}

/** {@link followedMatrix} of the nearest frame that has one: where the pattern is shown while it is not known. */
export function nearestFollowed(track: Track, frame: number): Matrix3 {
  const { firstFrame, present } = rawSamplesOf(track)
  const farthest = present.length + Math.abs(frame - firstFrame)
  for (let reach = 0; reach <= farthest; reach++) {
    const found = followedMatrix(track, frame - reach) ?? followedMatrix(track, frame + reach)
    if (found) return found
  }
  return identity()
}
