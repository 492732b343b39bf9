import { CoverageAccumulator } from '../accumulate'
import { sizeOf } from '../fittedMatte'
import { overlapOf, type Plane, type Planes } from './planes'

/** The tested reference of the faster ones. */
export class PlainPlanes implements Planes {
  taken = 0
  readonly accumulator = new CoverageAccumulator()
  /** Used again for every picture. */
  private readonly pool: Float32Array[] = []

  take(size: number): Float32Array {
    const known = this.pool[this.taken]
    if (known && known.length >= size) {
      this.taken++
      return known
    }
    const made = new Float32Array(size)
    this.pool[this.taken++] = made
    return made
  }

  addShare(sum: Float32Array, values: Float32Array, size: number, share: number) {
    for (let i = 0; i < size; i++) sum[i]! += values[i]! * share
  }

  cut({ box, values }: Plane, front: Plane, out: Float32Array) {
    const size = sizeOf(box)
    if (values !== out) for (let i = 0; i < size; i++) out[i] = values[i]!
    const { rows, width, frontWidth, at, frontAt, columns } = overlapOf(box, front.box)
    for (let row = 0; row < rows; row++) {
      let i = row * width + at
      let from = row * frontWidth + frontAt
      for (const end = i + columns; i < end; i++, from++) out[i]! *= 1 - front.values[from]!
    }
  }

  addCut(sum: Float32Array, { box, values }: Plane, front: Plane, share: number) {
    const { rows, width, frontWidth, at, frontAt, columns } = overlapOf(box, front.box)
    for (let row = 0; row < rows; row++) {
      let i = row * width
      let from = row * frontWidth + frontAt
      for (const end = i + at; i < end; i++) sum[i]! += values[i]! * share
      for (const end = i + columns; i < end; i++, from++) sum[i]! += values[i]! * (1 - front.values[from]!) * share
      for (const end = (row + 1) * width; i < end; i++) sum[i]! += values[i]! * share
    }
  }
}
