import { valuesAt, type TimedValues } from './keys'

/** Where an outline's numbers stand: x and y, then the two tangents relative to the point. */
const IN = 2
const OUT = 4
/** Behind the points: the middle, the turn and the logarithm of the size of the whole outline. */
const WHOLE = 4

/**
 * Keys of an outline that interpolate its turn and size, and the angle and length of its tangents, in place of every
 * coordinate: an outline that turns by a quarter keeps its size on the way, where coordinates would cut the corner.
 *
 * From each key the similarity is taken out that brings the first key's points nearest to it (least squares over
 * corresponding points: Umeyama, "Least-squares estimation of transformation parameters between two point patterns",
 * 1991, in the plane as one complex division); what is left of the points goes by coordinates, of the tangents by angle
 * and length. Angles are followed from key to key, the shorter way round. On the keys nothing changes.
 */
export class TurningKeys {
  private readonly keys: readonly TimedValues[]
  private readonly scratch: Float64Array

  /** @param stride  numbers a point, the first six x, y, arriving tangent, leaving tangent */
  constructor(
    keys: readonly TimedValues[],
    private readonly stride: number,
  ) {
    const turned: TimedValues[] = []
    for (const key of keys) {
      turned.push({ ...key, values: this.taken(key.values, keys[0]!.values, turned.at(-1)?.values) })
    }
    this.keys = turned
    this.scratch = new Float64Array(turned[0]!.values.length)
  }

  /** The outline at a time; `out` has the keys' length. */
  valuesAt(time: number, out: Float64Array): Float64Array {
    const values = valuesAt(this.keys, time, this.scratch)
    const whole = out.length
    const [cx, cy] = [values[whole]!, values[whole + 1]!]
    const size = Math.exp(values[whole + 3]!)
    const [re, im] = [size * Math.cos(values[whole + 2]!), size * Math.sin(values[whole + 2]!)]
    for (let at = 0; at < whole; at += this.stride) {
      const [x, y] = [values[at]!, values[at + 1]!]
      out[at] = cx + re * x - im * y
      out[at + 1] = cy + im * x + re * y
      for (let tangent = IN; tangent <= OUT; tangent += 2) {
        const angle = values[at + tangent]! + values[whole + 2]!
        const length = values[at + tangent + 1]! * size
        out[at + tangent] = length * Math.cos(angle)
        out[at + tangent + 1] = length * Math.sin(angle)
      }
      for (let channel = OUT + 2; channel < this.stride; channel++) out[at + channel] = values[at + channel]!
    }
    return out
  }

  /** Values of one key without their similarity to the first key's, which stands behind them. */
  private taken(values: Float64Array, first: Float64Array, before: Float64Array | undefined): Float64Array {
    const whole = values.length
    const out = new Float64Array(whole + WHOLE)
    out.set(values)
    const [ax, ay] = this.middle(first)
    const [bx, by] = this.middle(values)
    let [dot, cross, square] = [0, 0, 0]
    for (let at = 0; at < whole; at += this.stride) {
      const [px, py] = [first[at]! - ax, first[at + 1]! - ay]
      const [qx, qy] = [values[at]! - bx, values[at + 1]! - by]
      dot += px * qx + py * qy
      cross += px * qy - py * qx
      square += px * px + py * py
    }
    const size = square > 0 ? Math.hypot(dot, cross) / square : 0
    const angle = size > 1e-9 ? Math.atan2(cross, dot) : 0
    out[whole] = bx
    out[whole + 1] = by
    out[whole + 2] = followed(angle, before?.[whole + 2])
    out[whole + 3] = size > 1e-9 ? Math.log(size) : 0
    const back = size > 1e-9 ? 1 / size : 1
    const [re, im] = [back * Math.cos(angle), -back * Math.sin(angle)]
    for (let at = 0; at < whole; at += this.stride) {
      const [x, y] = [values[at]! - bx, values[at + 1]! - by]
      out[at] = re * x - im * y
      out[at + 1] = im * x + re * y
      for (let tangent = IN; tangent <= OUT; tangent += 2) {
        const [dx, dy] = [values[at + tangent]!, values[at + tangent + 1]!]
        const length = Math.hypot(dx, dy)
        const earlier = before?.[at + tangent]
        // A tangent without length points where it did.
        out[at + tangent] = length > 0 ? followed(Math.atan2(dy, dx) - out[whole + 2]!, earlier) : (earlier ?? 0)
        out[at + tangent + 1] = length * back
      }
    }
    return out
  }

  private middle(values: Float64Array): [number, number] {
    let [x, y] = [0, 0]
    for (let at = 0; at < values.length; at += this.stride) {
      x += values[at]!
      y += values[at + 1]!
    }
    const count = values.length / this.stride
    return [x / count, y / count]
  }
}

/** The angle by whole turns nearest to an earlier one. */
function followed(angle: number, earlier = 0): number {
  return angle + 2 * Math.PI * Math.round((earlier - angle) / (2 * Math.PI))
}
