import type { Box } from '../geometry'
import type { LumaImage } from '../image'
import { median } from '../robust'
import { colourContrast } from './colourContrast'
import type { AcrossPixels } from './acrossPixels'
import { edgeEvidence, type EdgeEvidence } from './edgeEvidence'
import { SIGMAS } from './edgeGrid'
import { ABOUT_THE_OUTLINE, costOfSigmas, pooledSigma } from './pooledSigma'

/** A place on an outline where softness is looked for, plate pixels. */
export interface EdgePlace {
  x: number
  y: number
  /** Direction outwards, of length 1. */
  normalX: number
  normalY: number
  /** Length of the motion within the open shutter along the normal. */
  sweep: number
  /** Largest turn of the outline within {@link ALONG} of the place, radians. */
  turn: number
  /** Where it lies on its outline: the number of the point before it, and what share of the way to the next is behind it. */
  at: number
}

/** What is seen of an edge at a place. Distances in pixels outside of the outline. */
export interface EdgeFit {
  /** Softness of the picture without that of the pixel itself and without motion: sigma of a Gaussian, and its standard error. */
  sigma: number
  sigmaError: number
  /** Where the step lies. */
  place: number
  inside: number
  outside: number
  /** How much worse than the best one each of the softnesses is that were tried; with those of other places it says how soft all of them are. */
  costs: Float64Array
}

/** What was found at a place: a fit where the edge is clear, else why it is not. */
export type EdgeMeasure = { place: EdgePlace } & (
  | { fit: EdgeFit; profile: Profile; unclear: null }
  | { fit: null; unclear: 'bent' | 'faint' | 'unlike a step' | 'outside' }
)

/** Means of the pixels across a place: at each distance outside of the outline, a half pixel apart, where there are any. */
export type Profile = readonly { distance: number; value: number }[]

/** One channel of a stretch of a plate, or red, green and blue, in scene-linear light: encoded, a step looks shifted and its two sides unlike. */
export type LitChannels = readonly LumaImage[]

/** Pixels along the outline, to both sides, whose profiles are taken together. */
export const ALONG = 4
/** Pixels across, to both sides, beyond the motion. */
const ACROSS = 9
/** Softer than this, pixels, the levels lie farther out: it is looked at again, so many times its sigma to both sides. */
const SOFT = 2.5
const SIGMAS_ACROSS = 4
const MOST_ACROSS = 16
/** Beyond so many pixels a pixel is of one side alone, while nothing is known of the softness. */
const ONE_SIDE = 3
/** An outline that turns by more within its stretch has no one normal. */
export const MOST_TURN = 0.25
/** Contrast, of 1, and as many times what the fit leaves. */
export const LEAST_CONTRAST = 0.02
export const LEAST_CONTRAST_TO_REST = 4
/** The same against the spread of the calmer side, and of the rougher one. */
const CONTRAST_TO_CALMER = 3
const CONTRAST_TO_ROUGHER = 1.5
/** Share of the pixels that are farther off than the step is high, from which it is none. */
const MOST_REJECTED = 0.1
/** A step farther from the outline is another edge. */
const FARTHEST = 3
/** Places before and after one whose steps say where its own lies, and how sure that is, pixels. */
const NEIGHBOURS = 4
const OFF_NEIGHBOURS = 0.5

/** Half of the sides of the square round a place that {@link softnessAlong} looks at. */
const reachOf = (place: EdgePlace): number => MOST_ACROSS + ALONG + place.sweep

/** Stretch of the plate that places need. */
export function boxAround(places: readonly EdgePlace[]): Box {
  const box = { left: Infinity, top: Infinity, right: -Infinity, bottom: -Infinity }
  for (const place of places) {
    const reach = reachOf(place) + 1
    box.left = Math.min(box.left, Math.floor(place.x - reach))
    box.top = Math.min(box.top, Math.floor(place.y - reach))
    box.right = Math.max(box.right, Math.ceil(place.x + reach))
    box.bottom = Math.max(box.bottom, Math.ceil(place.y + reach))
  }
  return box
}

/**
 * How soft the picture is along an outline, where its edge is clear. A step lies about where those beside it do.
 *
 * @param places  in the order of the outline
 */
export function softnessAlong(channels: LitChannels, places: readonly EdgePlace[]): EdgeMeasure[] {
  const seen = places.map((place) => seenAt(channels, place))
  const offs = seen.map((one) => one.evidence?.place ?? null)
  return seen.map(({ place, evidence, pixels, unclear }, i): EdgeMeasure => {
    if (!evidence) return { place, fit: null, unclear }
    const near = offs.slice(Math.max(0, i - NEIGHBOURS), i + NEIGHBOURS + 1).filter((off) => off !== null)
    const guess = near.length > 1 ? { at: median(near), spread: OFF_NEIGHBOURS } : ABOUT_THE_OUTLINE
    const costs = costOfSigmas(evidence, guess)
    const { inside, outside } = evidence
    const fit = { ...pooledSigma([costs]), place: offs[i]!, inside, outside, costs }
    return { place, fit, profile: profileOf(pixels), unclear: null }
  })
}

/** The evidence of a place where its edge is clear. */
type Seen = { place: EdgePlace } & (
  | { evidence: EdgeEvidence; pixels: AcrossPixels; unclear: null }
  | { evidence: null; pixels: null; unclear: NonNullable<EdgeMeasure['unclear']> }
)

function seenAt(channels: LitChannels, place: EdgePlace): Seen {
  const unclear = (why: NonNullable<EdgeMeasure['unclear']>): Seen => ({ place, evidence: null, pixels: null, unclear: why }) // prettier-ignore
  if (place.turn > MOST_TURN) return unclear('bent')
  const look = (half: number) => {
    const pixels = mixedAcross(channels, place, half)
    return pixels && { pixels, evidence: edgeEvidence(pixels, place.sweep, half + place.sweep / 2) }
  }
  const first = look(ACROSS)
  if (!first) return unclear('outside')
  const sigma = first.evidence ? sigmaOf(first.evidence) : 0
  const wider = sigma > SOFT ? look(Math.min(MOST_ACROSS, SIGMAS_ACROSS * sigma)) : null
  const { pixels, evidence } = wider ?? first
  if (!evidence) return unclear('unlike a step')
  const contrast = Math.abs(evidence.inside - evidence.outside)
  if (contrast < LEAST_CONTRAST) return unclear('faint')
  const isTold = contrast > CONTRAST_TO_CALMER * evidence.calmer && contrast > CONTRAST_TO_ROUGHER * evidence.rougher
  const isNear = Math.abs(evidence.place) < FARTHEST
  if (!isTold || !isNear || evidence.rejected > MOST_REJECTED) return unclear('unlike a step')
  return { place, evidence, pixels, unclear: null }
}

/** The softness that fits best by itself, of those that are tried. */
const sigmaOf = (evidence: EdgeEvidence) => SIGMAS[costOfSigmas(evidence, ABOUT_THE_OUTLINE).indexOf(0)]!

/** Values of the pixels across a place, of several channels as they differ most. */
export function mixedAcross(channels: LitChannels, place: EdgePlace, half: number): AcrossPixels | null {
  const pixels = pixelsAcross(channels, place, half)
  if (!pixels) return null
  const { distances, columns, rows, colours } = pixels
  const [only] = colours
  const values = colours.length === 1 ? only! : colourContrast(distances, colours, ONE_SIDE + place.sweep / 2)
  return { distances, values, columns, rows }
}

function profileOf({ distances, values }: { distances: Float64Array; values: Float64Array }): Profile {
  const bins = new Map<number, { sum: number; count: number }>()
  distances.forEach((distance, i) => {
    const bin = Math.round(2 * distance)
    const known = bins.get(bin) ?? { sum: 0, count: 0 }
    bins.set(bin, { sum: known.sum + values[i]!, count: known.count + 1 })
  })
  return [...bins].sort(([a], [b]) => a - b).map(([bin, { sum, count }]) => ({ distance: bin / 2, value: sum / count }))
}

/**
 * Values in each channel of the pixels whose centres lie beside a place, `half` to both sides of it and its motion, and how far outside of the
 * tangent of the outline each lies; null at the edge of the picture.
 *
 * @param channels  all of one stretch of the plate
 */
function pixelsAcross(
  channels: LitChannels,
  place: EdgePlace,
  half: number,
): (Omit<AcrossPixels, 'values'> & { colours: Float64Array[] }) | null {
  const image = channels[0]!
  const { x, y, normalX, normalY, sweep } = place
  const across = half + sweep / 2
  const reach = Math.ceil(Math.hypot(across, ALONG))
  const [left, top] = [Math.floor(x) - reach, Math.floor(y) - reach]
  if (left < image.left || top < image.top) return null
  if (left + 2 * reach >= image.left + image.width || top + 2 * reach >= image.top + image.height) return null
  const distances: number[] = []
  const at: number[] = []
  const columns: number[] = []
  const rows: number[] = []
  for (let py = top; py <= top + 2 * reach; py++) {
    for (let px = left; px <= left + 2 * reach; px++) {
      const [dx, dy] = [px + 0.5 - x, py + 0.5 - y]
      const distance = dx * normalX + dy * normalY
      const along = dy * normalX - dx * normalY
      if (Math.abs(distance) > across || Math.abs(along) > ALONG) continue
      distances.push(distance)
      columns.push(px)
      rows.push(py)
      at.push((py - image.top) * image.width + px - image.left)
    }
  }
  return {
    distances: Float64Array.from(distances),
    columns: Int32Array.from(columns),
    rows: Int32Array.from(rows),
    colours: channels.map(({ data }) => Float64Array.from(at, (i) => data[i]!)),
  }
}

/** What many places say together, and how far half of them lie from it. */
export interface Softness {
  sigma: number
  sigmaSpread: number
  place: number
  clear: number
  all: number
}

/** What the clear places say together; null where there are fewer than three. */
export function softnessOf(measures: readonly EdgeMeasure[]): Softness | null {
  const fits = measures.flatMap(({ fit }) => fit ?? [])
  if (fits.length < LEAST_PLACES) return null
  const { sigma } = pooledSigma(fits.map(({ costs }) => costs))
  return {
    sigma,
    sigmaSpread: median(fits.map((fit) => Math.abs(fit.sigma - sigma))),
    place: median(fits.map(({ place }) => place)),
    clear: fits.length,
    all: measures.length,
  }
}

const LEAST_PLACES = 3
