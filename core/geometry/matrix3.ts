import { GeometryError } from '../errors'

/** 3x3 matrix, row-major, 9 numbers, acting on column vectors (x, y, 1). */
export type Matrix3 = Float64Array

/** Numbers of a matrix, in a row of them as well. */
export const MATRIX_LENGTH = 9

/** Matrix i of a row of them; a view, not a copy. */
export function matrixAt(matrices: Float64Array, i: number): Matrix3 {
  return matrices.subarray(i * MATRIX_LENGTH, (i + 1) * MATRIX_LENGTH)
}

export function identity(): Matrix3 {
  return translation(0, 0)
}

export function translation(x: number, y: number): Matrix3 {
  const m = new Float64Array(9)
  m[0] = m[4] = m[8] = 1
  m[2] = x
  m[5] = y
  return m
}

/** a . b, into `out` when given (which may be neither a nor b). */
export function multiply(a: Matrix3, b: Matrix3, out: Matrix3 = new Float64Array(9)): Matrix3 {
  for (let row = 0; row < 3; row++) {
    const a0 = a[row * 3]!
    const a1 = a[row * 3 + 1]!
    const a2 = a[row * 3 + 2]!
    out[row * 3] = a0 * b[0]! + a1 * b[3]! + a2 * b[6]!
    out[row * 3 + 1] = a0 * b[1]! + a1 * b[4]! + a2 * b[7]!
    out[row * 3 + 2] = a0 * b[2]! + a1 * b[5]! + a2 * b[8]!
  }
  return out
}

/** Linear map (a b; c d) about a point that stays where it is. */
export function linearAbout(x: number, y: number, a: number, b: number, c: number, d: number): Matrix3 {
  return Float64Array.of(a, b, x - a * x - b * y, c, d, y - c * x - d * y, 0, 0, 1)
}

/** A map, and then a shift. */
export function movedBy(m: Matrix3, x: number, y: number): Matrix3 {
  const out = m.slice()
  for (let i = 0; i < 3; i++) {
    out[i]! += x * m[6 + i]!
    out[3 + i]! += y * m[6 + i]!
  }
  return out
}

/** Turn by an angle in radians about a point; with y downwards from the x axis towards the y axis. */
export function rotationAbout(angle: number, x: number, y: number): Matrix3 {
  const [c, s] = [Math.cos(angle), Math.sin(angle)]
  return linearAbout(x, y, c, -s, s, c)
}

export function determinant(m: Matrix3): number {
  return (
    m[0]! * (m[4]! * m[8]! - m[5]! * m[7]!) -
    m[1]! * (m[3]! * m[8]! - m[5]! * m[6]!) +
    m[2]! * (m[3]! * m[7]! - m[4]! * m[6]!)
  )
}

/**
 * Inverse by the adjugate.
 *
 * @throws GeometryError `singular-matrix` when the determinant is zero or not finite
 */
export function invert(m: Matrix3, out: Matrix3 = new Float64Array(9)): Matrix3 {
  const det = determinant(m)
  if (!Number.isFinite(det) || det === 0) {
    throw new GeometryError('singular-matrix', `The 3x3 matrix has determinant ${det} and cannot be inverted`)
  }
  // Read one by one: taking an array apart is ten times slower, and alignment inverts small steps all the time.
  const [a, b, c] = [m[0]!, m[1]!, m[2]!]
  const [d, e, f] = [m[3]!, m[4]!, m[5]!]
  const [g, h, i] = [m[6]!, m[7]!, m[8]!]
  out[0] = (e * i - f * h) / det
  out[1] = (c * h - b * i) / det
  out[2] = (b * f - c * e) / det
  out[3] = (f * g - d * i) / det
  out[4] = (a * i - c * g) / det
  out[5] = (c * d - a * f) / det
  out[6] = (d * h - e * g) / det
  out[7] = (b * g - a * h) / det
  out[8] = (a * e - b * d) / det
  return out
}

/** Image of the point (x, y), into `out[0], out[1]`. The caller knows that w is not zero there. */
export function applyToPoint(m: Matrix3, x: number, y: number, out: Float64Array | number[] = [0, 0]) {
  const w = m[6]! * x + m[7]! * y + m[8]!
  out[0] = (m[0]! * x + m[1]! * y + m[2]!) / w
  out[1] = (m[3]! * x + m[4]! * y + m[5]!) / w
  return out
}

/** The homogeneous coordinate w that `m` gives to (x, y); positive in front of the vanishing line. */
function homogeneousWeight(m: Matrix3, x: number, y: number): number {
  return m[6]! * x + m[7]! * y + m[8]!
}

/**
 * The same homography scaled so that w = +1 at (x, y).
 *
 * @throws GeometryError `point-at-infinity` when (x, y) lies on the vanishing line
 */
export function scaledAt(m: Matrix3, x: number, y: number): Matrix3 {
  const w = homogeneousWeight(m, x, y)
  if (!Number.isFinite(w) || Math.abs(w) < 1e-12) {
    throw new GeometryError('point-at-infinity', `The homography sends (${x}, ${y}) to infinity`)
  }
  const out = new Float64Array(MATRIX_LENGTH)
  for (let i = 0; i < MATRIX_LENGTH; i++) out[i] = m[i]! / w
  return out
}

/** True when the third row is (0, 0, positive), so that straight division is all that a map needs. */
export function isAffine(m: Matrix3): boolean {
  return m[6] === 0 && m[7] === 0
}
