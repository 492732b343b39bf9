import type { LumaImage } from './luma'

/** Where edges are looked for, in shares of the expected distance. */
const [NEAREST, FARTHEST] = [0.4, 2.6]
/** Steps of a profile, pixels. */
const STEP = 0.5
/** Profiles side by side that are averaged, and pixels between them: grain is not an edge. */
const BESIDE = [-3, -1.5, 0, 1.5, 3]
/** A clear edge is this many times as steep as half of its profile, and at least so steep (of 1, a pixel). */
const CLEAR_RATIO = 4
const LEAST_STEEP = 0.02
/** Distances on both sides of a joint that differ by more are not those of one bone. */
const MOST_UNEVEN = 1.8

/**
 * Half of the width of what lies across a place: the mean distance to the steepest edges on both sides; null where one of
 * them is not clear, or both are too unequal.
 *
 * @param across    direction across, of length 1
 * @param expected  about how far the edges are, pixels
 */
export function halfWidthAcross(
  image: LumaImage,
  place: readonly [number, number],
  across: readonly [number, number],
  expected: number,
): number | null {
  const one = clearEdge(image, place, across, expected)
  const other = clearEdge(image, place, [-across[0], -across[1]], expected)
  if (one === null || other === null) return null
  return Math.max(one, other) / Math.min(one, other) > MOST_UNEVEN ? null : (one + other) / 2
}

function clearEdge(
  image: LumaImage,
  [x, y]: readonly [number, number],
  [dx, dy]: readonly [number, number],
  expected: number,
): number | null {
  const count = Math.floor(((FARTHEST - NEAREST) * expected) / STEP)
  const valueAt = (distance: number) => {
    let sum = 0
    for (const beside of BESIDE)
      sum += bilinear(image, x + dx * distance - dy * beside, y + dy * distance + dx * beside)
    return sum / BESIDE.length
  }
  const steep = Array.from({ length: count }, (_, i) => {
    const distance = NEAREST * expected + i * STEP
    return Math.abs(valueAt(distance + 1) - valueAt(distance - 1)) / 2
  })
  if (steep.length < 4 || steep.some(Number.isNaN)) return null
  const steepest = Math.max(...steep)
  const usual = [...steep].sort((a, b) => a - b)[steep.length >> 1]!
  return steepest < LEAST_STEEP || steepest < CLEAR_RATIO * usual
    ? null
    : NEAREST * expected + steep.indexOf(steepest) * STEP
}

/** Value between the centres of pixels; NaN outside. */
export function bilinear({ left, top, width, height, data }: LumaImage, x: number, y: number): number {
  const [u, v] = [x - left - 0.5, y - top - 0.5]
  const [i, j] = [Math.floor(u), Math.floor(v)]
  if (i < 0 || j < 0 || i + 1 >= width || j + 1 >= height) return NaN
  const [fu, fv] = [u - i, v - j]
  const at = j * width + i
  return (1 - fv) * ((1 - fu) * data[at]! + fu * data[at + 1]!) + fv * ((1 - fu) * data[at + width]! + fu * data[at + width + 1]!) // prettier-ignore
}
