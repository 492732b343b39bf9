import type { Matrix3 } from '../geometry'
import type { PyramidLevel } from '../image'
import type { AlignmentKernel, ShiftSamples, ShiftWindow } from './kernel'
import type { TemplateLevel } from './patternTemplate'

/** More samples than this tell no more about a whole-pixel shift. */
const MOST_SAMPLES = 700
/** Starts that are worth trying beside the predicted one. */
const MOST_SHIFTS = 3

/**
 * Whole-pixel shifts, in pixels of a coarse level, under which the picture correlates well with the template: the best
 * peaks of the normalised cross-correlation over all shifts of a window, best first. Alignment by gradients needs a
 * start within about half a period of the texture, and rows of windows have short ones. What hides a part of the
 * region may spoil the order, so the caller tries them.
 *
 * @param start   pattern coordinates to plate pixels, where the motion is expected
 * @param window  shifts to the left, up, right and down; negative is left and up
 */
export function likelyShifts(
  kernel: AlignmentKernel,
  template: TemplateLevel,
  image: PyramidLevel,
  start: Matrix3,
  window: ShiftWindow,
): [number, number][] {
  const [left, top, right] = window
  const across = right - left + 1
  const scores = kernel.correlations(samplesAt(template, image, start), image, window)
  return peaksOf(scores, across)
    .sort((a, b) => scores[b]! - scores[a]!)
    .slice(0, MOST_SHIFTS)
    .map((at) => [(at % across) + left, Math.floor(at / across) + top])
}

/** Shifts to each side in which other places are looked at, as shares of the pattern's smaller side. */
const BESIDE = 0.75
/** A peak is as wide as this share of it: nearer places are the same one. */
const SAME_PLACE = 0.2

/**
 * By how much the correlation at the start exceeds that of the best place beside it.
 *
 * @param side  smaller side of the pattern, pixels of the level
 */
export function distinctnessOf(
  kernel: AlignmentKernel,
  template: TemplateLevel,
  image: PyramidLevel,
  start: Matrix3,
  side: number,
): number {
  const reach = Math.max(4, Math.round(BESIDE * side))
  const same = Math.max(2, Math.round(SAME_PLACE * side))
  const scores = kernel.correlations(samplesAt(template, image, start), image, [-reach, -reach, reach, reach])
  let [own, beside] = [-1, -1]
  for (let y = -reach, at = 0; y <= reach; y++) {
    for (let x = -reach; x <= reach; x++, at++) {
      const isSame = Math.abs(x) <= same && Math.abs(y) <= same
      // Half a pixel of a coarse level is much: the best of those round the place is its own.
      if (isSame && Math.abs(x) <= 1 && Math.abs(y) <= 1) own = Math.max(own, scores[at]!)
      if (!isSame) beside = Math.max(beside, scores[at]!)
    }
  }
  return own - beside
}

function samplesAt({ u, v, value, count, scale }: TemplateLevel, image: PyramidLevel, start: Matrix3): ShiftSamples {
  const stride = Math.max(1, Math.ceil(count / MOST_SAMPLES))
  const used = Math.floor(count / stride)
  const values = new Float32Array(used)
  const columns = new Int32Array(used)
  const rows = new Int32Array(used)
  let [firstColumn, lastColumn, firstRow, lastRow] = [Infinity, -Infinity, Infinity, -Infinity]
  let [sum, squares] = [0, 0]
  for (let n = 0; n < used; n++) {
    const un = u[n * stride]!
    const vn = v[n * stride]!
    const w = (start[6]! * un + start[7]! * vn + start[8]!) * scale
    const column = Math.floor((start[0]! * un + start[1]! * vn + start[2]!) / w - image.left / scale)
    const row = Math.floor((start[3]! * un + start[4]! * vn + start[5]!) / w - image.top / scale)
    const t = value[n * stride]!
    columns[n] = column
    rows[n] = row
    values[n] = t
    if (column < firstColumn) firstColumn = column
    if (column > lastColumn) lastColumn = column
    if (row < firstRow) firstRow = row
    if (row > lastRow) lastRow = row
    sum += t
    squares += t * t
  }
  return { values, columns, rows, firstColumn, lastColumn, firstRow, lastRow, sum, squares }
}

/** Places that no neighbour exceeds. */
function peaksOf(scores: Float64Array, across: number): number[] {
  const down = scores.length / across
  const peaks: number[] = []
  for (let y = 0; y < down; y++) {
    for (let x = 0; x < across; x++) {
      const own = scores[y * across + x]!
      let isPeak = own > 0
      for (let j = Math.max(0, y - 1); j <= Math.min(down - 1, y + 1); j++) {
        for (let i = Math.max(0, x - 1); i <= Math.min(across - 1, x + 1); i++) {
          if (scores[j * across + i]! > own) isPeak = false
        }
      }
      if (isPeak) peaks.push(y * across + x)
    }
  }
  return peaks
}
