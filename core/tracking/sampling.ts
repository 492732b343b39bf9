import type { LumaImage } from '../image'

/**
 * Catmull-Rom interpolation of a picture at (x, y) counted in its own pixels with centres on whole numbers.
 * The caller makes sure that 1 <= x < width - 2 and 1 <= y < height - 2.
 */
export function bicubicAt(image: LumaImage, x: number, y: number): number {
  const i = Math.floor(x)
  const j = Math.floor(y)
  const fx = x - i
  const fy = y - j
  return weighted(
    image,
    i,
    j,
    fx * (-0.5 + fx * (1 - 0.5 * fx)),
    1 + fx * fx * (-2.5 + 1.5 * fx),
    fx * (0.5 + fx * (2 - 1.5 * fx)),
    fx * fx * (-0.5 + 0.5 * fx),
    fy * (-0.5 + fy * (1 - 0.5 * fy)),
    1 + fy * fy * (-2.5 + 1.5 * fy),
    fy * (0.5 + fy * (2 - 1.5 * fy)),
    fy * fy * (-0.5 + 0.5 * fy),
  )
}

/** The cubic B-spline of these coefficients (see `splineCoefficients`) at (x, y), counted and bounded likewise. */
export function splineAt(coefficients: LumaImage, x: number, y: number): number {
  const i = Math.floor(x)
  const j = Math.floor(y)
  const fx = x - i
  const fy = y - j
  const gx = 1 - fx
  const gy = 1 - fy
  return weighted(
    coefficients,
    i,
    j,
    (gx * gx * gx) / 6,
    2 / 3 + fx * fx * (0.5 * fx - 1),
    2 / 3 + gx * gx * (0.5 * gx - 1),
    (fx * fx * fx) / 6,
    (gy * gy * gy) / 6,
    2 / 3 + fy * fy * (0.5 * fy - 1),
    2 / 3 + gy * gy * (0.5 * gy - 1),
    (fy * fy * fy) / 6,
  )
}

/** Sixteen pixels about (i, j) by the weights of their columns and rows. */
function weighted(
  { data, width }: LumaImage,
  i: number,
  j: number,
  ax: number,
  bx: number,
  cx: number,
  dx: number,
  ay: number,
  by: number,
  cy: number,
  dy: number,
): number {
  let at = (j - 1) * width + i - 1
  const r0 = ax * data[at]! + bx * data[at + 1]! + cx * data[at + 2]! + dx * data[at + 3]!
  at += width
  const r1 = ax * data[at]! + bx * data[at + 1]! + cx * data[at + 2]! + dx * data[at + 3]!
  at += width
  const r2 = ax * data[at]! + bx * data[at + 1]! + cx * data[at + 2]! + dx * data[at + 3]!
  at += width
  const r3 = ax * data[at]! + bx * data[at + 1]! + cx * data[at + 2]! + dx * data[at + 3]!
  return ay * r0 + by * r1 + cy * r2 + dy * r3
}
