import { grown, type Box } from '../geometry'
import { fastestBlur, variedBlurInto, variedReach, type FocusField } from './blur'
import { sizeOf } from './fittedMatte'

/** What is done to the layers of a Part once they are one, in this order, before others cut it. */
export interface MatteFinish {
  /** Sigma of a Gaussian, target pixels. */
  blur: number
  /** Alpha that becomes 0, and that which becomes 1. */
  blackPoint: number
  whitePoint: number
  /** Share of what has come of it. */
  opacity: number
}

/** The same, with the focus of the only layer, where that differs from point to point: it comes first. */
export type PartFinish = MatteFinish & { focus?: FocusField }

/** Farthest that a blur carries anything, target pixels. */
export const blurReach = (sigma: number): number => Math.ceil(3 * sigma)

export const finishReach = (finish: PartFinish | undefined): number =>
  blurReach(finish?.blur ?? 0) + (finish?.focus ? variedReach(finish.focus.most) : 0)

/** It commutes with the mean over the sub-times. */
export const isLinear = ({ blackPoint, whitePoint }: MatteFinish): boolean => blackPoint === 0 && whitePoint === 1

/** Least distance of the white point from the black one: an alpha at the same level is cut hard. */
const LEAST_RANGE = 1e-3

/**
 * Finishes the alpha of a Part.
 *
 * @param alpha  over `around`, which reaches {@link finishReach} farther than `box` to all sides
 * @param out    gets the pixels of `box`, row-major
 */
export function finishInto(alpha: Float32Array, around: Box, finish: PartFinish, box: Box, out: Float32Array) {
  const { focus, blur, blackPoint, whitePoint, opacity } = finish
  let [from, fromBox] = [alpha, around]
  if (focus) {
    fromBox = grown(box, blurReach(blur))
    from = blur > 0 ? new Float32Array(sizeOf(fromBox)) : out
    variedBlurInto(fastestBlur(), alpha, around, focus, fromBox, from)
  }
  if (blur > 0) {
    blurInto(from, fromBox, blur, box, out)
    from = out
  }
  const gain = 1 / Math.max(LEAST_RANGE, whitePoint - blackPoint)
  for (let i = 0; i < sizeOf(box); i++) {
    const level = (from[i]! - blackPoint) * gain
    out[i] = opacity * (level <= 0 ? 0 : level >= 1 ? 1 : level)
  }
}

/**
 * Blurs a layer.
 *
 * @param alpha  over `around`, which reaches {@link blurReach} farther than `box` to all sides
 * @param out    gets the pixels of `box`, row-major
 */
export function blurInto(alpha: Float32Array, around: Box, sigma: number, box: Box, out: Float32Array) {
  fastestBlur().load(alpha, around)
  fastestBlur().evenly(sigma, box, out)
}
