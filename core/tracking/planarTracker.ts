import { applyToPoint, boundsOf, invert, multiply, scaledAt, type Box, type Matrix3 } from '../geometry'
import { pyramidOf, type LumaImage, type PyramidLevel } from '../image'
import { regionFrameOf, requireTexture, templateLevel, type RegionFrame, type TemplateLevel } from './planarTemplate'
import { bicubicAt } from './sampling'
import { solveSymmetric } from './solveSymmetric'

export type PlanarModel = 'position' | 'perspective'

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

/** Motion parameters that a model solves for, out of the eight of a homography. */
const FREE: Record<PlanarModel, readonly number[]> = { position: [2, 5], perspective: [0, 1, 2, 3, 4, 5, 6, 7] }

const MOST_ITERATIONS = 20
/** Update of the normalised parameters, in pixels of the level, below which iterating stops. */
const SMALLEST_STEP = 0.002
/** Tukey's constant: 95 % efficiency under Gaussian noise (Holland & Welsch 1977). */
const TUKEY = 4.685
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
    let h = multiply(prediction, this.toPlate)
    const coarsest = this.levels.length - 1
    let exposure = this.roughExposure(this.levels[coarsest]!, pyramid[coarsest]!, h)
    let outcome = { match: 0, kept: 0 }
    for (let level = coarsest; level >= 0; level--) {
      const passes: PlanarModel[] =
        level === coarsest && this.model !== 'position' ? ['position', this.model] : [this.model]
      for (const model of passes) {
        const result = this.alignLevel(this.levels[level]!, pyramid[level]!, h, exposure, model)
        ;({ h, exposure } = result)
        outcome = result
      }
    }
    const matrix = scaledAt(multiply(h, this.toRegion), this.frame.centreX, this.frame.centreY)
    return { matrix, match: outcome.match, kept: outcome.kept }
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
    const free = FREE[model]
    const size = free.length + 2
    const normal = new Float64Array(size * size)
    const right = new Float64Array(size)
    let { gain, bias } = exposure
    const pixelsPerUnit = this.frame.halfSize / template.scale
    for (let iteration = 0; iteration < MOST_ITERATIONS; iteration++) {
      const sampled = this.sampleResiduals(template, image, h, { gain, bias })
      if (sampled.count < Math.max(12, template.count * 0.1)) return { h, exposure, match: 0, kept: 0 }
      this.accumulate(template, free, gain, sampled.noise, normal, right)
      if (!solveSymmetric(normal, right, size)) return { h, exposure, match: 0, kept: 0 }
      const p = new Float64Array(8)
      free.forEach((index, i) => (p[index] = right[i]!))
      const step = Float64Array.of(1 + p[0]!, p[1]!, p[2]!, p[3]!, 1 + p[4]!, p[5]!, p[6]!, p[7]!, 1)
      h = multiply(h, invert(step))
      gain += right[size - 2]!
      bias += right[size - 1]!
      if (p.reduce((most, value) => Math.max(most, Math.abs(value)), 0) * pixelsPerUnit < SMALLEST_STEP) break
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
    free: readonly number[],
    gain: number,
    noise: number,
    normal: Float64Array,
    right: Float64Array,
  ) {
    const size = free.length + 2
    normal.fill(0)
    right.fill(0)
    const row = new Float64Array(size)
    const perspective = free.length === 8
    const cut = TUKEY * noise
    for (let n = 0; n < template.count; n++) {
      const r = this.residual[n]!
      const ratio = r / cut
      if (!(ratio > -1 && ratio < 1)) continue
      const root = 1 - ratio * ratio
      const weight = root * root
      const gu = template.gradientU[n]! * gain
      const gv = template.gradientV[n]! * gain
      if (perspective) {
        const u = template.u[n]!
        const v = template.v[n]!
        const radial = gu * u + gv * v
        row[0] = gu * u
        row[1] = gu * v
        row[2] = gu
        row[3] = gv * u
        row[4] = gv * v
        row[5] = gv
        row[6] = -radial * u
        row[7] = -radial * v
      } else {
        row[0] = gu
        row[1] = gv
      }
      row[size - 2] = template.value[n]!
      row[size - 1] = 1
      for (let i = 0; i < size; i++) {
        const wi = weight * row[i]!
        right[i]! += wi * r
        const base = i * size
        for (let j = 0; j <= i; j++) normal[base + j]! += wi * row[j]!
      }
    }
    // A trace of damping keeps directions without texture still instead of letting them run away.
    for (let i = 0; i < size; i++) normal[i * size + i]! *= 1 + 1e-7
  }

  private judge(template: TemplateLevel, gain: number, bias: number, noise: number) {
    const cut = TUKEY * noise
    let count = 0
    let [st, si, stt, sii, sti] = [0, 0, 0, 0, 0]
    for (let n = 0; n < template.count; n++) {
      const r = this.residual[n]!
      if (!(Math.abs(r) < cut)) continue
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
    const covariance = sti - (st * si) / count
    const spread = Math.sqrt((stt - (st * st) / count) * (sii - (si * si) / count))
    return { match: spread > 0 ? Math.max(0, covariance / spread) : 0, kept: count / template.count }
  }
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
  const moved = new Float64Array(region.length)
  const p = [0, 0]
  for (let i = 0; i < region.length; i += 2) {
    applyToPoint(motion, region[i]!, region[i + 1]!, p)
    moved[i] = p[0]!
    moved[i + 1] = p[1]!
  }
  const box = boundsOf(moved)
  return {
    left: Math.floor(box.left - margin),
    top: Math.floor(box.top - margin),
    right: Math.ceil(box.right + margin),
    bottom: Math.ceil(box.bottom + margin),
  }
}
