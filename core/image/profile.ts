import type { LumaImage } from './luma'
import { bilinear } from './edgeAcross'

/** Where a picture changes most, and the way in which it falls there, of length 1. */
export interface Steepest {
  x: number
  y: number
  normalX: number
  normalY: number
}

/** Differences of neighbours, of 1, below which nothing changes. */
const LEAST_CHANGE = 0.01

/**
 * The pixel near a place at which a picture changes most, by central differences; of those that change nearly as much the one nearest to the place.
 *
 * @param reach  pixels about the place that are looked at
 * @returns      null where nothing changes
 */
export function steepestNear(
  { left, top, width, height, data }: LumaImage,
  x: number,
  y: number,
  reach: number,
): Steepest | null {
  let best: Steepest | null = null
  let most = 0
  for (let row = 1; row < height - 1; row++) {
    for (let column = 1; column < width - 1; column++) {
      const [px, py] = [left + column + 0.5, top + row + 0.5]
      const away = Math.hypot(px - x, py - y)
      if (away > reach) continue
      const at = row * width + column
      const [dx, dy] = [(data[at + 1]! - data[at - 1]!) / 2, (data[at + width]! - data[at - width]!) / 2]
      const slope = Math.hypot(dx, dy)
      const worth = slope * (1 - away / (2 * reach))
      if (slope < LEAST_CHANGE || worth <= most) continue
      most = worth
      best = { x: px, y: py, normalX: -dx / slope, normalY: -dy / slope }
    }
  }
  return best
}

/** Values along a line through a place, from `-reach` to `reach` pixels, `step` apart; NaN outside of the picture. */
export function profileAlong(
  image: LumaImage,
  { x, y, normalX, normalY }: Steepest,
  reach: number,
  step: number,
): Float32Array {
  const count = Math.round((2 * reach) / step) + 1
  return Float32Array.from({ length: count }, (_, i) => {
    const along = -reach + i * step
    return bilinear(image, x + along * normalX, y + along * normalY)
  })
}
