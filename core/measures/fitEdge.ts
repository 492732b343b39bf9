import { solveSymmetric } from '../geometry'
import { tukeyBiweight } from '../robust'
import { edgeSpread } from './edgeSpread'

/** What the pixels across an edge say of it. Distances in pixels along the normal, positive outside. */
export interface EdgeFit {
  /** Softness of the picture without that of the pixel itself and without motion: sigma of a Gaussian. */
  sigma: number
  /** Standard errors of softness and place. */
  sigmaError: number
  placeError: number
  /** Where the step lies. */
  place: number
  /** Levels inside and outside. */
  inside: number
  outside: number
  /** Root mean square of what the fit leaves. */
  residual: number
}

/** Variance that averaging over a square pixel adds along any direction. */
const PIXEL_VARIANCE = 1 / 12
const LEAST_SIGMA = 0.05
const STEPS = 40
/** Of the fit, with weights by what the one before has left. */
const ROUNDS = 4

/**
 * A step * box (`box`: length of the motion within the shutter) * Gaussian through values of pixels, both levels free; least
 * squares by Levenberg and Marquardt (Press et al., Numerical Recipes, section 15.5, from memory). The pixels lie at all distances, as the
 * edge is seldom upright: the idea of ISO 12233's slanted edge.
 *
 * @param distances  of the pixels' centres from the outline
 * @returns          null where the step cannot be told from its surroundings
 */
export function fitEdge(distances: Float64Array, values: Float64Array, box: number): EdgeFit | null {
  const count = distances.length
  if (count < 8) return null
  const reach = distances.reduce((most, d) => Math.max(most, Math.abs(d)), 0)
  // Outside level, inside level, place, sigma.
  let now = [meanBeyond(distances, values, 0.6 * reach, 1), meanBeyond(distances, values, 0.6 * reach, -1), 0, 1.2]
  if (now.some(Number.isNaN)) return null
  const weights = new Float64Array(count).fill(1)
  let [cost, system] = normalEquations(distances, values, weights, now, box)
  for (let round = 0; round < ROUNDS; round++) {
    if (round > 0) {
      const scale = reweighted(distances, values, weights, now, box)
      if (scale === 0) break
      ;[cost, system] = normalEquations(distances, values, weights, now, box)
    }
    let damping = 1e-3
    for (let step = 0; step < STEPS; step++) {
      const damped = system.matrix.map((value, i) => (i % 5 === 0 ? value * (1 + damping) + 1e-12 : value))
      const change = system.right.slice()
      if (!solveSymmetric(damped, change, 4)) return null
      const next = now.map((value, i) => value + change[i]!)
      next[3] = Math.max(LEAST_SIGMA, Math.min(reach, next[3]!))
      next[2] = Math.max(-reach, Math.min(reach, next[2]!))
      const [nextCost, nextSystem] = normalEquations(distances, values, weights, next, box)
      if (nextCost > cost) {
        damping *= 8
        if (damping > 1e8) break
        continue
      }
      const isDone = cost - nextCost < 1e-10 * cost
      ;[now, cost, system] = [next, nextCost, nextSystem]
      damping = Math.max(1e-9, damping / 6)
      if (isDone) break
    }
  }
  const [outside, inside, place, fitted] = now as [number, number, number, number]
  const variance = cost / Math.max(1, weights.reduce((sum, w) => sum + w, 0) - 4)
  const errors = [2, 3].map((i) => {
    const column = new Float64Array(4)
    column[i] = 1
    return solveSymmetric(system.matrix.slice(), column, 4) ? Math.sqrt(variance * column[i]!) : Infinity
  })
  const sigma = Math.sqrt(Math.max(0, fitted * fitted - PIXEL_VARIANCE))
  return {
    sigma,
    // Of what is left when the pixel's own share is taken out.
    sigmaError: (errors[1]! * fitted) / Math.max(sigma, 0.2),
    placeError: errors[0]!,
    place,
    inside,
    outside,
    residual: Math.sqrt(variance),
  }
}

/** Half of the squared residuals' matrix and right side, for the change of the four unknowns. */
function normalEquations(
  distances: Float64Array,
  values: Float64Array,
  weights: Float64Array,
  at: readonly number[],
  box: number,
) {
  const [outside, inside, place, sigma] = at as [number, number, number, number]
  const matrix = new Float64Array(16)
  const right = new Float64Array(4)
  let cost = 0
  for (let n = 0; n < distances.length; n++) {
    const [share, byPlace, bySigma] = edgeSpread(distances[n]! - place, sigma, box)
    const rise = outside - inside
    const gradient = [share, 1 - share, -rise * byPlace, rise * bySigma]
    const left = values[n]! - (inside + rise * share)
    const weight = weights[n]!
    cost += weight * left * left
    for (let i = 0; i < 4; i++) {
      right[i]! += weight * gradient[i]! * left
      for (let j = 0; j < 4; j++) matrix[4 * i + j]! += weight * gradient[i]! * gradient[j]!
    }
  }
  return [cost, { matrix, right }] as const
}

/** Gives each pixel Tukey's weight by what the fit leaves there; returns the scale of that. */
function reweighted(
  distances: Float64Array,
  values: Float64Array,
  weights: Float64Array,
  at: readonly number[],
  box: number,
): number {
  const [outside, inside, place, sigma] = at as [number, number, number, number]
  const left = distances.map((d, n) =>
    Math.abs(values[n]! - inside - (outside - inside) * edgeSpread(d - place, sigma, box)[0]),
  )
  const scale = 1.4826 * left.toSorted()[left.length >> 1]!
  if (scale === 0) return 0
  left.forEach((value, n) => {
    weights[n] = tukeyBiweight(value, scale)
  })
  return scale
}

function meanBeyond(distances: Float64Array, values: Float64Array, least: number, side: 1 | -1): number {
  let [sum, count] = [0, 0]
  distances.forEach((d, i) => {
    if (d * side < least) return
    sum += values[i]!
    count++
  })
  return sum / count
}
