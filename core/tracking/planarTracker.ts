import {
  boundsOf,
  invert,
  movedPolygon,
  multiply,
  scaledAt,
  signedArea,
  translation,
  type Box,
  type Matrix3,
} from '../geometry'
import { pyramidOf, type LumaImage, type PyramidLevel } from '../image'
import { regionFrameOf, requireTexture, templateLevel, type RegionFrame, type TemplateLevel } from './planarTemplate'
import { correlation } from './correlation'
import { bicubicAt } from './sampling'
import { likelyShifts } from './shiftSearch'
import { solveSymmetric } from './solveSymmetric'

/** position: moves; similarity: moves, turns and scales; affine: shears, too; perspective: any flat surface. */
export type PlanarModel = 'position' | 'similarity' | 'affine' | 'perspective'

export interface Alignment {
  /** Maps plate positions on the reference frame to plate positions on this frame. */
  matrix: Matrix3
  /** Correlation 0..1 of the kept pixels with the reference. */
  match: number
  /** Share of the region's pixels that agreed with the motion, 0..1. */
  kept: number
}

interface Exposure {
  gain: number
  bias: number
}

/** Motion parameters that each model solves for. */
const PARAMETERS: Record<PlanarModel, number> = { position: 2, similarity: 4, affine: 6, perspective: 8 }

/** Models tried one after the other on the coarsest level: few parameters find the place, more then fit the shape. */
const STEPS_TO: Record<PlanarModel, readonly PlanarModel[]> = {
  position: ['position'],
  similarity: ['position', 'similarity'],
  affine: ['position', 'similarity', 'affine'],
  perspective: ['position', 'similarity', 'affine', 'perspective'],
}
/** Pixels of the coarsest level to each side in which the region is looked for before it is aligned. */
const SEARCH_REACH = 4
/** Gain of match times kept pixels that makes another start win over the predicted one. */
const CLEARLY_BETTER = 0.02
const MOST_ITERATIONS = 14
/** Update of the normalised parameters, in pixels of the level, below which iterating stops. */
const SMALLEST_STEP = 0.005
/** Tukey's constant: 95 % efficiency under Gaussian noise (Holland & Welsch 1977). */
const TUKEY = 4.685
/**
 * An edge that is blurred a little more or less than on the reference differs by about this many pixels times its
 * steepness. Without the allowance the weights would drop just the edges that hold the position.
 */
const EDGE_SLACK_PIXELS = 0.15
/** Grain and rounding below this (of 1) are never taken for occlusion. */
const SMALLEST_NOISE = 1.5 / 255

/**
 * Follows a flat region by direct alignment to its reference frame, coarse to fine.
 *
 * Inverse compositional alignment (Baker & Matthews, "Lucas-Kanade 20 Years On", IJCV 2004, section 3.2) with gain and
 * bias, and robust weights renewed in each iteration (iteratively reweighted, section 5 of part 2). Every frame is
 * aligned to the reference itself, so errors do not add up from frame to frame.
 */
export class PlanarTracker {
  readonly frame: RegionFrame
  private readonly levels: TemplateLevel[]
  private readonly toPlate: Matrix3
  private readonly toRegion: Matrix3
  private readonly residual: Float32Array
  private readonly scratch: Float32Array

  /**
   * @param reference  picture around the region on the reference frame, with a few pixels to spare
   * @param region     closed polygon in plate pixels
   * @param leaveOut   closed polygons in plate pixels that are not looked at
   * @throws TrackingError `region-too-small`, `no-texture`
   */
  constructor(
    reference: LumaImage,
    region: ArrayLike<number>,
    leaveOut: readonly ArrayLike<number>[],
    private readonly model: PlanarModel,
  ) {
    this.frame = regionFrameOf(region)
    const { centreX, centreY, halfSize } = this.frame
    this.toPlate = Float64Array.of(halfSize, 0, centreX, 0, halfSize, centreY, 0, 0, 1)
    this.toRegion = invert(this.toPlate)
    const pyramid = pyramidOf(reference, levelsFor(region))
    this.levels = pyramid.map((image) => templateLevel(image, region, leaveOut, this.frame))
    requireTexture(this.levels[0]!, this.frame)
    this.residual = new Float32Array(this.levels[0]!.count)
    this.scratch = new Float32Array(this.levels[0]!.count)
  }

  /** Pyramid levels a picture handed to {@link align} will be cut into. */
  get levelCount(): number {
    return this.levels.length
  }

  /**
   * Aligns one frame.
   *
   * @param picture     stretch of the frame that holds the region where it is expected
   * @param prediction  where the motion is expected to be, reference to this frame
   */
  align(picture: LumaImage, prediction: Matrix3): Alignment {
    const pyramid = pyramidOf(picture, this.levels.length)
    // H in region coordinates: maps normalised reference points to plate pixels.
    const h = multiply(prediction, this.toPlate)
    const coarsest = this.levels.length - 1
    let best = this.alignCoarsest(pyramid[coarsest]!, h)
    // Rows of windows look alike: other starts are tried where that costs little.
    for (const [x, y] of likelyShifts(this.levels[coarsest]!, pyramid[coarsest]!, h, SEARCH_REACH)) {
      if (x === 0 && y === 0) continue
      const { scale } = this.levels[coarsest]!
      const other = this.alignCoarsest(pyramid[coarsest]!, multiply(translation(x * scale, y * scale), h))
      if (other.match * other.kept > best.match * best.kept + CLEARLY_BETTER) best = other
    }
    for (let level = coarsest - 1; level >= 0; level--) {
      best = this.alignLevel(this.levels[level]!, pyramid[level]!, best.h, best.exposure, this.model)
    }
    const matrix = scaledAt(multiply(best.h, this.toRegion), this.frame.centreX, this.frame.centreY)
    return { matrix, match: best.match, kept: best.kept }
  }

  private alignCoarsest(image: PyramidLevel, start: Matrix3) {
    const template = this.levels.at(-1)!
    const exposure = this.roughExposure(template, image, start)
    let result = { h: start, exposure, match: 0, kept: 0 }
    for (const model of STEPS_TO[this.model]) {
      const next = this.alignLevel(template, image, result.h, result.exposure, model)
      if (!isPlausible(start, next.h)) break
      result = next
    }
    return result
  }

  /**
   * Gain and bias from the medians and the spreads of both pictures: good enough for the first robust weights, which an
   * unknown exposure would otherwise spoil.
   */
  private roughExposure(template: TemplateLevel, image: PyramidLevel, h: Matrix3): Exposure {
    const seen = this.sampleResiduals(template, image, h, { gain: 0, bias: 0 })
    if (seen.count < 12) return { gain: 1, bias: 0 }
    const now = new Float32Array(seen.count)
    let used = 0
    for (let n = 0; n < template.count; n++) if (!Number.isNaN(this.residual[n])) now[used++] = this.residual[n]!
    const [middleNow, spreadNow] = medianAndSpread(now)
    const [middleThen, spreadThen] = medianAndSpread(template.value.slice())
    const gain = spreadThen > 0 ? Math.min(3, Math.max(0.3, spreadNow / spreadThen)) : 1
    return { gain, bias: middleNow - gain * middleThen }
  }

  private alignLevel(
    template: TemplateLevel,
    image: PyramidLevel,
    start: Matrix3,
    exposure: Exposure,
    model: PlanarModel,
  ) {
    let h = start
    const size = PARAMETERS[model] + 2
    const normal = new Float64Array(size * size)
    const right = new Float64Array(size)
    let { gain, bias } = exposure
    const pixelsPerUnit = this.frame.halfSize / template.scale
    for (let iteration = 0; iteration < MOST_ITERATIONS; iteration++) {
      const sampled = this.sampleResiduals(template, image, h, { gain, bias })
      if (sampled.count < Math.max(12, template.count * 0.1)) return { h, exposure, match: 0, kept: 0 }
      this.accumulate(template, model, gain, sampled.noise, normal, right)
      if (!solveSymmetric(normal, right, size)) return { h, exposure, match: 0, kept: 0 }
      h = multiply(h, invert(stepOf(model, right)))
      gain += right[size - 2]!
      bias += right[size - 1]!
      let largest = 0
      for (let i = 0; i < size - 2; i++) largest = Math.max(largest, Math.abs(right[i]!))
      if (largest * pixelsPerUnit < SMALLEST_STEP) break
    }
    const { noise } = this.sampleResiduals(template, image, h, { gain, bias })
    return { h, exposure: { gain, bias }, ...this.judge(template, gain, bias, noise) }
  }

  /** Residuals I(H x) - gain T(x) - bias of all samples (NaN outside the picture) and their robust noise. */
  private sampleResiduals(template: TemplateLevel, image: PyramidLevel, h: Matrix3, { gain, bias }: Exposure) {
    const { residual } = this
    const { u, v, value, count, scale } = template
    const [a, b, c, d, e, f, g, k, l] = h as unknown as [
      number, number, number, number, number, number, number, number, number,
    ] // prettier-ignore
    const offsetX = image.left / scale + 0.5
    const offsetY = image.top / scale + 0.5
    const mostX = image.width - 2
    const mostY = image.height - 2
    let used = 0
    for (let n = 0; n < count; n++) {
      const un = u[n]!
      const vn = v[n]!
      const w = (g * un + k * vn + l) * scale
      const x = (a * un + b * vn + c) / w - offsetX
      const y = (d * un + e * vn + f) / w - offsetY
      if (!(x >= 1 && y >= 1 && x < mostX && y < mostY)) {
        residual[n] = NaN
        continue
      }
      const r = bicubicAt(image, x, y) - gain * value[n]! - bias
      residual[n] = r
      this.scratch[used++] = r < 0 ? -r : r
    }
    return { count: used, noise: Math.max(SMALLEST_NOISE, 1.4826 * medianOf(this.scratch, used)) }
  }

  /** Weighted normal equations of the motion parameters, gain and bias. */
  private accumulate(
    template: TemplateLevel,
    model: PlanarModel,
    gain: number,
    noise: number,
    normal: Float64Array,
    right: Float64Array,
  ) {
    const size = PARAMETERS[model] + 2
    normal.fill(0)
    right.fill(0)
    const { residual } = this
    const { u: us, v: vs, gradientU, gradientV, steepness, value, count } = template
    const row = new Float64Array(size)
    for (let n = 0; n < count; n++) {
      const r = residual[n]!
      const ratio = r / (TUKEY * (noise + EDGE_SLACK_PIXELS * steepness[n]!))
      if (!(ratio > -1 && ratio < 1)) continue
      const root = 1 - ratio * ratio
      const weight = root * root
      const gu = gradientU[n]! * gain
      const gv = gradientV[n]! * gain
      if (model === 'perspective') addPerspectiveSample(normal, right, weight, r, us[n]!, vs[n]!, gu, gv, value[n]!)
      else {
        steepestDescent(model, us[n]!, vs[n]!, gu, gv, row)
        row[size - 2] = value[n]!
        row[size - 1] = 1
        for (let i = 0; i < size; i++) {
          const wi = weight * row[i]!
          right[i]! += wi * r
          for (let j = 0; j <= i; j++) normal[i * size + j]! += wi * row[j]!
        }
      }
    }
    // A trace of damping keeps directions without texture still instead of letting them run away.
    for (let i = 0; i < size; i++) normal[i * size + i]! *= 1 + 1e-7
  }

  private judge(template: TemplateLevel, gain: number, bias: number, noise: number) {
    let count = 0
    let [st, si, stt, sii, sti] = [0, 0, 0, 0, 0]
    for (let n = 0; n < template.count; n++) {
      const r = this.residual[n]!
      if (!(Math.abs(r) < TUKEY * (noise + EDGE_SLACK_PIXELS * template.steepness[n]!))) continue
      const t = template.value[n]!
      const i = r + gain * t + bias
      count++
      st += t
      si += i
      stt += t * t
      sii += i * i
      sti += t * i
    }
    if (count < 12) return { match: 0, kept: 0 }
    return { match: Math.max(0, correlation(count, st, si, stt, sii, sti)), kept: count / template.count }
  }
}

/** How one sample's value changes with each parameter of the models with few of them, at the start of `row`. */
function steepestDescent(
  model: Exclude<PlanarModel, 'perspective'>,
  u: number,
  v: number,
  gu: number,
  gv: number,
  row: Float64Array,
) {
  row[0] = gu
  row[1] = gv
  if (model === 'similarity') {
    row[2] = gu * u + gv * v
    row[3] = gv * u - gu * v
  } else if (model === 'affine') {
    row[2] = gu * u
    row[3] = gu * v
    row[4] = gv * u
    row[5] = gv * v
  }
}

/** A surface does not turn over, nor change its size by half, from one look to the next: such a motion has run away. */
function isPlausible(before: Matrix3, after: Matrix3): boolean {
  const ratio = areaOfRegion(after) / areaOfRegion(before)
  return ratio > 0.4 && ratio < 2.5
}

const REGION_SQUARE = [-1, -1, 1, -1, 1, 1, -1, 1] as const

/** Signed area of the square round the region, in the picture. */
const areaOfRegion = (h: Matrix3) => signedArea(movedPolygon(REGION_SQUARE, h))

/** The solved parameters as a map of region coordinates. */
function stepOf(model: PlanarModel, p: Float64Array): Matrix3 {
  if (model === 'position') return Float64Array.of(1, 0, p[0]!, 0, 1, p[1]!, 0, 0, 1)
  if (model === 'similarity') return Float64Array.of(1 + p[2]!, -p[3]!, p[0]!, p[3]!, 1 + p[2]!, p[1]!, 0, 0, 1)
  if (model === 'affine') return Float64Array.of(1 + p[2]!, p[3]!, p[0]!, p[4]!, 1 + p[5]!, p[1]!, 0, 0, 1)
  return Float64Array.of(1 + p[0]!, p[1]!, p[2]!, p[3]!, 1 + p[4]!, p[5]!, p[6]!, p[7]!, 1)
}

/**
 * Adds one sample to the lower triangle of the ten normal equations of the perspective model. Written out: the loop over
 * rows and columns costs three times as long, and this is where alignment spends its time.
 */
function addPerspectiveSample(
  normal: Float64Array,
  right: Float64Array,
  weight: number,
  residual: number,
  u: number,
  v: number,
  gu: number,
  gv: number,
  value: number,
) {
  const radial = gu * u + gv * v
  const a0 = gu * u
  const a1 = gu * v
  const a2 = gu
  const a3 = gv * u
  const a4 = gv * v
  const a5 = gv
  const a6 = -radial * u
  const a7 = -radial * v
  const a8 = value
  const w0 = weight * a0
  const w1 = weight * a1
  const w2 = weight * a2
  const w3 = weight * a3
  const w4 = weight * a4
  const w5 = weight * a5
  const w6 = weight * a6
  const w7 = weight * a7
  const w8 = weight * a8
  const w9 = weight
  right[0]! += w0 * residual
  normal[0]! += w0 * a0
  right[1]! += w1 * residual
  normal[10]! += w1 * a0
  normal[11]! += w1 * a1
  right[2]! += w2 * residual
  normal[20]! += w2 * a0
  normal[21]! += w2 * a1
  normal[22]! += w2 * a2
  right[3]! += w3 * residual
  normal[30]! += w3 * a0
  normal[31]! += w3 * a1
  normal[32]! += w3 * a2
  normal[33]! += w3 * a3
  right[4]! += w4 * residual
  normal[40]! += w4 * a0
  normal[41]! += w4 * a1
  normal[42]! += w4 * a2
  normal[43]! += w4 * a3
  normal[44]! += w4 * a4
  right[5]! += w5 * residual
  normal[50]! += w5 * a0
  normal[51]! += w5 * a1
  normal[52]! += w5 * a2
  normal[53]! += w5 * a3
  normal[54]! += w5 * a4
  normal[55]! += w5 * a5
  right[6]! += w6 * residual
  normal[60]! += w6 * a0
  normal[61]! += w6 * a1
  normal[62]! += w6 * a2
  normal[63]! += w6 * a3
  normal[64]! += w6 * a4
  normal[65]! += w6 * a5
  normal[66]! += w6 * a6
  right[7]! += w7 * residual
  normal[70]! += w7 * a0
  normal[71]! += w7 * a1
  normal[72]! += w7 * a2
  normal[73]! += w7 * a3
  normal[74]! += w7 * a4
  normal[75]! += w7 * a5
  normal[76]! += w7 * a6
  normal[77]! += w7 * a7
  right[8]! += w8 * residual
  normal[80]! += w8 * a0
  normal[81]! += w8 * a1
  normal[82]! += w8 * a2
  normal[83]! += w8 * a3
  normal[84]! += w8 * a4
  normal[85]! += w8 * a5
  normal[86]! += w8 * a6
  normal[87]! += w8 * a7
  normal[88]! += w8 * a8
  right[9]! += w9 * residual
  normal[90]! += w9 * a0
  normal[91]! += w9 * a1
  normal[92]! += w9 * a2
  normal[93]! += w9 * a3
  normal[94]! += w9 * a4
  normal[95]! += w9 * a5
  normal[96]! += w9 * a6
  normal[97]! += w9 * a7
  normal[98]! += w9 * a8
  normal[99]! += w9
}

/** As many halvings as leave the smaller side of the region at least 20 pixels, at most four. */
function levelsFor(region: ArrayLike<number>): number {
  const box = boundsOf(region)
  const side = Math.min(box.right - box.left, box.bottom - box.top)
  return Math.max(1, Math.min(5, 1 + Math.floor(Math.log2(side / 20))))
}

/** Median and median absolute deviation; reorders `values`. */
function medianAndSpread(values: Float32Array): [number, number] {
  const middle = medianOf(values, values.length)
  for (let i = 0; i < values.length; i++) values[i] = Math.abs(values[i]! - middle)
  return [middle, medianOf(values, values.length)]
}

/** Median by Hoare's selection; reorders `values`. */
function medianOf(values: Float32Array, count: number): number {
  let low = 0
  let high = count - 1
  const middle = count >> 1
  while (low < high) {
    const pivot = values[(low + high) >> 1]!
    let i = low
    let j = high
    while (i <= j) {
      while (values[i]! < pivot) i++
      while (values[j]! > pivot) j--
      if (i <= j) {
        const swap = values[i]!
        values[i] = values[j]!
        values[j] = swap
        i++
        j--
      }
    }
    if (middle <= j) high = j
    else if (middle >= i) low = i
    else break
  }
  return values[middle]!
}

/** Box of the region under a motion, in plate pixels, with a margin. */
export function movedRegionBox(region: ArrayLike<number>, motion: Matrix3, margin: number): Box {
  const box = boundsOf(movedPolygon(region, motion))
  return {
    left: Math.floor(box.left - margin),
    top: Math.floor(box.top - margin),
    right: Math.ceil(box.right + margin),
    bottom: Math.ceil(box.bottom + margin),
  }
}
