import { cubicPoint, leastSquaresCubic, nearestOnCubic } from '../spline'
import { POINT, POINT_STRIDE } from '../document'
import { segmentOf } from '../evaluation'

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
  let parameters = lengths.map((length) => length / total)
  let cubic = leastSquaresCubic(samples, parameters, t1, t2, total / 3)
  for (let round = 0; round < 4; round++) {
    parameters = parameters.map((_, i) => nearestOnCubic(cubic, samples[2 * i]!, samples[2 * i + 1]!).t)
    cubic = leastSquaresCubic(samples, parameters, t1, t2, total / 3)
  }
  out[a + POINT.outX] = cubic[2]! - cubic[0]!
  out[a + POINT.outY] = cubic[3]! - cubic[1]!
  out[b + POINT.inX] = cubic[4]! - cubic[6]!
  out[b + POINT.inY] = cubic[5]! - cubic[7]!
  let worst = 0
  for (let i = 0; i < samples.length; i += 2) {
    worst = Math.max(worst, nearestOnCubic(cubic, samples[i]!, samples[i + 1]!).distance)
  }
  return worst
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
