import { solveSymmetric } from '../geometry'
import type { AcrossPixels } from './acrossPixels'
import { alikeIn } from './alikePixels'
import { tablesOf, TABLE_STEP } from './spreadTables'

/** Spread of the slope of a side, as a share of the contrast over the width that is looked at. */
const USUAL_SLOPE = 0.5
/** Alpha between which a pixel is of one side. */
const ONE_SIDE = 0.2
/** No picture is as clean, as a share of the contrast: the model is none of the lens. */
const CLEANEST = 0.004
/** Pixels as far outside as that, pixels, are taken together. */
const BIN = 0.1
/** Tukey's bound, in spreads. */
const FARTHEST = 4.685
/** Levels and slopes of both sides. */
const UNKNOWNS = 4

/** A step with sides that slope, fitted for one softness and place after the other. */
export class StepModel {
  /** Levels inside and outside at the step, and their slopes over `half`, of the last one that was tried. */
  readonly levels = new Float64Array(UNKNOWNS)
  /** Of the pixels inside and outside. */
  spreads: [number, number] = [1, 1]
  /** Pixels beside one another that say the same: as many as count for one. */
  alike = 1
  rejected = 0
  private readonly weights: Float64Array
  private together: Together
  private readonly tables: readonly Float64Array[]
  private readonly from: number
  private readonly matrix = new Float64Array(UNKNOWNS * UNKNOWNS)
  private readonly right = new Float64Array(UNKNOWNS)

  constructor(
    private readonly pixels: AcrossPixels,
    box: number,
    private readonly half: number,
    private readonly contrast: number,
  ) {
    this.weights = new Float64Array(pixels.distances.length).fill(1 / (0.1 * contrast) ** 2)
    this.together = takenTogether(pixels, this.weights)
    const { from, tables } = tablesOf(box, half)
    this.from = from
    this.tables = tables
  }

  /** Weighted squares that are left by the best levels and slopes. */
  cost(sigma: number, place: number): number {
    const { matrix, right, levels, half, from } = this
    const { distances, weights, values, squares: all } = this.together
    const table = this.tables[sigma]!
    // Sums over products of both shares, of 1, the way along and its square: plain numbers cost less than a matrix's elements.
    let [rr, rs, ss, rra, rsa, ssa, rraa, rsaa, ssaa] = [0, 0, 0, 0, 0, 0, 0, 0, 0]
    let [r, s, ra, sa] = [0, 0, 0, 0]
    for (let n = 0; n < distances.length; n++) {
      const x = distances[n]! - place
      const at = (x - from) / TABLE_STEP
      const i = Math.floor(at)
      const share = table[i]! + (table[i + 1]! - table[i]!) * (at - i)
      const rest = 1 - share
      const along = x / half
      const weight = weights[n]!
      const [restRest, restShare, shareShare] = [weight * rest * rest, weight * rest * share, weight * share * share]
      rr += restRest
      rs += restShare
      ss += shareShare
      rra += restRest * along
      rsa += restShare * along
      ssa += shareShare * along
      rraa += restRest * along * along
      rsaa += restShare * along * along
      ssaa += shareShare * along * along
      const value = values[n]!
      r += rest * value
      s += share * value
      ra += rest * along * value
      sa += share * along * value
    }
    const slope = this.alike / (USUAL_SLOPE * this.contrast) ** 2
    // The lower triangle: inside, outside, and the slopes of both.
    matrix[0] = rr + 1e-9
    matrix[4] = rs
    matrix[5] = ss + 1e-9
    matrix[8] = rra
    matrix[9] = rsa
    matrix[10] = rraa + slope
    matrix[12] = rsa
    matrix[13] = ssa
    matrix[14] = rsaa
    matrix[15] = ssaa + slope
    right[0] = r
    right[1] = s
    right[2] = ra
    right[3] = sa
    let squares = all
    levels.set(right)
    if (!solveSymmetric(matrix, levels, UNKNOWNS)) return squares
    for (let i = 0; i < UNKNOWNS; i++) squares -= right[i]! * levels[i]!
    return squares
  }

  /** Weights anew: by the spread of each side about its level, and none for what is far off. */
  reweigh(sigma: number, place: number) {
    this.cost(sigma, place)
    const { weights, levels, half, from, contrast } = this
    const { distances, values } = this.pixels
    const table = this.tables[sigma]!
    const count = distances.length
    const shares = new Float64Array(count)
    const rests = new Float64Array(count)
    const sides: [number[], number[]] = [[], []]
    for (let n = 0; n < count; n++) {
      const x = distances[n]! - place
      const i = Math.round((x - from) / TABLE_STEP)
      const share = (shares[n] = table[i]!)
      const along = x / half
      rests[n] =
        values[n]! - (1 - share) * (levels[0]! + levels[2]! * along) - share * (levels[1]! + levels[3]! * along)
      if (share < ONE_SIDE) sides[0].push(Math.abs(rests[n]!))
      else if (share > 1 - ONE_SIDE) sides[1].push(Math.abs(rests[n]!))
    }
    const spreadOf = (side: number[]) => Math.max(CLEANEST * contrast, 1e-4, side.length ? 1.4826 * side.sort((a, b) => a - b)[side.length >> 1]! : 0) // prettier-ignore
    this.spreads = [spreadOf(sides[0]), spreadOf(sides[1])]
    const [own, others] = this.spreads
    this.rejected = 0
    for (let n = 0; n < count; n++) {
      const share = shares[n]!
      const variance = ((1 - share) * own) ** 2 + (share * others) ** 2
      const off = Math.abs(rests[n]!) / Math.sqrt(variance)
      if (Math.abs(rests[n]!) > Math.abs(levels[0]! - levels[1]!)) this.rejected++
      weights[n] = off < FARTHEST ? (1 - (off / FARTHEST) ** 2) ** 2 / variance : 0
    }
    this.together = takenTogether(this.pixels, weights)
    this.alike = alikeIn(this.pixels, rests, weights)
  }
}

/** Pixels that lie as far outside, as one; those without weight are left out. */
interface Together {
  /** Mean distance of each. */
  distances: Float64Array
  /** Sum of the weights of each. */
  weights: Float64Array
  /** Sum of the weighted values of each. */
  values: Float64Array
  /** Sum of the weighted squares of all values. */
  squares: number
}

/** A model that knows a pixel's distance alone asks nothing else of them. */
function takenTogether({ distances, values }: AcrossPixels, weights: Float64Array): Together {
  let [nearest, farthest, squares] = [Infinity, -Infinity, 0]
  for (const distance of distances) {
    if (distance < nearest) nearest = distance
    if (distance > farthest) farthest = distance
  }
  const count = Math.floor((farthest - nearest) / BIN) + 1
  const means = new Float64Array(count)
  const sums = new Float64Array(count)
  const products = new Float64Array(count)
  for (let n = 0; n < distances.length; n++) {
    const bin = Math.floor((distances[n]! - nearest) / BIN)
    const weight = weights[n]!
    means[bin]! += weight * distances[n]!
    sums[bin]! += weight
    products[bin]! += weight * values[n]!
    squares += weight * values[n]! ** 2
  }
  let kept = 0
  for (let bin = 0; bin < count; bin++) {
    if (sums[bin] === 0) continue
    means[kept] = means[bin]! / sums[bin]!
    products[kept] = products[bin]!
    sums[kept++] = sums[bin]!
  }
  return {
    distances: means.subarray(0, kept),
    weights: sums.subarray(0, kept),
    values: products.subarray(0, kept),
    squares,
  }
}
