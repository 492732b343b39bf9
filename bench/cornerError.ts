import { applyToPoint, type Matrix3 } from '@tender-lasso/core/geometry'

/** Root of the mean squared distance of a region's four corners under two motions, pixels. */
export function cornerError(found: Matrix3, truth: Matrix3, region: readonly number[]): number {
  let sum = 0
  for (let k = 0; k < 8; k += 2) {
    const p = applyToPoint(found, region[k]!, region[k + 1]!)
    const q = applyToPoint(truth, region[k]!, region[k + 1]!)
    sum += (p[0]! - q[0]!) ** 2 + (p[1]! - q[1]!) ** 2
  }
  return Math.sqrt(sum / 4)
}
