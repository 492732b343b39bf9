import type { Matrix3 } from '../../geometry'
import type { LumaImage, PixelMask, PyramidLevel } from '../../image'
import type { TemplateLevel } from '../patternTemplate'
import type { PlanarModel } from '../planarModels'
import type { ShiftSamples, ShiftWindow } from './shiftCorrelation'

/** How a picture's values follow from the template's: I = gain T + bias. */
export interface Exposure {
  gain: number
  bias: number
}

/** How well a motion explains the picture. */
export interface Judgement {
  /** Correlation 0..1 with the pattern: of the pixels that agreed for a plane, of all that are seen for a point. */
  match: number
  /** Share of the pattern's pixels that agreed with the motion, 0..1. */
  kept: number
  /** Root of the mean squared difference of those pixels, values 0..1. */
  residual: number
}

export const NOTHING_AGREES: Judgement = { match: 0, kept: 0, residual: 0 }

/** A motion that a picture was aligned to. */
export interface Aligned {
  /** Pattern coordinates to plate pixels. */
  h: Matrix3
  exposure: Exposure
  /** Whether there was enough to see, and it held the motion in all directions. */
  isHeld: boolean
}

/**
 * The inner loops of alignment, over the samples of one template level and one picture.
 */
export interface AlignmentKernel {
  /** The picture and its halves, see `pyramidOf`; what was loaded is forgotten. */
  pyramid(image: LumaImage, levels: number): PyramidLevel[]
  /** Takes what the other calls work on, until the next call of this. `hidden` marks pixels of the picture. */
  load(template: TemplateLevel, image: PyramidLevel, hidden: PixelMask | null): void
  /**
   * Residuals I(H x) - gain T(x) - bias of all samples: NaN outside the picture and where it is hidden.
   *
   * @param h  pattern coordinates to plate pixels
   * @returns how many samples are seen, and the robust noise of their residuals
   */
  residuals(h: Matrix3, exposure: Exposure): { count: number; noise: number }
  /** The last residuals, valid until the next call of another method. */
  lastResiduals(): Float32Array
  /** Median of what the picture shows at the samples, and median absolute deviation, under a motion; how many are seen. */
  shown(h: Matrix3): { count: number; middle: number; spread: number }
  /**
   * Gauss and Newton's iteration of a model's parameters, gain and bias, with weights renewed in each step.
   *
   * @param smallestStep  largest change of a parameter, pattern coordinates, below which it stops
   * @param mostSteps     steps after which it stops in any case
   */
  align(model: PlanarModel, h: Matrix3, exposure: Exposure, smallestStep: number, mostSteps: number): Aligned
  /**
   * How well a motion explains the picture.
   *
   * @param noise         of the residuals; their own when not given
   * @param onlyAgreeing  whether the match is that of the samples that agree, or of all that are seen
   */
  judge(h: Matrix3, exposure: Exposure, onlyAgreeing: boolean, noise?: number): Judgement
  /**
   * Normalised cross-correlation with a picture at all whole-pixel shifts of a window, row by row; -1 where less than half
   * of the samples lie in the picture, 0 where it does not vary. What was loaded is forgotten.
   */
  correlations(samples: ShiftSamples, image: PyramidLevel, window: ShiftWindow): Float64Array
}

/**
 * Whether a level between its pixels is the cubic B-spline through them. Only the finest is: there it is nearer to the
 * truth, while the softer cubic of Catmull & Rom leads to it from farther away.
 */
export const isSplined = ({ scale }: PyramidLevel) => scale === 1

/** Steps that look at samples one by one: far from the place, edges are outliers everywhere. */
export const TRUSTING_ITERATIONS = 2
/** Of a level's samples this share has to be seen. */
export const LEAST_SHARE = 0.1
/** A trace of damping keeps directions without texture still instead of letting them run away. */
export const DAMPING = 1e-7
/**
 * An edge that is blurred a little more or less than on the reference differs by about this many pixels times its
 * steepness. Without the allowance the weights would drop just the edges that hold the position.
 */
export const EDGE_SLACK_PIXELS = 0.08
/** Share of outliers up to which a cell is trusted wholly, and from which it is not at all. */
export const TRUSTED = 0.15
export const DISTRUSTED = 0.4
/** Grain and rounding below this (of 1) are never taken for occlusion. */
export const SMALLEST_NOISE = 1.5 / 255
/** Fewer samples than this tell nothing. */
export const LEAST_SEEN = 12
