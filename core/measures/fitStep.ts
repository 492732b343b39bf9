import { solveSymmetric } from '../geometry'
import { tukeyBiweight } from '../robust'

/** Where a step lies, pixels along the normal, positive outside; its levels, and what the fit leaves, root mean square. */
export interface StepFit {
  place: number
  inside: number
  outside: number
  residual: number
}

/** A step from 0 to 1 at the origin as it is seen at x, given one number of how it is blurred; and the derivatives by place and by that number. */
export type Spread = (x: number, free: number) => readonly [value: number, byPlace: number, byFree: number]

const STEPS = 40
/** Of the fit, with weights by what the one before has left. */
const ROUNDS = 4

/**
 * A blurred step through values of pixels, both levels, its place and one number of its blur free; least
 * squares by Levenberg and Marquardt (Press et al., Numerical Recipes, section 15.5, from memory), with Tukey's weights.
 *
 * @param distances  of the pixels' centres from the outline
 * @param start      of the free number, and the least that it can be
 * @returns          null where the step cannot be told from its surroundings
 */
export function fitStep(
  distances: Float64Array,
  values: Float64Array,
  spread: Spread,
  start: number,
  least: number,
): (StepFit & { free: number; freeError: number }) | null {
  const count = distances.length
  if (count < 8) return null
  const reach = distances.reduce((most, d) => Math.max(most, Math.abs(d)), 0)
  // Outside level, inside level, place, the free number.
  let now = [meanBeyond(distances, values, 0.6 * reach, 1), meanBeyond(distances, values, 0.6 * reach, -1), 0, start]
  if (now.some(Number.isNaN)) return null
  const weights = new Float64Array(count).fill(1)
  let [cost, system] = normalEquations(distances, values, weights, now, spread)
  for (let round = 0; round < ROUNDS; round++) {
    if (round > 0) {
      const scale = reweighted(distances, values, weights, now, spread)
      if (scale === 0) break
      ;[cost, system] = normalEquations(distances, values, weights, now, spread)
    }
    let damping = 1e-3
    for (let step = 0; step < STEPS; step++) {
      const damped = system.matrix.map((value, i) => (i % 5 === 0 ? value * (1 + damping) + 1e-12 : value))
      const change = system.right.slice()
      if (!solveSymmetric(damped, change, 4)) return null
      const next = now.map((value, i) => value + change[i]!)
      next[3] = Math.max(least, Math.min(2 * reach, next[3]!))
      next[2] = Math.max(-reach, Math.min(reach, next[2]!))
      const [nextCost, nextSystem] = normalEquations(distances, values, weights, next, spread)
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
  const [outside, inside, place, free] = now as [number, number, number, number]
  const variance = cost / Math.max(1, weights.reduce((sum, w) => sum + w, 0) - 4)
  const column = Float64Array.of(0, 0, 0, 1)
  const isSolved = solveSymmetric(system.matrix.slice(), column, 4)
  const freeError = isSolved ? Math.sqrt(variance * column[3]!) : Infinity
  return { free, freeError, place, inside, outside, residual: Math.sqrt(variance) }
}

/** Half of the squared residuals' matrix and right side, for the change of the four unknowns. */
function normalEquations(
  distances: Float64Array,
  values: Float64Array,
  weights: Float64Array,
  at: readonly number[],
  spread: Spread,
) {
  const [outside, inside, place, free] = at as [number, number, number, number]
  const matrix = new Float64Array(16)
  const right = new Float64Array(4)
  let cost = 0
  for (let n = 0; n < distances.length; n++) {
    const [share, byPlace, byFree] = spread(distances[n]! - place, free)
    const rise = outside - inside
    const gradient = [share, 1 - share, -rise * byPlace, rise * byFree]
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
  spread: Spread,
): number {
  const [outside, inside, place, free] = at as [number, number, number, number]
  const left = distances.map((d, n) => Math.abs(values[n]! - inside - (outside - inside) * spread(d - place, free)[0]))
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
