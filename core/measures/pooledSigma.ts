import { PLACES, RATIO, SIGMAS } from './edgeGrid'
import { PIXEL_VARIANCE } from './fitEdge'
import { USUAL_OFF, type EdgeEvidence } from './edgeEvidence'

/** Where a step is thought to lie, pixels outside of the outline, and how sure that is. */
export interface PlaceGuess {
  at: number
  spread: number
}

export const ABOUT_THE_OUTLINE: PlaceGuess = { at: 0, spread: USUAL_OFF }

/** How much worse than the best one each softness is, wherever its step lies. */
export function costOfSigmas({ cost }: EdgeEvidence, guess: PlaceGuess): Float64Array {
  const out = Float64Array.from(SIGMAS, (_, i) => costOfBestPlace(cost, i, guess))
  const least = Math.min(...out)
  return out.map((value) => value - least)
}

/** Of the place that fits a softness best, between those that were tried by a parabola. */
function costOfBestPlace(cost: Float32Array, sigma: number, { at, spread }: PlaceGuess): number {
  const count = PLACES.length
  const costAt = (p: number) => cost[sigma * count + p]! + ((PLACES[p]! - at) / spread) ** 2
  let best = 0
  for (let p = 1; p < count; p++) if (costAt(p) < costAt(best)) best = p
  const [before, after] = [best > 0 ? costAt(best - 1) : Infinity, best < count - 1 ? costAt(best + 1) : Infinity]
  // At the end of what was tried there is nothing to lay it through.
  return Number.isFinite(before + after) ? parabola(before, costAt(best), after).value : costAt(best)
}

/** Beyond that many a place says something else, and is not heard. */
const MOST_COST = 9

/**
 * The softness that fits all of them best, pixels without the pixel's own share, with its standard error.
 *
 * @param costs  of each place, see {@link costOfSigmas}
 */
export function pooledSigma(costs: readonly Float64Array[]): { sigma: number; sigmaError: number } {
  const last = SIGMAS.length - 1
  const total = (i: number) => costs.reduce((sum, cost) => sum + Math.min(MOST_COST, cost[i]!), 0)
  let best = 0
  for (let i = 1, least = total(0); i <= last; i++) {
    const value = total(i)
    if (value < least) [least, best] = [value, i]
  }
  const agrees = (cost: Float64Array) => [best - 1, best, best + 1].some((i) => i >= 0 && i <= last && cost[i]! < MOST_COST) // prettier-ignore
  const heard = costs.filter(agrees)
  const sum = (i: number) => heard.reduce((all, cost) => all + cost[i]!, 0)
  // At either end the neighbour on the other side is taken to be as bad.
  const [before, here, after] = [sum(best > 0 ? best - 1 : 1), sum(best), sum(best < last ? best + 1 : last - 1)]
  const { off, curvature } = parabola(before, here, after)
  const seen = SIGMAS[best]! * RATIO ** off
  const sigma = Math.sqrt(Math.max(0, seen * seen - PIXEL_VARIANCE))
  // A cost of 1 more is one standard error.
  const error = (seen * Math.log(RATIO)) / Math.sqrt(Math.max(curvature, 1e-9))
  return { sigma, sigmaError: (error * seen) / Math.max(sigma, SIGMAS[0]!) }
}

/** Through three values a step apart: where its lowest point lies from the middle one, that, and its curvature. */
function parabola(before: number, here: number, after: number) {
  const curvature = (before + after) / 2 - here
  if (curvature <= 0) return { off: 0, value: here, curvature: 0 }
  const off = Math.min(0.5, Math.max(-0.5, (before - after) / (4 * curvature)))
  return { off, value: here - curvature * off * off, curvature }
}
