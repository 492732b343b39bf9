import { median, tukeyBiweight } from '../robust'
import { edgeSpreadByBox } from './edgeSpread'
import { fitEdge, PIXEL_VARIANCE } from './fitEdge'
import { fitStep } from './fitStep'
import {
  LEAST_CONTRAST,
  LEAST_CONTRAST_TO_REST,
  MOST_TURN,
  mixedAcross,
  type EdgePlace,
  type LitChannels,
} from './softness'

/** The pixels across a place, which moves by {@link EdgePlace.sweep} while the shutter is open for a whole frame. */
export interface MovingEdge {
  place: EdgePlace
  distances: Float64Array
  values: Float64Array
}

/** What a place says of the shutter: degrees, with its standard error. */
export interface ShutterVote {
  place: EdgePlace
  angle: number
  error: number
  /** 0: it is not listened to; up to 1. */
  weight: number
}

export interface ShutterEstimate {
  /** Degrees. */
  angle: number
  /** How far half of the places that speak lie from it, degrees. */
  spread: number
  /** How sure the mean of them is, degrees: standard error. */
  error: number
  votes: readonly ShutterVote[]
  /** Softness that all edges were taken to have, pixels. */
  sigma: number
}

/** Pixels a frame along the normal from which a place can tell how long the shutter was open, and below which it tells how soft the picture is. */
const FAST = 4
const SLOW = 1
/** Pixels across beyond the motion. */
const ACROSS = 6
/** Widest shutter, degrees. */
const WIDEST = 720
/** Standard error of a vote that is listened to, degrees. */
const MOST_ERROR = 45
const LEAST_VOTES = 5
const VOTE_NOISE = 8
const ROUNDS = 4
/** A box shorter than so many times the softness is hardly told from it: where there are enough longer ones these alone speak. */
const LONG = 1.5
/** Of pictures without any slow clear edge: that of a sharp lens, pixels. */
const SHARP = 0.5

/** The pixels that a place needs, where its edge is straight enough and lies within the picture; else null. */
export function movingEdgeAt(channels: LitChannels, place: EdgePlace): MovingEdge | null {
  if (place.turn > MOST_TURN) return null
  const pixels = mixedAcross(channels, place, ACROSS)
  return pixels && { place, distances: pixels.distances, values: pixels.values }
}

/**
 * The shutter angle that the picture shows: the one for which the blur of fast clear edges agrees with the speed at which they are known to move.
 *
 * Slow edges say how soft the picture is without motion; given that, each fast one says how long a box its step was swept over, and that box over its
 * way in a whole frame is its share of 360 degrees. The mean of those that agree: about where they lie closest together, with Tukey's weights by how
 * far each is off against its own error.
 *
 * @returns  null where fewer than five edges are fast and clear
 */
export function estimateShutter(edges: readonly MovingEdge[]): ShutterEstimate | null {
  const sigma = softnessWithoutMotion(edges)
  // As wide as it is seen, with the pixel's own share.
  const seen = Math.sqrt(sigma * sigma + PIXEL_VARIANCE)
  const votes = edges.flatMap((edge) => {
    const vote = edge.place.sweep >= FAST ? voteOf(edge, seen) : null
    return vote ?? []
  })
  if (votes.length < LEAST_VOTES) return null
  const first = densest(votes)
  const isLong = votes.map(({ place }) => (place.sweep * first) / 360 >= LONG * seen)
  const speaks = isLong.filter(Boolean).length >= LEAST_VOTES ? isLong : isLong.map(() => true)
  let angle = densest(votes.filter((_, i) => speaks[i]))
  let weights: number[] = []
  for (let round = 0; round < ROUNDS; round++) {
    weights = votes.map((vote, i) => (speaks[i] ? tukeyBiweight(vote.angle - angle, noiseOf(vote)) : 0))
    const shares = votes.map((vote, i) => weights[i]! / noiseOf(vote) ** 2)
    const sum = shares.reduce((a, b) => a + b, 0)
    angle = votes.reduce((total, vote, i) => total + shares[i]! * vote.angle, 0) / sum
  }
  const heard = votes.filter((_, i) => weights[i]! > 0)
  if (heard.length < LEAST_VOTES) return null
  const spread = median(heard.map((vote) => Math.abs(vote.angle - angle)))
  return {
    angle,
    spread,
    error: (1.4826 * spread) / Math.sqrt(heard.length),
    votes: votes.map((vote, i) => ({ ...vote, weight: weights[i]! })),
    sigma,
  }
}

/** Degrees by which a vote is off beside its own error: what lies beside an edge is never quite even. */
const noiseOf = ({ error }: { error: number }) => Math.hypot(error, VOTE_NOISE)

/** The angle about which the votes lie closest together, each spread over its noise. */
function densest(votes: readonly Omit<ShutterVote, 'weight'>[]): number {
  let [best, most] = [0, 0]
  for (let angle = 0; angle <= WIDEST; angle += 2) {
    let density = 0
    for (const vote of votes) {
      const noise = noiseOf(vote)
      density += Math.exp(-0.5 * ((vote.angle - angle) / noise) ** 2) / noise
    }
    if (density > most) [best, most] = [angle, density]
  }
  return best
}

/** Median of what the slow clear edges show; of a picture that has none a sharp lens is taken. */
function softnessWithoutMotion(edges: readonly MovingEdge[]): number {
  const sigmas = edges.flatMap(({ place, distances, values }) => {
    if (place.sweep > SLOW) return []
    const fit = fitEdge(distances, values, place.sweep / 2)
    return fit && isClear(fit) && fit.sigmaError < 0.25 ? fit.sigma : []
  })
  return sigmas.length >= 3 ? median(sigmas) : SHARP
}

function voteOf({ place, distances, values }: MovingEdge, seen: number): Omit<ShutterVote, 'weight'> | null {
  const spread = (x: number, box: number) => edgeSpreadByBox(x, seen, box)
  const fit = fitStep(distances, values, spread, place.sweep / 2, 0.05)
  if (!fit || !isClear(fit)) return null
  const angle = (360 * fit.free) / place.sweep
  const error = (360 * fit.freeError) / place.sweep
  if (!(error < MOST_ERROR) || angle > WIDEST || Math.abs(fit.place) > ACROSS) return null
  return { place, angle, error }
}

const isClear = ({ inside, outside, residual }: { inside: number; outside: number; residual: number }) => {
  const contrast = Math.abs(inside - outside)
  return contrast > LEAST_CONTRAST && contrast > LEAST_CONTRAST_TO_REST * residual
}
