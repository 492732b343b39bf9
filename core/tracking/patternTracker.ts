import {
  applyToPoint,
  invert,
  movedPolygon,
  multiply,
  scaledAt,
  signedArea,
  translation,
  type Box,
  type Matrix3,
} from '../geometry'
import { pyramidOf, type LumaImage, type PixelMask, type PyramidLevel } from '../image'
import { TUKEY, tukeyBiweight } from '../robust'
import { correlation } from './correlation'
import { medianAndSpread, medianOf } from './median'
import {
  hiddenPyramid,
  patternFrameOf,
  requireTexture,
  templateLevel,
  type Pattern,
  type PatternFrame,
  type Sampling,
  type TemplateLevel,
} from './patternTemplate'
import {
  addPerspectiveSample,
  addPositionSample,
  PARAMETERS,
  steepestDescent,
  stepOf,
  STEPS_TO,
  type PlanarModel,
} from './planarModels'
import { bicubicAt } from './sampling'
import { likelyShifts } from './shiftSearch'
import { solveSymmetric } from './solveSymmetric'

export interface Alignment {
  /** Maps plate positions on the pattern's frame to plate positions on this frame. */
  matrix: Matrix3
  /** Correlation 0..1 with the pattern: of the pixels that agreed for a plane, of all that are seen for a point. */
  match: number
  /** Share of the pattern's pixels that agreed with the motion, 0..1. */
  kept: number
  /** Root of the mean squared difference of those pixels, values 0..1. */
  residual: number
}

/** Plate pixels to the left, above, right and below. */
export type SearchBox = readonly [number, number, number, number]

/** What kind of pattern it is and how it is looked for. */
export interface TrackerOptions extends Sampling {
  model: PlanarModel
  surface: 'plane' | 'point'
  /** Plate pixels to the left, above, right and below in which a point is looked for; negative is left and up. */
  search: SearchBox
}

/** Level 0 samples of the last frame, for drawing which pixels were used. */
export interface PixelsUsed {
  /** Plate positions on the frame, x0, y0, x1, y1 ... */
  positions: Float32Array
  /** Weight of each, 0 (hidden, outside, or not agreeing) to 1. */
  weights: Float32Array
}

interface Exposure {
  gain: number
  bias: number
}

interface LevelResult extends Omit<Alignment, 'matrix'> {
  /** Pattern coordinates to plate pixels. */
  h: Matrix3
  exposure: Exposure
}

/** Pixels of the coarsest level to each side in which the region is looked for before it is aligned. */
const SEARCH_REACH = 4
/** Match and share of agreeing pixels on the coarsest level that leave no doubt where the pattern is. */
const CLEAR_MATCH = 0.97
const CLEAR_KEPT = 0.9
/** Gain of match times kept pixels that makes another start win over the predicted one. */
const CLEARLY_BETTER = 0.02
const MOST_ITERATIONS = 14
/** Update of the motion, in pixels of the level, below which iterating stops; coarse levels are only a start. */
const SMALLEST_STEP = 0.005
const SMALLEST_COARSE_STEP = 0.02
/**
 * An edge that is blurred a little more or less than on the reference differs by about this many pixels times its
 * steepness. Without the allowance the weights would drop just the edges that hold the position.
 */
const EDGE_SLACK_PIXELS = 0.15
/** Share of outliers up to which a cell is trusted wholly, and from which it is not at all. */
const TRUSTED = 0.15
const DISTRUSTED = 0.4
/** Iterations of a level that look at samples one by one: far from the place, edges are outliers everywhere. */
const TRUSTING_ITERATIONS = 2
/** Grain and rounding below this (of 1) are never taken for occlusion. */
const SMALLEST_NOISE = 1.5 / 255

/**
 * Follows a pattern, a flat region or the surroundings of a point, by direct alignment to its own picture, coarse to
 * fine.
 *
 * Inverse compositional alignment (Baker & Matthews, "Lucas-Kanade 20 Years On", IJCV 2004, section 3.2) with gain and
 * bias, and robust weights renewed in each iteration (iteratively reweighted, section 5 of part 2). Every frame is
 * aligned to the pattern itself, so errors do not add up from frame to frame.
 */
export class PatternTracker {
  readonly frame: PatternFrame
  private readonly levels: TemplateLevel[]
  private readonly toPlate: Matrix3
  private readonly toPattern: Matrix3
  private readonly residual: Float32Array
  private readonly scratch: Float32Array
  private readonly trust: Float32Array
  private readonly inCell: Float32Array
  /** What hides the surface on the frame under way, level by level. */
  private hidden: PixelMask[] | null = null

  /**
   * @param picture  around the pattern on its own frame, with a few pixels to spare
   * @throws TrackingError `region-too-small`, `region-left-out`, `no-texture`
   */
  constructor(
    picture: LumaImage,
    pattern: Pattern,
    private readonly options: TrackerOptions,
  ) {
    this.frame = patternFrameOf(pattern.outlines)
    const { centreX, centreY, halfSize } = this.frame
    this.toPlate = Float64Array.of(halfSize, 0, centreX, 0, halfSize, centreY, 0, 0, 1)
    this.toPattern = invert(this.toPlate)
    const pyramid = pyramidOf(picture, levelsFor(this.frame.box, options.surface))
    const hidden = hiddenPyramid(pattern.hidden, pyramid)
    this.levels = pyramid.map((image, i) => templateLevel(image, pattern, hidden?.[i] ?? null, this.frame, options))
    requireTexture(this.levels[0]!, this.frame)
    const most = Math.max(...this.levels.map((level) => level.count))
    this.residual = new Float32Array(most)
    this.scratch = new Float32Array(most)
    const mostCells = Math.max(...this.levels.map((level) => level.cellCount))
    this.trust = new Float32Array(mostCells)
    this.inCell = new Float32Array(mostCells)
  }

  /**
   * Aligns one frame.
   *
   * @param picture     stretch of the frame that holds the pattern where it is expected
   * @param prediction  where the motion is expected to be, pattern's frame to this frame
   * @param hidden      closed polygons that cover the surface on this frame, plate pixels
   * @param search      where a point is looked for, when not in its whole search box
   */
  align(
    picture: LumaImage,
    prediction: Matrix3,
    hidden: readonly ArrayLike<number>[] = [],
    search: SearchBox = this.options.search,
  ): Alignment {
    const pyramid = pyramidOf(picture, this.levels.length)
    this.hidden = hiddenPyramid(hidden, pyramid)
    // H in pattern coordinates: maps normalised positions to plate pixels.
    const h = multiply(prediction, this.toPlate)
    const coarsest = this.levels.length - 1
    const { scale } = this.levels[coarsest]!
    let best = this.alignCoarsest(pyramid[coarsest]!, h)
    // Rows of windows look alike: where the predicted place leaves a doubt, other starts are tried.
    const isClear = best.match > CLEAR_MATCH && best.kept > CLEAR_KEPT
    const starts = isClear
      ? []
      : likelyShifts(this.levels[coarsest]!, pyramid[coarsest]!, h, this.searchAt(scale, search))
    for (const [x, y] of starts) {
      if (x === 0 && y === 0) continue
      const other = this.alignCoarsest(pyramid[coarsest]!, multiply(translation(x * scale, y * scale), h))
      if (other.match * other.kept > best.match * best.kept + CLEARLY_BETTER) best = other
    }
    for (let level = coarsest - 1; level >= 0; level--) {
      best = this.alignLevel(level, pyramid[level]!, best.h, best.exposure, this.options.model)
    }
    const matrix = scaledAt(multiply(best.h, this.toPattern), this.frame.centreX, this.frame.centreY)
    if (!isPlausible(h, best.h) || !this.isWithinSearch(prediction, matrix, search))
      return { matrix, match: 0, kept: 0, residual: 0 }
    return { matrix, match: best.match, kept: best.kept, residual: best.residual }
  }

  /** Shifts to look for the pattern in, pixels of a level. */
  private searchAt(scale: number, search: SearchBox): SearchBox {
    if (this.options.surface === 'plane') return [-SEARCH_REACH, -SEARCH_REACH, SEARCH_REACH, SEARCH_REACH]
    const [left, top, right, bottom] = search
    return [Math.floor(left / scale), Math.floor(top / scale), Math.ceil(right / scale), Math.ceil(bottom / scale)]
  }

  /** A point is where it is looked for, give or take a pixel; alignment may have walked away to something alike. */
  private isWithinSearch(prediction: Matrix3, matrix: Matrix3, search: SearchBox): boolean {
    if (this.options.surface === 'plane') return true
    const { centreX, centreY } = this.frame
    const [ax, ay] = applyToPoint(prediction, centreX, centreY)
    const [bx, by] = applyToPoint(matrix, centreX, centreY)
    const [left, top, right, bottom] = search
    const [dx, dy] = [bx! - ax!, by! - ay!]
    return dx >= left - 1 && dx <= right + 1 && dy >= top - 1 && dy <= bottom + 1
  }

  /** The finest level's samples under a motion, with the weights that alignment would give them. */
  pixelsUsed(picture: LumaImage, matrix: Matrix3, hidden: readonly ArrayLike<number>[] = []): PixelsUsed {
    const image: PyramidLevel = { ...picture, scale: 1 }
    const template = this.levels[0]!
    this.hidden = hiddenPyramid(hidden, [image])
    const h = multiply(matrix, this.toPlate)
    const exposure = this.fittedExposure(image, h)
    const { noise } = this.sampleResiduals(0, image, h, exposure)
    const positions = new Float32Array(2 * template.count)
    const weights = new Float32Array(template.count)
    const place = [0, 0]
    for (let n = 0; n < template.count; n++) {
      applyToPoint(h, template.u[n]!, template.v[n]!, place)
      positions.set(place, 2 * n)
      weights[n] = tukeyWeight(this.residual[n]!, noise, template.steepness[n]!)
    }
    return { positions, weights }
  }

  /** Gain and bias under a motion that is known already: rough, then two rounds of the weighted line. */
  private fittedExposure(image: PyramidLevel, h: Matrix3): Exposure {
    let exposure = this.roughExposure(0, image, h)
    const template = this.levels[0]!
    for (let round = 0; round < 3; round++) {
      const { noise } = this.sampleResiduals(0, image, h, exposure)
      let [sw, st, si, stt, sti] = [0, 0, 0, 0, 0]
      for (let n = 0; n < template.count; n++) {
        const r = this.residual[n]!
        const weight = tukeyWeight(r, noise, template.steepness[n]!)
        if (weight === 0) continue
        const t = template.value[n]!
        const i = r + exposure.gain * t + exposure.bias
        sw += weight
        st += weight * t
        si += weight * i
        stt += weight * t * t
        sti += weight * t * i
      }
      const spread = stt - (st * st) / sw
      if (!(spread > 0)) break
      const gain = (sti - (st * si) / sw) / spread
      exposure = { gain, bias: (si - gain * st) / sw }
    }
    return exposure
  }

  private alignCoarsest(image: PyramidLevel, start: Matrix3): LevelResult {
    const level = this.levels.length - 1
    const exposure = this.roughExposure(level, image, start)
    let result: LevelResult = { h: start, exposure, match: 0, kept: 0, residual: 0 }
    for (const model of STEPS_TO[this.options.model]) {
      const next = this.alignLevel(level, image, result.h, result.exposure, model)
      if (!isPlausible(start, next.h)) break
      result = next
    }
    return result
  }

  /**
   * Gain and bias from the medians and the spreads of both pictures: good enough for the first robust weights, which an
   * unknown exposure would otherwise spoil.
   */
  private roughExposure(level: number, image: PyramidLevel, h: Matrix3): Exposure {
    const template = this.levels[level]!
    const seen = this.sampleResiduals(level, image, h, { gain: 0, bias: 0 })
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
    level: number,
    image: PyramidLevel,
    start: Matrix3,
    exposure: Exposure,
    model: PlanarModel,
  ): LevelResult {
    const template = this.levels[level]!
    const nothing = { h: start, exposure, match: 0, kept: 0, residual: 0 }
    let h = start
    const size = PARAMETERS[model] + 2
    const normal = new Float64Array(size * size)
    const right = new Float64Array(size)
    let { gain, bias } = exposure
    const pixelsPerUnit = this.frame.halfSize / template.scale
    for (let iteration = 0; iteration < MOST_ITERATIONS; iteration++) {
      const sampled = this.sampleResiduals(level, image, h, { gain, bias })
      if (sampled.count < Math.max(12, template.count * 0.1)) return { ...nothing, h }
      const trust = iteration < TRUSTING_ITERATIONS ? null : this.cellTrust(template, sampled.noise)
      this.accumulate(template, model, gain, sampled.noise, trust, normal, right)
      if (!solveSymmetric(normal, right, size)) return { ...nothing, h }
      h = multiply(h, invert(stepOf(model, right)))
      gain += right[size - 2]!
      bias += right[size - 1]!
      let largest = 0
      for (let i = 0; i < size - 2; i++) largest = Math.max(largest, Math.abs(right[i]!))
      if (largest * pixelsPerUnit < (level === 0 ? SMALLEST_STEP : SMALLEST_COARSE_STEP)) break
    }
    const { noise } = this.sampleResiduals(level, image, h, { gain, bias })
    return { h, exposure: { gain, bias }, ...this.judge(template, gain, bias, noise) }
  }

  /** Residuals I(H x) - gain T(x) - bias of all samples (NaN outside the picture and where it is hidden) and their robust noise. */
  private sampleResiduals(level: number, image: PyramidLevel, h: Matrix3, { gain, bias }: Exposure) {
    const { residual } = this
    const hidden = this.hidden?.[level]?.data ?? null
    const { u, v, value, count, scale } = this.levels[level]!
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
      if (
        !(x >= 1 && y >= 1 && x < mostX && y < mostY) ||
        (hidden !== null && hidden[Math.round(y) * image.width + Math.round(x)])
      ) {
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
    trust: Float32Array | null,
    normal: Float64Array,
    right: Float64Array,
  ) {
    const size = PARAMETERS[model] + 2
    normal.fill(0)
    right.fill(0)
    const { residual } = this
    const { u: us, v: vs, gradientU, gradientV, steepness, value, cell, count } = template
    const row = new Float64Array(size)
    for (let n = 0; n < count; n++) {
      const r = residual[n]!
      const own = tukeyWeight(r, noise, steepness[n]!)
      const weight = trust ? own * trust[cell[n]!]! : own
      if (weight === 0) continue
      const gu = gradientU[n]! * gain
      const gv = gradientV[n]! * gain
      if (model === 'perspective') addPerspectiveSample(normal, right, weight, r, us[n]!, vs[n]!, gu, gv, value[n]!)
      else if (model === 'position') addPositionSample(normal, right, weight, r, gu, gv, value[n]!)
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

  /**
   * How far each cell is to be trusted, 0..1: where many samples are outliers, the others agree by chance, since what
   * hides a surface hides whole stretches of it.
   */
  private cellTrust({ count, cell, cellCount, steepness }: TemplateLevel, noise: number): Float32Array {
    const { trust, inCell } = this
    trust.fill(0, 0, cellCount)
    inCell.fill(0, 0, cellCount)
    for (let n = 0; n < count; n++) {
      const r = this.residual[n]!
      if (Number.isNaN(r)) continue
      inCell[cell[n]!]!++
      if (tukeyWeight(r, noise, steepness[n]!) === 0) trust[cell[n]!]!++
    }
    for (let c = 0; c < cellCount; c++) {
      const outliers = trust[c]! / Math.max(1, inCell[c]!)
      trust[c] = Math.min(1, Math.max(0, (DISTRUSTED - outliers) / (DISTRUSTED - TRUSTED)))
    }
    return trust
  }

  private judge(template: TemplateLevel, gain: number, bias: number, noise: number) {
    const isPoint = this.options.surface === 'point'
    let [count, agreeing, squares] = [0, 0, 0]
    let [st, si, stt, sii, sti] = [0, 0, 0, 0, 0]
    for (let n = 0; n < template.count; n++) {
      const r = this.residual[n]!
      if (Number.isNaN(r)) continue
      const agrees = Math.abs(r) < TUKEY * (noise + EDGE_SLACK_PIXELS * template.steepness[n]!)
      if (agrees) {
        agreeing++
        squares += r * r
      } else if (!isPoint) continue
      const t = template.value[n]!
      const i = r + gain * t + bias
      count++
      st += t
      si += i
      stt += t * t
      sii += i * i
      sti += t * i
    }
    if (count < 12 || agreeing === 0) return { match: 0, kept: 0, residual: 0 }
    return {
      match: Math.max(0, correlation(count, st, si, stt, sii, sti)),
      kept: agreeing / template.count,
      residual: Math.sqrt(squares / agreeing),
    }
  }
}

/** Tukey's biweight of a residual, with more patience at steep places. 0 for NaN. */
const tukeyWeight = (residual: number, noise: number, steepness: number) =>
  tukeyBiweight(residual, noise + EDGE_SLACK_PIXELS * steepness)

/** Plate pixels that a corner may lie away from where the motion so far leads. */
const MOST_SURPRISE = 80

/** A surface does not turn over, halve its size or leap from one look to the next: such a motion has run away. */
function isPlausible(before: Matrix3, after: Matrix3): boolean {
  const [a, b] = [movedPolygon(REGION_SQUARE, before), movedPolygon(REGION_SQUARE, after)]
  const ratio = signedArea(b) / signedArea(a)
  if (!(ratio > 0.4 && ratio < 2.5)) return false
  for (let i = 0; i < a.length; i += 2) {
    if (Math.hypot(b[i]! - a[i]!, b[i + 1]! - a[i + 1]!) > MOST_SURPRISE) return false
  }
  return true
}

const REGION_SQUARE = [-1, -1, 1, -1, 1, 1, -1, 1] as const

/** As many halvings as leave the smaller side of a region 20 pixels, of a point's pattern 8. */
function levelsFor(box: Box, surface: 'plane' | 'point'): number {
  const side = Math.min(box.right - box.left, box.bottom - box.top)
  return Math.max(1, Math.min(5, 1 + Math.floor(Math.log2(side / (surface === 'plane' ? 20 : 8)))))
}

/** Box of the pattern under a motion, in plate pixels, widened by margins to the left, above, right and below. */
export function movedPatternBox(
  outlines: readonly ArrayLike<number>[],
  motion: Matrix3,
  margin: readonly [number, number, number, number],
): Box {
  const { box } = patternFrameOf(outlines.map((outline) => movedPolygon(outline, motion)))
  return {
    left: Math.floor(box.left + margin[0]),
    top: Math.floor(box.top + margin[1]),
    right: Math.ceil(box.right + margin[2]),
    bottom: Math.ceil(box.bottom + margin[3]),
  }
}
