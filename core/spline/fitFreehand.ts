import { wrappedAngle } from '../geometry'
import { cubicDerivative, cubicPoint } from './cubic'
import { leastSquaresCubic } from './leastSquaresCubic'

/**
 * Closed outline of few cubic segments through a freehand stroke.
 *
 * Schneider, "An Algorithm for Automatically Fitting Digitized Curves", Graphics Gems, 1990, with the stroke closed
 * and corners found first, so that a sharp turn becomes a corner point instead of a bulge.
 *
 * @param stroke     x0, y0, x1, y1 ... in plate pixels, in drawing order, not repeated at the end; 3 points or more
 * @param tolerance  largest distance in pixels between stroke and outline at places of the stroke that lie as far apart at most
 * @returns cubic segments one behind the other, each starting where the last ended; `corners[i]` tells whether the
 *          start of segment i is a corner
 */
export function fitClosedStroke(
  stroke: ArrayLike<number>,
  tolerance: number,
): { segments: Float64Array[]; corners: boolean[] } {
  const points = withoutGaps(withoutRepeats(stroke), tolerance)
  const count = points.length / 2
  if (count < 3) return { segments: [], corners: [] }
  let breaks = cornerIndices(points)
  const isCorner = new Set(breaks)
  // Without two corners the loop is cut at its start and opposite, smoothly.
  if (breaks.length < 2) {
    const first = breaks[0] ?? 0
    breaks = [first, (first + Math.floor(count / 2)) % count].sort((a, b) => a - b)
  }
  const segments: Float64Array[] = []
  const corners: boolean[] = []
  for (let i = 0; i < breaks.length; i++) {
    const start = breaks[i]!
    const end = breaks[(i + 1) % breaks.length]!
    const run = cyclicRun(points, start, end)
    const startTangent = isCorner.has(start) ? tangentAhead(run, 1) : loopTangent(points, start)
    const endTangent = isCorner.has(end) ? tangentAhead(run, -1) : negated(loopTangent(points, end))
    const before = segments.length
    fitRun(run, 0, run.length / 2 - 1, startTangent, endTangent, tolerance, segments)
    for (let s = before; s < segments.length; s++) corners.push(s === before && isCorner.has(start))
  }
  return { segments, corners }
}

function withoutRepeats(stroke: ArrayLike<number>): Float64Array {
  const kept: number[] = []
  for (let i = 0; i < stroke.length; i += 2) {
    const n = kept.length
    if (n && Math.hypot(stroke[i]! - kept[n - 2]!, stroke[i + 1]! - kept[n - 1]!) < 0.25) continue
    kept.push(stroke[i]!, stroke[i + 1]!)
  }
  while (kept.length > 2 && Math.hypot(kept[0]! - kept.at(-2)!, kept[1]! - kept.at(-1)!) < 0.25) kept.length -= 2
  return Float64Array.from(kept)
}

/**
 * A closed stroke whose samples are at most so far apart: those of a fast hand are not, and between two of them nothing would hold the outline to the
 * line.
 */
function withoutGaps(points: Float64Array, farthest: number): Float64Array {
  const count = points.length / 2
  const filled: number[] = []
  for (let i = 0; i < count; i++) {
    const next = (i + 1) % count
    const [x, y] = [points[2 * i]!, points[2 * i + 1]!]
    const [toX, toY] = [points[2 * next]!, points[2 * next + 1]!]
    const steps = Math.max(1, Math.ceil(Math.hypot(toX - x, toY - y) / farthest))
    for (let n = 0; n < steps; n++) filled.push(x + ((toX - x) * n) / steps, y + ((toY - y) * n) / steps)
  }
  return Float64Array.from(filled)
}

/** Turn seen over about 6 px to both sides must exceed 60 degrees and be the sharpest nearby to count as a corner. */
function cornerIndices(points: Float64Array): number[] {
  const count = points.length / 2
  const turn = new Float64Array(count)
  for (let i = 0; i < count; i++) {
    const before = indexAtDistance(points, i, -1, 6)
    const after = indexAtDistance(points, i, 1, 6)
    const inAngle = Math.atan2(points[2 * i + 1]! - points[2 * before + 1]!, points[2 * i]! - points[2 * before]!)
    const outAngle = Math.atan2(points[2 * after + 1]! - points[2 * i + 1]!, points[2 * after]! - points[2 * i]!)
    turn[i] = Math.abs(wrappedAngle(outAngle - inAngle))
  }
  const corners: number[] = []
  for (let i = 0; i < count; i++) {
    if (turn[i]! < Math.PI / 3) continue
    let isSharpest = true
    for (const direction of [-1, 1]) {
      const limit = indexAtDistance(points, i, direction, 8)
      for (let j = (i + direction + count) % count; isSharpest; j = (j + direction + count) % count) {
        if (turn[j]! > turn[i]! || (turn[j] === turn[i] && j < i)) isSharpest = false
        if (j === limit) break
      }
    }
    if (isSharpest) corners.push(i)
  }
  return corners
}

function indexAtDistance(points: Float64Array, from: number, direction: number, distance: number): number {
  const count = points.length / 2
  let travelled = 0
  let i = from
  for (let step = 0; step < count - 1 && travelled < distance; step++) {
    const j = (i + direction + count) % count
    travelled += Math.hypot(points[2 * j]! - points[2 * i]!, points[2 * j + 1]! - points[2 * i + 1]!)
    i = j
  }
  return i
}

function cyclicRun(points: Float64Array, start: number, end: number): Float64Array {
  const count = points.length / 2
  const run: number[] = []
  for (let i = start; ; i = (i + 1) % count) {
    run.push(points[2 * i]!, points[2 * i + 1]!)
    if (i === end && run.length > 2) break
  }
  return Float64Array.from(run)
}

type Vector = [number, number]
const negated = (v: Vector): Vector => [-v[0], -v[1]]

function unit(x: number, y: number): Vector {
  const length = Math.hypot(x, y)
  return length > 0 ? [x / length, y / length] : [1, 0]
}

function tangentAhead(run: Float64Array, direction: 1 | -1): Vector {
  const count = run.length / 2
  const at = direction === 1 ? 0 : count - 1
  const reach = Math.min(count - 1, 3)
  const to = at + direction * reach
  return unit(run[2 * to]! - run[2 * at]!, run[2 * to + 1]! - run[2 * at + 1]!)
}

function loopTangent(points: Float64Array, at: number): Vector {
  const before = indexAtDistance(points, at, -1, 4)
  const after = indexAtDistance(points, at, 1, 4)
  return unit(points[2 * after]! - points[2 * before]!, points[2 * after + 1]! - points[2 * before + 1]!)
}

function fitRun(
  p: Float64Array,
  first: number,
  last: number,
  startTangent: Vector,
  endTangent: Vector,
  tolerance: number,
  out: Float64Array[],
) {
  const parameters = chordLengthParameters(p, first, last)
  const samples = p.subarray(2 * first, 2 * last + 2)
  const thirdOfChord = Math.hypot(p[2 * last]! - p[2 * first]!, p[2 * last + 1]! - p[2 * first + 1]!) / 3
  let curve = leastSquaresCubic(samples, parameters, startTangent, endTangent, thirdOfChord)
  let worst = largestError(p, first, last, parameters, curve)
  for (let round = 0; round < 8 && worst.error > tolerance && worst.error < tolerance * 8; round++) {
    reparameterise(p, first, last, parameters, curve)
    curve = leastSquaresCubic(samples, parameters, startTangent, endTangent, thirdOfChord)
    worst = largestError(p, first, last, parameters, curve)
  }
  if (worst.error <= tolerance) {
    out.push(curve)
    return
  }
  const split = worst.index
  const before = Math.max(first, split - 2)
  const after = Math.min(last, split + 2)
  const centre = unit(p[2 * before]! - p[2 * after]!, p[2 * before + 1]! - p[2 * after + 1]!)
  fitRun(p, first, split, startTangent, centre, tolerance, out)
  fitRun(p, split, last, negated(centre), endTangent, tolerance, out)
}

function chordLengthParameters(p: Float64Array, first: number, last: number): Float64Array {
  const u = new Float64Array(last - first + 1)
  for (let i = first + 1; i <= last; i++) {
    u[i - first] = u[i - first - 1]! + Math.hypot(p[2 * i]! - p[2 * i - 2]!, p[2 * i + 1]! - p[2 * i - 1]!)
  }
  const total = u[u.length - 1]!
  for (let i = 0; i < u.length; i++) u[i]! /= total
  return u
}

function largestError(p: Float64Array, first: number, last: number, u: Float64Array, curve: Float64Array) {
  let error = 0
  let index = Math.floor((first + last) / 2)
  const q = [0, 0]
  for (let i = first + 1; i < last; i++) {
    cubicPoint(curve, u[i - first]!, q)
    const distance = Math.hypot(q[0]! - p[2 * i]!, q[1]! - p[2 * i + 1]!)
    if (distance > error) {
      error = distance
      index = i
    }
  }
  return { error, index }
}

/** One Newton step of every parameter towards the foot of its sample on the curve. */
function reparameterise(p: Float64Array, first: number, last: number, u: Float64Array, curve: Float64Array) {
  const q = [0, 0]
  const d = [0, 0]
  for (let i = first + 1; i < last; i++) {
    const t = u[i - first]!
    cubicPoint(curve, t, q)
    cubicDerivative(curve, t, d)
    const s = 1 - t
    const second = [0, 1].map(
      (k) =>
        6 *
        (s * (curve[4 + k]! - 2 * curve[2 + k]! + curve[k]!) + t * (curve[6 + k]! - 2 * curve[4 + k]! + curve[2 + k]!)),
    )
    const ex = q[0]! - p[2 * i]!
    const ey = q[1]! - p[2 * i + 1]!
    const numerator = ex * d[0]! + ey * d[1]!
    const denominator = d[0]! ** 2 + d[1]! ** 2 + ex * second[0]! + ey * second[1]!
    if (denominator !== 0) u[i - first] = Math.min(1, Math.max(0, t - numerator / denominator))
  }
}
