import { cubicPoint, nearestOnCubic } from '../../spline'
import { POINT, POINT_STRIDE } from '../objects'
import { segmentOf } from './segment'

const SAMPLES_PER_SEGMENT = 16

/**
 * Outline of one key without some of its points. Every run of removed points becomes one cubic that keeps the end
 * points and the tangent directions there; the tangent lengths are fitted by least squares to samples of the old run
 * (Schneider 1990, section "Fitting the curve").
 *
 * @returns new values, and the largest distance in pixels from samples of the old outline to the new one
 */
export function refitWithout(
  values: Float64Array,
  removed: readonly boolean[],
): { values: Float64Array; deviation: number } {
  const count = removed.length
  const out = values.slice()
  let deviation = 0
  for (let i = 0; i < count; i++) {
    if (removed[i] || !removed[(i + 1) % count]) continue
    let end = (i + 1) % count
    while (removed[end]) end = (end + 1) % count
    deviation = Math.max(deviation, refitRun(values, out, i, end, count))
  }
  const kept = removed.flatMap((isRemoved, i) => (isRemoved ? [] : [i]))
  const result = new Float64Array(kept.length * POINT_STRIDE)
  kept.forEach((from, to) =>
    result.set(out.subarray(from * POINT_STRIDE, (from + 1) * POINT_STRIDE), to * POINT_STRIDE),
  )
  return { values: result, deviation }
}

function refitRun(values: Float64Array, out: Float64Array, start: number, end: number, count: number): number {
  const samples: number[] = []
  const lengths = [0]
  for (let i = start; i !== end || samples.length === 0; i = (i + 1) % count) {
    const cubic = segmentOf(values, i)
    for (let k = samples.length ? 1 : 0; k <= SAMPLES_PER_SEGMENT; k++) {
      const [x, y] = cubicPoint(cubic, k / SAMPLES_PER_SEGMENT)
      if (samples.length) lengths.push(lengths.at(-1)! + Math.hypot(x! - samples.at(-2)!, y! - samples.at(-1)!))
      samples.push(x!, y!)
    }
  }
  const total = lengths.at(-1)! || 1
  const a = start * POINT_STRIDE
  const b = end * POINT_STRIDE
  const t1 = direction(values[a + POINT.outX]!, values[a + POINT.outY]!, samples, 0, 2)
  const t2 = direction(values[b + POINT.inX]!, values[b + POINT.inY]!, samples, samples.length - 2, samples.length - 4)
  const ends = [values[a]!, values[a + 1]!, values[b]!, values[b + 1]!] as const
  let parameters = lengths.map((length) => length / total)
  let [alpha1, alpha2] = tangentLengths(samples, parameters, ends, t1, t2, total)
  let cubic = cubicOf(ends, t1, alpha1, t2, alpha2)
  for (let round = 0; round < 4; round++) {
    parameters = parameters.map((_, i) => nearestOnCubic(cubic, samples[2 * i]!, samples[2 * i + 1]!).t)
    ;[alpha1, alpha2] = tangentLengths(samples, parameters, ends, t1, t2, total)
    cubic = cubicOf(ends, t1, alpha1, t2, alpha2)
  }
  out[a + POINT.outX] = t1[0] * alpha1
  out[a + POINT.outY] = t1[1] * alpha1
  out[b + POINT.inX] = t2[0] * alpha2
  out[b + POINT.inY] = t2[1] * alpha2
  let worst = 0
  for (let i = 0; i < samples.length; i += 2) {
    worst = Math.max(worst, nearestOnCubic(cubic, samples[i]!, samples[i + 1]!).distance)
  }
  return worst
}

type Ends = readonly [number, number, number, number]
type Vector = readonly [number, number]

function cubicOf([x0, y0, x3, y3]: Ends, t1: Vector, alpha1: number, t2: Vector, alpha2: number): Float64Array {
  return Float64Array.of(
    x0,
    y0,
    x0 + t1[0] * alpha1,
    y0 + t1[1] * alpha1,
    x3 + t2[0] * alpha2,
    y3 + t2[1] * alpha2,
    x3,
    y3,
  )
}

/** Least-squares lengths of the two tangents for samples at known parameters; thirds of the run when they point back. */
function tangentLengths(
  samples: readonly number[],
  parameters: readonly number[],
  [x0, y0, x3, y3]: Ends,
  t1: Vector,
  t2: Vector,
  total: number,
): [number, number] {
  let [c00, c01, c11, r0, r1] = [0, 0, 0, 0, 0]
  parameters.forEach((t, i) => {
    const s = 1 - t
    const b1 = 3 * s * s * t
    const b2 = 3 * s * t * t
    const restX = samples[2 * i]! - x0 * (s * s * s + b1) - x3 * (b2 + t * t * t)
    const restY = samples[2 * i + 1]! - y0 * (s * s * s + b1) - y3 * (b2 + t * t * t)
    c00 += b1 * b1
    c01 += b1 * b2 * (t1[0] * t2[0] + t1[1] * t2[1])
    c11 += b2 * b2
    r0 += b1 * (t1[0] * restX + t1[1] * restY)
    r1 += b2 * (t2[0] * restX + t2[1] * restY)
  })
  const determinant = c00 * c11 - c01 * c01
  const alpha1 = (r0 * c11 - r1 * c01) / determinant
  const alpha2 = (c00 * r1 - c01 * r0) / determinant
  return alpha1 > 0 && alpha2 > 0 ? [alpha1, alpha2] : [total / 3, total / 3]
}

/** Unit direction of a tangent, or of the first chord when the tangent has no length. */
function direction(x: number, y: number, samples: number[], from: number, to: number): [number, number] {
  if (Math.hypot(x, y) < 1e-9) {
    x = samples[to]! - samples[from]!
    y = samples[to + 1]! - samples[from + 1]!
  }
  const length = Math.hypot(x, y) || 1
  return [x / length, y / length]
}
