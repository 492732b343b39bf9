import type { AcrossPixels } from './acrossPixels'
import { PLACES, SIGMAS } from './edgeGrid'
import { StepModel } from './stepModel'

/**
 * What the pixels across a place say for every softness that an edge may have, so that places can be heard together. Texture on either side hides how soft one
 * place is, but not how soft a hundred are.
 */
export interface EdgeEvidence {
  /** How much worse than the best one each pair of softness and place is, chi squared: {@link SIGMAS} rows of {@link PLACES}. */
  cost: Float32Array
  /** Where the best one lies, pixels outside of the outline. */
  place: number
  /** Levels beside the step, and the smaller and the larger spread of the pixels about them. */
  inside: number
  outside: number
  calmer: number
  rougher: number
  /** Share of the pixels that are farther off than the step is high. */
  rejected: number
}

const ROUNDS = 3
/** Spread of a place about the outline while nothing else is known of it, pixels. */
export const USUAL_OFF = 1.5
/** How far from the best place others are tried, pixels: those beside it are no farther off. */
const NEAR = 2

/**
 * Tries all softnesses and places of a step * box * Gaussian through values of pixels. Each side has a level and a slope of its own, and a spread of its own about them, from which each pixel has
 * its weight: where one side is calm it alone can tell.
 *
 * @param box        length of the motion within the shutter
 * @param half       pixels that are looked at to both sides
 * @returns          null where one side has too few pixels
 */
export function edgeEvidence(pixels: AcrossPixels, box: number, half: number): EdgeEvidence | null {
  const { distances, values } = pixels
  const far = half / 2
  const [within, beyond] = [meanOf(distances, values, -far), meanOf(distances, values, far)]
  if (within === null || beyond === null) return null
  const contrast = Math.max(1e-4, Math.abs(within - beyond))
  const model = new StepModel(pixels, box, half, contrast)
  let [softest, at] = [0, 0]
  /** The best within some steps of the best so far. */
  const search = (sigmas: number, sigmaStep: number, places: number, placeStep: number) => {
    let least = Infinity
    const [middle, about] = [softest, Math.round((at - PLACES[0]!) * 2)]
    for (let i = Math.max(0, middle - sigmas); i <= Math.min(SIGMAS.length - 1, middle + sigmas); i += sigmaStep) {
      for (let p = Math.max(0, about - places); p <= Math.min(PLACES.length - 1, about + places); p += placeStep) {
        const cost = model.cost(i, PLACES[p]!) + model.alike * (PLACES[p]! / USUAL_OFF) ** 2
        if (cost < least) [least, softest, at] = [cost, i, PLACES[p]!]
      }
    }
  }
  search(SIGMAS.length, 3, PLACES.length, 2)
  for (let round = 0; round < ROUNDS; round++) {
    search(3, 1, 2, 1)
    model.reweigh(softest, at)
  }
  search(3, 1, 2, 1)
  const cost = new Float32Array(SIGMAS.length * PLACES.length).fill(Infinity)
  let best = Infinity
  const middle = at
  for (let i = 0; i < SIGMAS.length; i++) {
    for (let p = 0; p < PLACES.length; p++) {
      if (Math.abs(PLACES[p]! - middle) > NEAR) continue
      const value = model.cost(i, PLACES[p]!) / model.alike
      cost[i * PLACES.length + p] = value
      if (value < best) [best, softest, at] = [value, i, PLACES[p]!]
    }
  }
  for (let i = 0; i < cost.length; i++) cost[i]! -= best
  const place = lowestNear((near) => model.cost(softest, near), at)
  model.cost(softest, place)
  const { spreads, levels } = model
  return {
    cost,
    inside: levels[0]!,
    outside: levels[1]!,
    calmer: Math.min(...spreads),
    rougher: Math.max(...spreads),
    rejected: model.rejected / distances.length,
    place,
  }
}

/** Lowest place of a function within half a pixel, by thirds. */
function lowestNear(cost: (place: number) => number, about: number): number {
  let [low, high] = [about - 0.5, about + 0.5]
  while (high - low > 0.005) {
    const [a, b] = [low + (high - low) / 3, high - (high - low) / 3]
    if (cost(a) < cost(b)) high = b
    else low = a
  }
  return (low + high) / 2
}

/** Mean of the values farther to one side; null where these are few. */
function meanOf(distances: Float64Array, values: Float64Array, beyond: number): number | null {
  let [sum, count] = [0, 0]
  for (let n = 0; n < distances.length; n++) {
    if (beyond < 0 ? distances[n]! > beyond : distances[n]! < beyond) continue
    sum += values[n]!
    count++
  }
  return count < 8 ? null : sum / count
}
