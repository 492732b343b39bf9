import type { Box } from '../geometry'
import { blurred } from '../image'
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

/** Farthest that a blur carries anything, target pixels. */
export const blurReach = (sigma: number): number => Math.ceil(3 * sigma)

export const finishReach = (finish: MatteFinish | undefined): number => blurReach(finish?.blur ?? 0)

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
export function finishInto(alpha: Float32Array, around: Box, finish: MatteFinish, box: Box, out: Float32Array) {
  const { blur, blackPoint, whitePoint, opacity } = finish
  const width = around.right - around.left
  const data = blurredAlpha(alpha, around, blur)
  const gain = 1 / Math.max(LEAST_RANGE, whitePoint - blackPoint)
  let at = 0
  for (let y = box.top; y < box.bottom; y++) {
    let from = (y - around.top) * width + box.left - around.left
    for (let x = box.left; x < box.right; x++) {
      const level = (data[from++]! - blackPoint) * gain
      out[at++] = opacity * (level <= 0 ? 0 : level >= 1 ? 1 : level)
    }
  }
}

function blurredAlpha(alpha: Float32Array, around: Box, sigma: number): Float32Array {
  const [width, height] = [around.right - around.left, around.bottom - around.top]
  return blurred({ left: 0, top: 0, width, height, data: alpha.subarray(0, sizeOf(around)) }, sigma).data
}

/**
 * Blurs a layer.
 *
 * @param alpha  over `around`, which reaches {@link blurReach} farther than `box` to all sides
 * @param out    gets the pixels of `box`, row-major
 */
export function blurInto(alpha: Float32Array, around: Box, sigma: number, box: Box, out: Float32Array) {
  const data = blurredAlpha(alpha, around, sigma)
  const [width, own] = [around.right - around.left, box.right - box.left]
  for (let y = box.top; y < box.bottom; y++) {
    const from = (y - around.top) * width + box.left - around.left
    out.set(data.subarray(from, from + own), (y - box.top) * own)
  }
}
