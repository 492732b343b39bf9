import type { Matrix3 } from '../geometry'
import type { PyramidLevel } from '../image'
import { correlation } from './correlation'
import type { TemplateLevel } from './planarTemplate'

/** More samples than this tell no more about a whole-pixel shift. */
const MOST_SAMPLES = 700
/** Starts that are worth trying beside the predicted one. */
const MOST_SHIFTS = 3

/**
 * Whole-pixel shifts, in pixels of a coarse level, under which the picture correlates well with the template: the best
 * peaks of the normalised cross-correlation over all shifts up to `reach`, best first. Alignment by gradients needs a
 * start within about half a period of the texture, and rows of windows have short ones. What hides a part of the
 * region may spoil the order, so the caller tries them.
 *
 * @param start  region coordinates to plate pixels, where the motion is expected
 */
export function likelyShifts(
  template: TemplateLevel,
  image: PyramidLevel,
  start: Matrix3,
  reach: number,
): [number, number][] {
  const { u, v, value, scale } = template
  const stride = Math.max(1, Math.ceil(template.count / MOST_SAMPLES))
  const count = Math.floor(template.count / stride)
  const columns = new Int32Array(count)
  const rows = new Int32Array(count)
  for (let n = 0; n < count; n++) {
    const [un, vn] = [u[n * stride]!, v[n * stride]!]
    const w = (start[6]! * un + start[7]! * vn + start[8]!) * scale
    columns[n] = Math.floor((start[0]! * un + start[1]! * vn + start[2]!) / w - image.left / scale)
    rows[n] = Math.floor((start[3]! * un + start[4]! * vn + start[5]!) / w - image.top / scale)
  }
  const side = 2 * reach + 1
  const scores = new Float64Array(side * side).fill(-1)
  for (let dy = -reach; dy <= reach; dy++) {
    for (let dx = -reach; dx <= reach; dx++) {
      let used = 0
      let [st, si, stt, sii, sti] = [0, 0, 0, 0, 0]
      for (let n = 0; n < count; n++) {
        const x = columns[n]! + dx
        const y = rows[n]! + dy
        if (x < 0 || y < 0 || x >= image.width || y >= image.height) continue
        const t = value[n * stride]!
        const i = image.data[y * image.width + x]!
        used++
        st += t
        si += i
        stt += t * t
        sii += i * i
        sti += t * i
      }
      if (used < count / 2) continue
      scores[(dy + reach) * side + dx + reach] = correlation(used, st, si, stt, sii, sti)
    }
  }
  return peaksOf(scores, side)
    .sort((a, b) => scores[b]! - scores[a]!)
    .slice(0, MOST_SHIFTS)
    .map((at) => [(at % side) - reach, Math.floor(at / side) - reach])
}

/** Places that no neighbour exceeds. */
function peaksOf(scores: Float64Array, side: number): number[] {
  const peaks: number[] = []
  for (let y = 0; y < side; y++) {
    for (let x = 0; x < side; x++) {
      const own = scores[y * side + x]!
      let isPeak = own > 0
      for (let j = Math.max(0, y - 1); j <= Math.min(side - 1, y + 1); j++) {
        for (let i = Math.max(0, x - 1); i <= Math.min(side - 1, x + 1); i++) {
          if (scores[j * side + i]! > own) isPeak = false
        }
      }
      if (isPeak) peaks.push(y * side + x)
    }
  }
  return peaks
}
