import type { Box } from '../geometry'
import type { LumaImage } from '../image'
import { median } from '../robust'
import { fitEdge, type EdgeFit } from './fitEdge'

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

/** What was found at a place: a fit where the edge is clear, else why it is not. */
export type EdgeMeasure = { place: EdgePlace } & (
  | { fit: EdgeFit; profile: Profile; unclear: null }
  | { fit: null; unclear: 'bent' | 'faint' | 'unlike a step' | 'outside' }
)

/** Means of the pixels across a place: at each distance outside of the outline, a half pixel apart, where there are any. */
export type Profile = readonly { distance: number; value: number }[]

/** Pixels along the outline, to both sides, whose profiles are taken together. */
export const ALONG = 4
/** Pixels across, to both sides, beyond the motion. */
const ACROSS = 6
/** Softer than this, pixels, the levels lie farther out: it is looked at again, so many times its sigma to both sides. */
const SOFT = 1.5
const SIGMAS_ACROSS = 4
const MOST_ACROSS = 16
/** An outline that turns by more within its stretch has no one normal. */
export const MOST_TURN = 0.25
/** Contrast, of 1, and as many times what the fit leaves. */
export const LEAST_CONTRAST = 0.02
export const LEAST_CONTRAST_TO_REST = 4
/** Standard error of a softness that is called clear, pixels, or as a share of it. */
const MOST_ERROR = 0.25
const MOST_ERROR_SHARE = 0.2
/** A step farther from the outline is another edge. */
const FARTHEST = 5

/** Half of the sides of the square round a place that {@link softnessAt} looks at. */
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
 * How soft the picture is at a place of an outline, where its edge is clear.
 *
 * @param image  in scene-linear light: encoded, a step looks shifted and its two sides unlike
 */
export function softnessAt(image: LumaImage, place: EdgePlace): EdgeMeasure {
  const unclear = (why: NonNullable<EdgeMeasure['unclear']>): EdgeMeasure => ({ place, fit: null, unclear: why })
  if (place.turn > MOST_TURN) return unclear('bent')
  const pixels = pixelsAcross(image, place, ACROSS)
  if (!pixels) return unclear('outside')
  let seen: typeof pixels | null = pixels
  let fit = fitEdge(pixels.distances, pixels.values, place.sweep)
  if (fit && fit.sigma > SOFT) {
    seen = pixelsAcross(image, place, Math.min(MOST_ACROSS, SIGMAS_ACROSS * fit.sigma))
    fit = seen && fitEdge(seen.distances, seen.values, place.sweep)
  }
  if (!fit || !seen) return unclear('unlike a step')
  const contrast = Math.abs(fit.inside - fit.outside)
  if (contrast < LEAST_CONTRAST) return unclear('faint')
  const isSure = fit.sigmaError < Math.max(MOST_ERROR, MOST_ERROR_SHARE * fit.sigma)
  const isNear = Math.abs(fit.place) < FARTHEST && fit.sigma < MOST_ACROSS / 2
  if (!isSure || !isNear || contrast < LEAST_CONTRAST_TO_REST * fit.residual) return unclear('unlike a step')
  return { place, fit, profile: profileOf(seen), unclear: null }
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
 * Values of the pixels whose centres lie beside a place, `half` to both sides of it and its motion, and how far outside of the
 * tangent of the outline each lies; null at the edge of the picture.
 */
export function pixelsAcross(
  image: LumaImage,
  place: EdgePlace,
  half: number,
): { distances: Float64Array; values: Float64Array } | null {
  const { x, y, normalX, normalY, sweep } = place
  const across = half + sweep / 2
  const reach = Math.ceil(Math.hypot(across, ALONG))
  const [left, top] = [Math.floor(x) - reach, Math.floor(y) - reach]
  if (left < image.left || top < image.top) return null
  if (left + 2 * reach >= image.left + image.width || top + 2 * reach >= image.top + image.height) return null
  const distances: number[] = []
  const values: number[] = []
  for (let py = top; py <= top + 2 * reach; py++) {
    for (let px = left; px <= left + 2 * reach; px++) {
      const [dx, dy] = [px + 0.5 - x, py + 0.5 - y]
      const distance = dx * normalX + dy * normalY
      const along = dy * normalX - dx * normalY
      if (Math.abs(distance) > across || Math.abs(along) > ALONG) continue
      distances.push(distance)
      values.push(image.data[(py - image.top) * image.width + px - image.left]!)
    }
  }
  return { distances: Float64Array.from(distances), values: Float64Array.from(values) }
}

/** The middle of what many places say, and how far half of them lie from it. */
export interface Softness {
  sigma: number
  sigmaSpread: number
  place: number
  clear: number
  all: number
}

/** Median over the clear places; null where there are fewer than three. */
export function softnessOf(measures: readonly EdgeMeasure[]): Softness | null {
  const fits = measures.flatMap(({ fit }) => fit ?? [])
  if (fits.length < 3) return null
  const sigma = median(fits.map((fit) => fit.sigma))
  return {
    sigma,
    sigmaSpread: median(fits.map((fit) => Math.abs(fit.sigma - sigma))),
    place: median(fits.map(({ place }) => place)),
    clear: fits.length,
    all: measures.length,
  }
}
