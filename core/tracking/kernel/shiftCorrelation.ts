import type { PyramidLevel } from '../../image'
import { correlation } from '../correlation'

/** Some of a template's samples: their values, and the pixels that they lie on under a motion. */
export interface ShiftSamples {
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

/** Shifts to the left, up, right and down; negative is left and up. */
export type ShiftWindow = readonly [left: number, top: number, right: number, bottom: number]

/** Normalised cross-correlation at one shift, -1 where less than half of the samples lie in the picture. */
export function correlationAt(
  { data, width, height }: PyramidLevel,
  samples: ShiftSamples,
  dx: number,
  dy: number,
): number {
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
