import type { Matrix3 } from '../geometry'
import type { PyramidLevel } from '../image'
import { correlation } from './correlation'
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
  template: TemplateLevel,
  image: PyramidLevel,
  start: Matrix3,
  [left, top, right, bottom]: readonly [number, number, number, number],
): [number, number][] {
  const samples = samplesAt(template, image, start)
  const across = right - left + 1
  const scores = new Float64Array(across * (bottom - top + 1)).fill(-1)
  for (let dy = top; dy <= bottom; dy++) {
    for (let dx = left; dx <= right; dx++) {
      scores[(dy - top) * across + dx - left] = correlationAt(image, samples, dx, dy)
    }
  }
  return peaksOf(scores, across)
    .sort((a, b) => scores[b]! - scores[a]!)
    .slice(0, MOST_SHIFTS)
    .map((at) => [(at % across) + left, Math.floor(at / across) + top])
}

/** Some of the template's samples: their values, and the pixels that they lie on under a motion. */
interface Samples {
  values: Float32Array
  columns: Int32Array
  rows: Int32Array
  firstColumn: number
  lastColumn: number
  firstRow: number
  lastRow: number
  /** Sums of the values and of their squares. */
  sum: number
  squares: number
}

function samplesAt({ u, v, value, count, scale }: TemplateLevel, image: PyramidLevel, start: Matrix3): Samples {
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

/** Normalised cross-correlation at one shift, -1 where less than half of the samples lie in the picture. */
function correlationAt({ data, width, height }: PyramidLevel, samples: Samples, dx: number, dy: number): number {
  const { values, columns, rows, sum, squares } = samples
  const isInside =
    samples.firstColumn + dx >= 0 &&
    samples.lastColumn + dx < width &&
    samples.firstRow + dy >= 0 &&
    samples.lastRow + dy < height
  let si = 0
  let sii = 0
  let sti = 0
  if (isInside) {
    const shift = dy * width + dx
    for (let n = 0; n < values.length; n++) {
      const i = data[rows[n]! * width + columns[n]! + shift]!
      si += i
      sii += i * i
      sti += values[n]! * i
    }
    return correlation(values.length, sum, si, squares, sii, sti)
  }
  let used = 0
  let st = 0
  let stt = 0
  for (let n = 0; n < values.length; n++) {
    const x = columns[n]! + dx
    const y = rows[n]! + dy
    if (x < 0 || y < 0 || x >= width || y >= height) continue
    const t = values[n]!
    const i = data[y * width + x]!
    used++
    st += t
    si += i
    stt += t * t
    sii += i * i
    sti += t * i
  }
  return used < values.length / 2 ? -1 : correlation(used, st, si, stt, sii, sti)
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
