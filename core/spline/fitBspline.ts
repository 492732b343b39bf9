/** A place on a uniform B-spline as a sum of control points: which ones, and how much of each. */
type Row = [index: number, weight: number][]

/**
 * Makes uniform cubic B-splines that come nearest to samples in the sense of least squares, the parameters of the samples
 * being given: then control points are linear in the samples, so that outlines between two keys are as near as the keys.
 *
 * Normal equations by Cholesky's method (Golub & Van Loan, Matrix Computations, 4th ed., section 5.3.2); the equations are
 * set up and factored once for all keys.
 *
 * @param count       control points, 3 or more of a closed curve, 2 or more of an open one
 * @param tensions    of each control point, 0 to 1, as in bsplineAsBezier
 * @param parameters  of each sample; 0 to count when closed, to count - 1 when open
 */
export class BsplineFit {
  private readonly rows: Row[]
  private readonly factor: Float64Array

  constructor(
    private readonly count: number,
    isClosed: boolean,
    tensions: ArrayLike<number>,
    parameters: ArrayLike<number>,
  ) {
    this.rows = Array.from(parameters, (v) => rowAt(v, count, isClosed, tensions))
    const normal = new Float64Array(count * count)
    for (const row of this.rows) {
      for (const [i, a] of row) for (const [j, b] of row) normal[i * count + j]! += a * b
    }
    // Control points that hardly matter stay near the mean of nothing: far below a pixel.
    for (let i = 0; i < count; i++) normal[i * count + i]! += 1e-9 * this.rows.length
    this.factor = cholesky(normal, count)
  }

  /** Control points x0, y0, x1, y1 ... for samples x0, y0, ... in the order of the parameters. */
  controlPoints(samples: ArrayLike<number>): Float64Array {
    const out = new Float64Array(2 * this.count)
    const right = new Float64Array(this.count)
    for (let axis = 0; axis < 2; axis++) {
      right.fill(0)
      this.rows.forEach((row, n) => {
        for (const [i, weight] of row) right[i]! += weight * samples[2 * n + axis]!
      })
      solve(this.factor, this.count, right)
      for (let i = 0; i < this.count; i++) out[2 * i + axis] = right[i]!
    }
    return out
  }

  /** Largest distance from a sample to the curve of control points at the sample's parameter. */
  deviation(points: ArrayLike<number>, samples: ArrayLike<number>): number {
    let worst = 0
    this.rows.forEach((row, n) => {
      let [x, y] = [-samples[2 * n]!, -samples[2 * n + 1]!]
      for (const [i, weight] of row) {
        x += weight * points[2 * i]!
        y += weight * points[2 * i + 1]!
      }
      worst = Math.max(worst, Math.hypot(x, y))
    })
    return worst
  }
}

/** The curve at parameter v: Bernstein weights of the four Bezier points, each a sum of control points. */
function rowAt(v: number, count: number, isClosed: boolean, tensions: ArrayLike<number>): Row {
  const segments = isClosed ? count : count - 1
  const segment = Math.min(segments - 1, Math.max(0, Math.floor(v)))
  const t = v - segment
  const s = 1 - t
  const next = (segment + 1) % count
  const sums = new Map<number, number>()
  const add = (weight: number, index: number, share: number) => {
    const at = (index + count) % count
    sums.set(at, (sums.get(at) ?? 0) + weight * share)
  }
  const knot = (weight: number, i: number) => {
    const isEnd = !isClosed && (i === 0 || i === count - 1)
    const pull = isEnd ? 0 : 1 - tensions[i]!
    add(weight, i, 1 - pull / 3)
    add(weight, i - 1, pull / 6)
    add(weight, i + 1, pull / 6)
  }
  const inner = (weight: number, i: number, neighbour: number) => {
    const isEnd = !isClosed && (i === 0 || i === count - 1)
    const pull = isEnd ? 1 : 1 - tensions[i]!
    add(weight, i, 1 - pull / 3)
    add(weight, neighbour, pull / 3)
  }
  knot(s * s * s, segment)
  inner(3 * s * s * t, segment, segment + 1)
  inner(3 * s * t * t, next, segment)
  knot(t * t * t, next)
  return [...sums]
}

/** Lower triangle L with L L^T = A. */
function cholesky(a: Float64Array, n: number): Float64Array {
  const l = new Float64Array(n * n)
  for (let i = 0; i < n; i++) {
    for (let j = 0; j <= i; j++) {
      let sum = a[i * n + j]!
      for (let k = 0; k < j; k++) sum -= l[i * n + k]! * l[j * n + k]!
      l[i * n + j] = i === j ? Math.sqrt(Math.max(sum, 1e-12)) : sum / l[j * n + j]!
    }
  }
  return l
}

/** Solves L L^T x = b in place. */
function solve(l: Float64Array, n: number, b: Float64Array) {
  for (let i = 0; i < n; i++) {
    for (let k = 0; k < i; k++) b[i]! -= l[i * n + k]! * b[k]!
    b[i]! /= l[i * n + i]!
  }
  for (let i = n - 1; i >= 0; i--) {
    for (let k = i + 1; k < n; k++) b[i]! -= l[k * n + i]! * b[k]!
    b[i]! /= l[i * n + i]!
  }
}
