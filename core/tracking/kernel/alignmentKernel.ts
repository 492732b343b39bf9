import type { Matrix3 } from '../../geometry'
import type { LumaImage, PixelMask, PyramidLevel } from '../../image'
import type { TemplateLevel } from '../patternTemplate'
import type { PlanarModel } from '../planarModels'

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

/** The inner loops of alignment, over the samples of one template level and one picture. */
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
  /** The last residuals, valid until the next call of `load` or `residuals`. */
  lastResiduals(): Float32Array
  /**
   * Lower triangle of the weighted normal equations of the motion parameters, gain and bias; row by row.
   *
   * @param isCellwise  whether samples also count by how far their cell is to be trusted
   */
  normalEquations(
    model: PlanarModel,
    gain: number,
    noise: number,
    isCellwise: boolean,
    normal: Float64Array,
    right: Float64Array,
  ): void
  /** @param onlyAgreeing  whether the match is that of the samples that agree, or of all that are seen */
  judge(exposure: Exposure, noise: number, onlyAgreeing: boolean): Judgement
}

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
