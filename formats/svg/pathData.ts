import { CORNER_STRIDE } from '../outlines'

/** Decimals of a pixel that are written. */
const DECIMALS = 3
/** By how many pixels a place is off for being rounded. */
export const ROUNDING = Math.SQRT1_2 * 10 ** -DECIMALS

/** Corners of a closed outline as SVG path data. */
export function pathData(corners: readonly number[]): string {
  const point = (i: number) => `${written(corners[i]!)} ${written(corners[i + 1]!)}`
  let data = corners.length > 0 ? `M${point(0)}` : ''
  for (let i = 0; i < corners.length; i += CORNER_STRIDE) {
    data += `C${point(i + 2)} ${point(i + 4)} ${point((i + CORNER_STRIDE) % corners.length)}`
  }
  return corners.length > 0 ? `${data}Z` : ''
}

/** A pixel's fraction in three decimals, without what says nothing. */
const written = (value: number): string => String(Number(value.toFixed(DECIMALS)))
