/** One plane cubic Bezier segment: x0, y0, x1, y1, x2, y2, x3, y3. */
export type Cubic = Float64Array | number[]

export function cubicPoint(c: ArrayLike<number>, t: number, out: number[] | Float64Array = [0, 0]) {
  const s = 1 - t
  const b0 = s * s * s
  const b1 = 3 * s * s * t
  const b2 = 3 * s * t * t
  const b3 = t * t * t
  out[0] = b0 * c[0]! + b1 * c[2]! + b2 * c[4]! + b3 * c[6]!
  out[1] = b0 * c[1]! + b1 * c[3]! + b2 * c[5]! + b3 * c[7]!
  return out
}

export function cubicDerivative(c: ArrayLike<number>, t: number, out: number[] | Float64Array = [0, 0]) {
  const s = 1 - t
  for (let k = 0; k < 2; k++) {
    out[k] = 3 * (s * s * (c[2 + k]! - c[k]!) + 2 * s * t * (c[4 + k]! - c[2 + k]!) + t * t * (c[6 + k]! - c[4 + k]!))
  }
  return out
}

/** Both halves of the segment at parameter t (de Casteljau): 16 numbers, first half then second. */
export function splitCubic(c: ArrayLike<number>, t: number): Float64Array {
  const out = new Float64Array(16)
  for (let k = 0; k < 2; k++) {
    const a = c[k]! + (c[2 + k]! - c[k]!) * t
    const b = c[2 + k]! + (c[4 + k]! - c[2 + k]!) * t
    const d = c[4 + k]! + (c[6 + k]! - c[4 + k]!) * t
    const ab = a + (b - a) * t
    const bd = b + (d - b) * t
    const middle = ab + (bd - ab) * t
    out[k] = c[k]!
    out[2 + k] = a
    out[4 + k] = ab
    out[6 + k] = middle
    out[8 + k] = middle
    out[10 + k] = bd
    out[12 + k] = d
    out[14 + k] = c[6 + k]!
  }
  return out
}

/** Abscissae and weights of 16-point Gauss-Legendre quadrature (Abramowitz & Stegun, table 25.4). */
const GAUSS_16 = [
  [0.0950125098376374, 0.1894506104550685],
  [0.2816035507792589, 0.1826034150449236],
  [0.4580167776572274, 0.1691565193950025],
  [0.6178762444026438, 0.1495959888165767],
  [0.755404408355003, 0.1246289712555339],
  [0.8656312023878318, 0.0951585116824928],
  [0.9445750230732326, 0.0622535239386479],
  [0.9894009349916499, 0.0271524594117541],
] as const

/** Arc length in the segment's own units. */
export function cubicLength(c: ArrayLike<number>): number {
  const d = [0, 0]
  let sum = 0
  for (const [x, weight] of GAUSS_16) {
    for (const side of [-1, 1]) {
      cubicDerivative(c, 0.5 + (side * x) / 2, d)
      sum += weight * Math.hypot(d[0]!, d[1]!)
    }
  }
  return sum / 2
}

/** Parameter and distance of the point of the segment nearest to (x, y): coarse search, then Newton on the derivative. */
export function nearestOnCubic(c: ArrayLike<number>, x: number, y: number): { t: number; distance: number } {
  const p = [0, 0]
  let bestT = 0
  let best = Infinity
  for (let i = 0; i <= 24; i++) {
    cubicPoint(c, i / 24, p)
    const d = (p[0]! - x) ** 2 + (p[1]! - y) ** 2
    if (d < best) {
      best = d
      bestT = i / 24
    }
  }
  let low = Math.max(0, bestT - 1 / 24)
  let high = Math.min(1, bestT + 1 / 24)
  // Golden-section: the bracket holds one minimum, and it never leaves [0, 1].
  const ratio = (Math.sqrt(5) - 1) / 2
  const squaredDistance = (t: number) => {
    cubicPoint(c, t, p)
    return (p[0]! - x) ** 2 + (p[1]! - y) ** 2
  }
  let a = high - ratio * (high - low)
  let b = low + ratio * (high - low)
  let da = squaredDistance(a)
  let db = squaredDistance(b)
  for (let i = 0; i < 40; i++) {
    if (da < db) {
      high = b
      b = a
      db = da
      a = high - ratio * (high - low)
      da = squaredDistance(a)
    } else {
      low = a
      a = b
      da = db
      b = low + ratio * (high - low)
      db = squaredDistance(b)
    }
  }
  const t = (low + high) / 2
  const d = squaredDistance(t)
  return d < best ? { t, distance: Math.sqrt(d) } : { t: bestT, distance: Math.sqrt(best) }
}
