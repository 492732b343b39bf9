import type { PyramidLevel } from '../image'

/**
 * Catmull-Rom interpolation of a picture at (x, y) counted in its own pixels with centres on whole numbers.
 * The caller makes sure that 1 <= x < width - 2 and 1 <= y < height - 2.
 */
export function bicubicAt(image: PyramidLevel, x: number, y: number): number {
  const { data, width } = image
  const i = Math.floor(x)
  const j = Math.floor(y)
  const fx = x - i
  const fy = y - j
  const ax = fx * (-0.5 + fx * (1 - 0.5 * fx))
  const bx = 1 + fx * fx * (-2.5 + 1.5 * fx)
  const cx = fx * (0.5 + fx * (2 - 1.5 * fx))
  const dx = fx * fx * (-0.5 + 0.5 * fx)
  let at = (j - 1) * width + i - 1
  const r0 = ax * data[at]! + bx * data[at + 1]! + cx * data[at + 2]! + dx * data[at + 3]!
  at += width
  const r1 = ax * data[at]! + bx * data[at + 1]! + cx * data[at + 2]! + dx * data[at + 3]!
  at += width
  const r2 = ax * data[at]! + bx * data[at + 1]! + cx * data[at + 2]! + dx * data[at + 3]!
  at += width
  const r3 = ax * data[at]! + bx * data[at + 1]! + cx * data[at + 2]! + dx * data[at + 3]!
  const ay = fy * (-0.5 + fy * (1 - 0.5 * fy))
  const by = 1 + fy * fy * (-2.5 + 1.5 * fy)
  const cy = fy * (0.5 + fy * (2 - 1.5 * fy))
  const dy = fy * fy * (-0.5 + 0.5 * fy)
  return ay * r0 + by * r1 + cy * r2 + dy * r3
}
