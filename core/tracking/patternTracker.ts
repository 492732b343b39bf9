import {
  applyToPoint,
  identity,
  invert,
  movedBy,
  movePolygon,
  multiply,
  scaledAt,
  signedArea,
  type Box,
  type Matrix3,
} from '../geometry'
import { blurred, type LumaImage, type PixelMask, type PyramidLevel } from '../image'
import {
  alignmentKernel,
  LEAST_SEEN,
  NOTHING_AGREES,
  tukeyWeight,
  type Aligned,
  type Exposure,
  type Judgement,
} from './kernel'
import { blurredTemplate, gradientsOf, isBlurSeen, streaksOf, type Exposing, type Gradients } from './motionBlur'
import {
  hiddenPyramid,
  holdOf,
  patternFrameOf,
  templateLevel,
  withValues,
  type Pattern,
  type PatternFrame,
  type Sampling,
  type TemplateLevel,
} from './patternTemplate'
import { STEPS_TO, type PlanarModel } from './planarModels'
import { distinctnessOf, likelyShifts } from './shiftSearch'

export interface Alignment extends Judgement {
  /** Maps plate positions on the pattern's frame to plate positions on this frame. */
  matrix: Matrix3
}

/** What is known of a frame's blur when the pattern's motion there is this one. */
export type ExposingUnder = (motion: Matrix3) => Exposing | null

/** Plate pixels to the left, above, right and below. */
export type SearchBox = readonly [number, number, number, number]

/** What kind of pattern it is and how it is looked for. */
export interface TrackerOptions extends Sampling {
  model: PlanarModel
  surface: 'plane' | 'point'
  /** Plate pixels to the left, above, right and below in which a point is looked for; negative is left and up. */
  search: SearchBox
  /** Width of a pixel over its height, 1 when not given: what turns, turns in square pixels. */
  pixelAspect?: number
  /** The pattern of a point may turn, shrink and shear where its model alone leaves a doubt. */
  follows?: boolean
}

/** Level 0 samples of the last frame, for drawing which pixels were used. */
export interface PixelsUsed {
  /** Plate positions on the frame, x0, y0, x1, y1 ... */
  positions: Float32Array
  /** Weight of each, 0 (hidden, outside, or not agreeing) to 1. */
  weights: Float32Array
}

/** Pixels of the coarsest level to each side in which the region is looked for before it is aligned. */
const SEARCH_REACH = 4
/** Match and share of agreeing pixels on the coarsest level that leave no doubt where the pattern is. */
const CLEAR_MATCH = 0.97
const CLEAR_KEPT = 0.9
/** Times the least noise so far up to which a frame counts as sharp. */
const AS_LIKE = 1.25
/** Gain of match times kept pixels that makes another start win over the predicted one. */
const CLEARLY_BETTER = 0.02
/** What match times kept pixels of a place must be more for being as far off as it is looked for. */
const FAR_COSTS = 0.3
/** Sigma of the blur, pixels of the coarsest level, for a look from farther away. */
const SOFTENING = 2
/**
 * Update of the motion, in pixels of the level, below which iterating stops: what is left is a fraction of it. A point's
 * few pixels leave grain an error ten times as large; coarse levels are only a start.
 */
const SMALLEST_STEP = { plane: 0.005, point: 0.02 }
const COARSE_STEPS = 4
/** Steps of an alignment at most: a point near its place takes three. */
const MOST_STEPS = { plane: 14, point: 8 }

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
  /** How well the pattern holds along its weaker direction, see {@link holdOf}. */
  readonly hold: number
  private readonly levels: TemplateLevel[]
  /** The pattern's own picture on each level, and its gradients where they were asked for. */
  private readonly pictures: PyramidLevel[]
  private readonly gradients: (Gradients | undefined)[] = []
  /** Least noise that each level has left on a frame so far. */
  private readonly leastNoise: number[] = []
  private readonly toPlate: Matrix3
  private readonly toPattern: Matrix3
  private readonly kernel = alignmentKernel()
  /** Motions in pattern coordinates of the alignment under way: thousands of small arrays would cost as much as it does. */
  private readonly start = identity()
  private readonly other = identity()
  private readonly product = identity()
  /** The coarsest level blurred, made when it is first needed. */
  private readonly softLevel: () => TemplateLevel
  private softened: TemplateLevel | null = null
  /** What the surface may do in the alignment under way. */
  private model: PlanarModel
  /** The last picture that was aligned, and its finest level. */
  private lastLook: { picture: LumaImage; level: PyramidLevel } | null = null
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
    this.model = options.model
    this.frame = patternFrameOf(pattern.outlines, options.pixelAspect)
    const { centreX, centreY, unitX, unitY } = this.frame
    this.toPlate = Float64Array.of(unitX, 0, centreX, 0, unitY, centreY, 0, 0, 1)
    this.toPattern = invert(this.toPlate)
    const pyramid = this.kernel.pyramid(picture, levelsFor(this.frame.box, options.surface))
    const hidden = hiddenPyramid(pattern.hidden, pyramid)
    const levelOf = (image: PyramidLevel, i: number) =>
      templateLevel(image, pattern, hidden?.[i] ?? null, this.frame, options)
    this.pictures = pyramid
    this.levels = pyramid.map(levelOf)
    const coarsest = pyramid.length - 1
    const image = pyramid[coarsest]!
    this.softLevel = () => levelOf({ ...image, data: blurred(image, SOFTENING).data }, coarsest)
    this.hold = holdOf(this.levels[0]!, this.frame)
  }

  /**
   * Aligns one frame.
   *
   * @param picture     stretch of the frame that holds the pattern where it is expected
   * @param prediction  where the motion is expected to be, pattern's frame to this frame
   * @param hidden      closed polygons that cover the surface on this frame, plate pixels
   * @param search      where a point is looked for, when not in its whole search box
   * @param exposing    how it moves while the shutter is open, if this is its motion; null: the frame is taken for sharp
   */
  align(
    picture: LumaImage,
    prediction: Matrix3,
    hidden: readonly ArrayLike<number>[] = [],
    search: SearchBox = this.options.search,
    exposing: ExposingUnder | null = null,
  ): Alignment {
    const found = this.alignAs(this.options.model, picture, prediction, hidden, search, exposing)
    if (!this.options.follows) return found
    // A turned pattern whose place alone is sought is found beside it: its finest level is let turn as well.
    if (isClear(found)) return this.turnedFrom(found, prediction, search)
    // From where it was found, if it was: what has turned too far for its place alone is near it.
    const start = found.match > 0 ? found.matrix : prediction
    const turned = this.alignAs('affine', picture, start, hidden, search, exposing)
    return isClearlyBetter(turned, found) && this.isWithinSearch(prediction, turned.matrix, search) ? turned : found
  }

  /** The place found last, with turn, size and shear where more agrees with them. */
  private turnedFrom(found: Alignment, prediction: Matrix3, search: SearchBox): Alignment {
    const template = this.levels[0]!
    this.load(template, this.lastLook!.level, 0)
    const h = multiply(found.matrix, this.toPlate, this.other)
    const result = this.alignLevel(template, h, this.roughExposure(template, h), 'affine')
    const turned = this.alignmentOf(result, this.judge(result), h, prediction, search)
    return turned.match * turned.kept > found.match * found.kept ? turned : found
  }

  /**
   * Looks for the pattern in a wide place.
   *
   * @param reach  plate pixels to each side of the prediction, which the picture has round it
   */
  locate(picture: LumaImage, prediction: Matrix3, hidden: readonly ArrayLike<number>[], reach: number): Alignment {
    const coarsest = this.levels.length - 1
    const template = this.levels[coarsest]!
    const image = this.kernel.pyramid(picture, this.levels.length)[coarsest]!
    const far = Math.ceil(reach / template.scale)
    const shifts = likelyShifts(this.kernel, template, image, multiply(prediction, this.toPlate), [
      -far,
      -far,
      far,
      far,
    ])
    let best: Alignment = { matrix: prediction, ...NOTHING_AGREES }
    let bestWorth = 0
    for (const [x, y] of shifts) {
      const start = movedBy(prediction, x * template.scale, y * template.scale)
      const found = this.align(picture, start, hidden)
      // Of two that are alike, the one nearer to where the motion leads.
      const worth = found.match * found.kept - (FAR_COSTS * this.distanceBetween(prediction, found.matrix)) / reach
      if (found.match > 0 && worth > bestWorth) {
        best = found
        bestWorth = worth
      }
    }
    return best
  }

  /** Plate pixels between the pattern's centres under two motions. */
  distanceBetween(a: Matrix3, b: Matrix3): number {
    const { centreX, centreY } = this.frame
    const [ax, ay] = applyToPoint(a, centreX, centreY)
    const [bx, by] = applyToPoint(b, centreX, centreY)
    return Math.hypot(bx! - ax!, by! - ay!)
  }

  /**
   * How much better the pattern fits where it was found than anywhere beside it: the difference of the correlations, by
   * shifts alone, over the whole of it. Nought or less: other places round it are as like.
   */
  distinctness(picture: LumaImage, motion: Matrix3): number {
    const coarsest = this.levels.length - 1
    const template = this.levels[coarsest]!
    const image = this.kernel.pyramid(picture, this.levels.length)[coarsest]!
    const { box } = this.frame
    const side = Math.min(box.right - box.left, box.bottom - box.top) / template.scale
    return distinctnessOf(this.kernel, template, image, multiply(motion, this.toPlate), side)
  }

  private alignAs(
    model: PlanarModel,
    picture: LumaImage,
    prediction: Matrix3,
    hidden: readonly ArrayLike<number>[],
    search: SearchBox,
    exposing: ExposingUnder | null,
  ): Alignment {
    this.model = model
    const pyramid = this.kernel.pyramid(picture, this.levels.length)
    this.lastLook = { picture, level: pyramid[0]! }
    this.hidden = hiddenPyramid(hidden, pyramid)
    // H in pattern coordinates: maps normalised positions to plate pixels.
    const h = multiply(prediction, this.toPlate, this.start)
    const coarsest = this.levels.length - 1
    let template = this.levels[coarsest]!
    const { scale } = template
    let best = this.alignCoarsest(template, pyramid[coarsest]!, h)
    const streaked = isClear(best) ? template : this.blurredLevel(coarsest, exposing?.(prediction) ?? null)
    if (streaked !== template) {
      const other = this.alignCoarsest(streaked, pyramid[coarsest]!, h)
      if (isClearlyBetter(other, best)) {
        best = other
        template = streaked
      }
    }
    const refined = (start: Aligned): Aligned => {
      let finest = start
      for (let level = coarsest - 1; level >= 0; level--) {
        const isStreaked: boolean = template !== this.levels[level + 1]
        ;({ template, result: finest } = this.alignLikest(level, pyramid[level]!, finest, exposing, isStreaked))
      }
      return finest
    }
    // A point's few coarse pixels often leave a doubt that its finest level does not.
    if (this.options.surface === 'point' && coarsest > 0 && !exposing && !isClear(best)) {
      const finest = refined(best)
      const judged = this.judge(finest)
      if (isClear(judged)) return this.alignmentOf(finest, judged, h, prediction, search)
      template = this.levels[coarsest]!
    }
    // Rows of windows look alike: where the predicted place leaves a doubt, other starts are tried.
    const starts = isClear(best)
      ? []
      : likelyShifts(this.kernel, template, pyramid[coarsest]!, h, this.searchAt(scale, search))
    for (const [x, y] of starts) {
      if (x === 0 && y === 0) continue
      const other = this.alignCoarsest(template, pyramid[coarsest]!, movedBy(h, x * scale, y * scale))
      if (isClearlyBetter(other, best)) best = other
    }
    if (this.options.surface === 'plane' && !isClear(best)) {
      const other = this.alignCoarsest(template, pyramid[coarsest]!, this.alignSoftened(pyramid[coarsest]!, h))
      if (isClearlyBetter(other, best)) best = other
    }
    let finest = refined(best)
    // What covers much of the surface can lead the coarse levels astray: then the prediction is nearer than they are.
    if (this.options.surface === 'plane' && coarsest > 0 && !isClear(best)) {
      const start = this.roughExposure(template, h)
      finest = this.betterOf(finest, this.alignLevel(template, h, start, this.model))
    }
    return this.alignmentOf(finest, coarsest > 0 ? this.judge(finest) : best, h, prediction, search)
  }

  /**
   * Distance in pixels between where the pattern was on a frame and where its look on another one leads back to.
   *
   * Kalal, Mikolajczyk & Matas, "Forward-Backward Error", ICPR 2010.
   *
   * @param here    picture of the one frame, and the pattern's motion there
   * @param hidden  closed polygons that cover the surface there
   * @param there   picture of the other one, and the pattern's motion there
   * @param search  how far off it is looked for where that leaves a doubt
   * @returns Infinity when it leads nowhere
   */
  returnError(
    here: { picture: LumaImage; motion: Matrix3; hidden: readonly ArrayLike<number>[] },
    there: { picture: LumaImage; motion: Matrix3 },
    search: SearchBox,
  ): number {
    const look = this.lookOn(here.picture, here.motion, here.hidden)
    if (look.count < LEAST_SEEN) return Infinity
    const image: PyramidLevel = { ...there.picture, scale: 1 }
    const start = multiply(there.motion, this.toPlate, this.other)
    const placed = (h: Matrix3): Aligned & Judgement => {
      // Looking for other places in between forgets what was loaded.
      this.kernel.load(look, image, null)
      const result = this.alignLevel(look, h, { gain: 1, bias: 0 }, 'position')
      return { ...result, ...this.judge(result) }
    }
    let best = placed(start)
    for (const [x, y] of isClear(best) ? [] : likelyShifts(this.kernel, look, image, start, search)) {
      const other = placed(movedBy(start, x, y))
      if (isClearlyBetter(other, best)) best = other
    }
    if (best.match === 0) return Infinity
    const [ax, ay] = applyToPoint(best.h, 0, 0)
    const [bx, by] = applyToPoint(start, 0, 0)
    return Math.hypot(ax! - bx!, ay! - by!)
  }

  /** The finest level's samples with the values that a frame shows there, without those that it does not show. */
  private lookOn(picture: LumaImage, motion: Matrix3, hidden: readonly ArrayLike<number>[]): TemplateLevel {
    const template = this.levels[0]!
    // Mostly it has just been aligned and is loaded still.
    const image: PyramidLevel = this.lastLook?.picture === picture ? this.lastLook.level : { ...picture, scale: 1 }
    this.kernel.load(template, image, hiddenPyramid(hidden, [image])?.[0] ?? null)
    this.kernel.residuals(multiply(motion, this.toPlate, this.product), { gain: 0, bias: 0 })
    return withValues(template, this.kernel.lastResiduals().slice())
  }

  /** A level with the blur that the frame has more than the pattern; the level as it is when that is too little to see. */
  private blurredLevel(level: number, exposing: Exposing | null): TemplateLevel {
    const sharp = this.levels[level]!
    if (!exposing) return sharp
    const streakAt = streaksOf(exposing)
    if (!isBlurSeen(streakAt, this.frame.box, sharp.scale)) return sharp
    const image = this.pictures[level]!
    return blurredTemplate(sharp, image, (this.gradients[level] ??= gradientsOf(image)), this.frame, streakAt)
  }

  /**
   * Aligns a level as it is, and, where that leaves more noise than on other frames, blurred, and keeps the one that the
   * frame is more like: the shutter that the shot claims need not be the one that took it.
   *
   * @param isStreaked  the level above was liker when blurred
   */
  private alignLikest(
    level: number,
    image: PyramidLevel,
    start: Aligned,
    exposing: ExposingUnder | null,
    isStreaked: boolean,
  ): { template: TemplateLevel; result: Aligned } {
    const sharp = this.levels[level]!
    const aligned = (template: TemplateLevel) => {
      this.load(template, image, level)
      const exposure = isStreaked ? this.roughExposure(template, start.h) : start.exposure
      return { template, result: this.alignLevel(template, start.h, exposure, this.model) }
    }
    if (!exposing) return aligned(sharp)
    const judged = (template: TemplateLevel) => {
      const found = aligned(template)
      return { ...found, noise: this.kernel.residuals(found.result.h, found.result.exposure).noise }
    }
    const blurred = () => this.blurredLevel(level, exposing(multiply(start.h, this.toPattern)))
    let best = judged(isStreaked ? blurred() : sharp)
    if (!isStreaked && best.noise >= AS_LIKE * (this.leastNoise[level] ?? 0)) {
      const streaked = blurred()
      const other = streaked === sharp ? best : judged(streaked)
      // The kernel is left with the one that is kept.
      if (other !== best) best = other.noise < best.noise ? other : judged(sharp)
    }
    this.leastNoise[level] = Math.min(this.leastNoise[level] ?? Infinity, best.noise)
    return best
  }

  private alignmentOf(
    finest: Aligned,
    { match, kept, residual }: Judgement,
    h: Matrix3,
    prediction: Matrix3,
    search: SearchBox,
  ): Alignment {
    const motion = multiply(finest.h, this.toPattern, this.product)
    const matrix = scaledAt(motion, this.frame.centreX, this.frame.centreY)
    const isFound = isPlausible(h, finest.h) && this.isWithinSearch(prediction, matrix, search)
    return { matrix, ...(isFound ? { match, kept, residual } : NOTHING_AGREES) }
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
  pixelsUsed(
    picture: LumaImage,
    matrix: Matrix3,
    hidden: readonly ArrayLike<number>[] = [],
    exposing: Exposing | null = null,
  ): PixelsUsed {
    const image: PyramidLevel = { ...picture, scale: 1 }
    const template = this.blurredLevel(0, exposing)
    this.hidden = hiddenPyramid(hidden, [image])
    const h = multiply(matrix, this.toPlate)
    this.load(template, image, 0)
    const exposure = this.fittedExposure(template, h)
    const { noise } = this.kernel.residuals(h, exposure)
    const residual = this.kernel.lastResiduals()
    const positions = new Float32Array(2 * template.count)
    const weights = new Float32Array(template.count)
    const place = [0, 0]
    for (let n = 0; n < template.count; n++) {
      applyToPoint(h, template.u[n]!, template.v[n]!, place)
      positions.set(place, 2 * n)
      weights[n] = tukeyWeight(residual[n]!, noise, template.steepness[n]!)
    }
    return { positions, weights }
  }

  /** Gain and bias under a motion that is known already: rough, then two rounds of the weighted line. */
  private fittedExposure(template: TemplateLevel, h: Matrix3): Exposure {
    let exposure = this.roughExposure(template, h)
    for (let round = 0; round < 3; round++) {
      const { noise } = this.kernel.residuals(h, exposure)
      const residual = this.kernel.lastResiduals()
      let [sw, st, si, stt, sti] = [0, 0, 0, 0, 0]
      for (let n = 0; n < template.count; n++) {
        const r = residual[n]!
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

  private alignCoarsest(template: TemplateLevel, image: PyramidLevel, start: Matrix3): Aligned & Judgement {
    const result = this.alignInSteps(template, image, start)
    return { ...result, ...this.judge(result) }
  }

  /**
   * Where the motion leads to between blurred pictures: less exact, from farther away. A large turn or tilt brings fine
   * texture out of step with itself, and alignment then stops short at what is merely alike.
   */
  private alignSoftened(image: PyramidLevel, start: Matrix3): Matrix3 {
    this.softened ??= this.softLevel()
    const soft = { ...image, data: blurred(image, SOFTENING).data }
    return this.alignInSteps(this.softened, soft, start).h
  }

  /** Few parameters first, then more, as far as the motion stays plausible. */
  private alignInSteps(template: TemplateLevel, image: PyramidLevel, start: Matrix3): Aligned {
    this.load(template, image, this.levels.length - 1)
    let result: Aligned = { h: start, exposure: this.roughExposure(template, start), isHeld: false }
    // Few coarse pixels of a point tell its place, hardly its turn: that is left to the finest level.
    const isPlaceOnly = this.options.surface === 'point' && template.scale > 1
    for (const model of isPlaceOnly ? STEPS_TO.position : STEPS_TO[this.model]) {
      const next = this.alignLevel(template, result.h, result.exposure, model)
      if (!isPlausible(start, next.h)) break
      result = next
    }
    return result
  }

  /**
   * Gain and bias from the medians and the spreads of both pictures: good enough for the first robust weights, which an
   * unknown exposure would otherwise spoil.
   */
  private roughExposure(template: TemplateLevel, h: Matrix3): Exposure {
    const { count, middle: middleNow, spread: spreadNow } = this.kernel.shown(h)
    if (count < LEAST_SEEN) return { gain: 1, bias: 0 }
    const { middle: middleThen, spread: spreadThen } = template
    const gain = spreadThen > 0 ? Math.min(3, Math.max(0.3, spreadNow / spreadThen)) : 1
    return { gain, bias: middleNow - gain * middleThen }
  }

  /** Aligns the level that is loaded. */
  private alignLevel(template: TemplateLevel, start: Matrix3, exposure: Exposure, model: PlanarModel): Aligned {
    const pixelsPerUnit = Math.max(this.frame.unitX, this.frame.unitY) / template.scale
    const { surface } = this.options
    const smallestStep = SMALLEST_STEP[surface] * (template.scale === 1 ? 1 : COARSE_STEPS)
    return this.kernel.align(model, start, exposure, smallestStep / pixelsPerUnit, MOST_STEPS[surface])
  }

  /** The motion that more samples of the loaded level agree with, both seen with the smaller noise of the two. */
  private betterOf(a: Aligned, b: Aligned): Aligned {
    if (!a.isHeld || !b.isHeld) return a.isHeld ? a : b
    const noise = Math.min(...[a, b].map(({ h, exposure }) => this.kernel.residuals(h, exposure).noise))
    const [keptA, keptB] = [a, b].map(({ h, exposure }) => this.kernel.judge(h, exposure, true, noise).kept)
    return keptB! > keptA! ? b : a
  }

  /** How well a motion explains the picture of the level that is loaded. */
  private judge({ h, exposure, isHeld }: Aligned): Judgement {
    if (!isHeld) return NOTHING_AGREES
    return this.kernel.judge(h, exposure, this.options.surface === 'plane')
  }

  private load(template: TemplateLevel, image: PyramidLevel, level: number) {
    this.kernel.load(template, image, this.hidden?.[level] ?? null)
  }
}

const isClear = ({ match, kept }: Judgement) => match > CLEAR_MATCH && kept > CLEAR_KEPT

const isClearlyBetter = (a: Judgement, b: Judgement) => a.match * a.kept > b.match * b.kept + CLEARLY_BETTER

/** Plate pixels that a corner may lie away from where the motion so far leads. */
const MOST_SURPRISE = 80

/** A surface does not turn over, halve its size or leap from one look to the next: such a motion has run away. */
function isPlausible(before: Matrix3, after: Matrix3): boolean {
  movePolygon(REGION_SQUARE, before, squareBefore)
  movePolygon(REGION_SQUARE, after, squareAfter)
  const ratio = signedArea(squareAfter) / signedArea(squareBefore)
  if (!(ratio > 0.4 && ratio < 2.5)) return false
  for (let i = 0; i < REGION_SQUARE.length; i += 2) {
    const [dx, dy] = [squareAfter[i]! - squareBefore[i]!, squareAfter[i + 1]! - squareBefore[i + 1]!]
    if (Math.sqrt(dx * dx + dy * dy) > MOST_SURPRISE) return false
  }
  return true
}

const REGION_SQUARE = [-1, -1, 1, -1, 1, 1, -1, 1] as const
const [squareBefore, squareAfter] = [new Float64Array(REGION_SQUARE.length), new Float64Array(REGION_SQUARE.length)]

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
  const place = [0, 0]
  let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity]
  for (const outline of outlines) {
    for (let i = 0; i < outline.length; i += 2) {
      applyToPoint(motion, outline[i]!, outline[i + 1]!, place)
      left = Math.min(left, place[0]!)
      top = Math.min(top, place[1]!)
      right = Math.max(right, place[0]!)
      bottom = Math.max(bottom, place[1]!)
    }
  }
  return {
    left: Math.floor(left + margin[0]),
    top: Math.floor(top + margin[1]),
    right: Math.ceil(right + margin[2]),
    bottom: Math.ceil(bottom + margin[3]),
  }
}
