import { median } from '../robust'
import { pooledSigma } from './pooledSigma'
import type { EdgeMeasure } from './softness'

/** Softness and place of the edge at a point of an outline, pixels; `isClear` where the picture showed it near the point itself. */
export interface PointSoftness {
  sigma: number
  place: number
  isClear: boolean
}

/** Clear places that a point needs beside it, on the way to either neighbour. */
const LEAST_PLACES = 2
/** Standard error of a softness that is called clear, pixels, or as a share of it. */
const MOST_ERROR = 0.25
const MOST_ERROR_SHARE = 0.2

/**
 * How soft the edge is at each point of an outline: what the clear places nearer to it than to its neighbours say together; where there are too few, what lies between the
 * clear points before and after it.
 *
 * @param measures  along one outline
 * @param count     points of the outline
 * @returns         null where no point has clear places
 */
export function softnessAtPoints(measures: readonly EdgeMeasure[], count: number): PointSoftness[] | null {
  const own: ({ sigma: number; place: number } | null)[] = Array.from({ length: count }, (_, point) => {
    const near = measures.flatMap(({ fit, place }) => (fit && Math.round(place.at) % count === point ? [fit] : []))
    if (near.length < LEAST_PLACES) return null
    const { sigma, sigmaError } = pooledSigma(near.map(({ costs }) => costs))
    if (sigmaError > Math.max(MOST_ERROR, MOST_ERROR_SHARE * sigma)) return null
    return { sigma, place: median(near.map(({ place }) => place)) }
  })
  if (own.every((one) => one === null)) return null
  return own.map((one, point) => {
    if (one) return { ...one, isClear: true }
    const [before, after] = [clearFrom(own, point, -1), clearFrom(own, point, 1)]
    const share = before.steps / (before.steps + after.steps)
    const between = (a: number, b: number) => a + (b - a) * share
    return {
      sigma: between(before.sigma, after.sigma),
      place: between(before.place, after.place),
      isClear: false,
    }
  })
}

/** The next clear point one way round, and how many steps it is away. */
function clearFrom(own: readonly ({ sigma: number; place: number } | null)[], from: number, way: 1 | -1) {
  for (let steps = 1; ; steps++) {
    const found = own[(((from + way * steps) % own.length) + own.length) % own.length]
    if (found) return { ...found, steps }
  }
}
