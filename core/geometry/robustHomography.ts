import { tukeyBiweight } from '../robust'
import { homographyFromPoints } from './homographyFromPoints'
import { applyToPoint, type Matrix3 } from './matrix3'

/** Minimal sets that are tried; with 40 % outliers one without any is among them with 0.999999. */
const MOST_TRIALS = 100
const ROUNDS = 8
/** Points are not known better than this, plate pixels. */
const SMALLEST_NOISE = 0.02

/**
 * Homography of points some of which are wrong.
 *
 * Least median of squares over minimal sets (Rousseeuw 1984) gives the start and the noise; then the normalised DLT with
 * Tukey's weights of each point's transfer error, repeated. Up to five points there is nothing to choose from, and all
 * count alike.
 *
 * @param from, to  x0, y0, x1, y1 ... plate pixels; 4 points or more
 * @returns the map, and each point's weight 0..1
 * @throws TrackingError `degenerate-points`
 */
export function robustHomographyFromPoints(
  from: ArrayLike<number>,
  to: ArrayLike<number>,
): { matrix: Matrix3; weights: Float64Array } {
  const count = from.length / 2
  const weights = new Float64Array(count).fill(1)
  if (count <= 5) return { matrix: homographyFromPoints(from, to), weights }
  let { matrix, noise } = leastMedian(from, to, count)
  for (let round = 0; round < ROUNDS; round++) {
    const errors = transferErrors(matrix, from, to)
    for (let i = 0; i < count; i++) weights[i] = tukeyBiweight(errors[i]!, noise)
    if (weights.filter((weight) => weight > 0).length < 4) return { matrix, weights }
    matrix = homographyFromPoints(from, to, weights)
    noise = Math.max(SMALLEST_NOISE, Math.min(noise, noiseOf(transferErrors(matrix, from, to))))
  }
  return { matrix, weights }
}

function leastMedian(from: ArrayLike<number>, to: ArrayLike<number>, count: number) {
  let best: { matrix: Matrix3; noise: number } | null = null
  // The same points give the same answer: chance from a fixed seed (Park & Miller 1988).
  let state = 20_251
  const chance = () => (state = (state * 48_271) % 2_147_483_647) % count
  for (let trial = 0; trial < MOST_TRIALS; trial++) {
    const chosen = new Set<number>()
    while (chosen.size < 4) chosen.add(chance())
    const pick = (list: ArrayLike<number>) => [...chosen].flatMap((i) => [list[2 * i]!, list[2 * i + 1]!])
    try {
      const matrix = homographyFromPoints(pick(from), pick(to))
      const noise = noiseOf(transferErrors(matrix, from, to))
      if (!best || noise < best.noise) best = { matrix, noise }
    } catch {
      // Three of the four on a line: another set.
    }
  }
  return best ?? { matrix: homographyFromPoints(from, to), noise: Infinity }
}

function transferErrors(matrix: Matrix3, from: ArrayLike<number>, to: ArrayLike<number>): Float64Array {
  const place = [0, 0]
  return Float64Array.from({ length: from.length / 2 }, (_, i) => {
    applyToPoint(matrix, from[2 * i]!, from[2 * i + 1]!, place)
    return Math.hypot(place[0]! - to[2 * i]!, place[1]! - to[2 * i + 1]!)
  })
}

/** Standard deviation by the smallest half, four points of which always fit (Rousseeuw & Leroy 1987, section 5.1). */
function noiseOf(errors: Float64Array): number {
  const sorted = errors.slice().sort()
  const rank = Math.min(errors.length - 1, Math.floor((errors.length + 4 + 1) / 2) - 1)
  const noise = 1.4826 * (1 + 5 / Math.max(1, errors.length - 4)) * sorted[rank]!
  return Math.max(SMALLEST_NOISE, noise)
}
