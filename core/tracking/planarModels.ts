import { identity, type Matrix3 } from '../geometry'

/** position: moves; similarity: moves, turns and scales; affine: shears, too; perspective: any flat surface. */
export type PlanarModel = 'position' | 'similarity' | 'affine' | 'perspective'

/** Motion parameters that each model solves for. */
export const PARAMETERS: Record<PlanarModel, number> = { position: 2, similarity: 4, affine: 6, perspective: 8 }

/** Models tried one after the other on the coarsest level: few parameters find the place, more then fit the shape. */
export const STEPS_TO: Record<PlanarModel, readonly PlanarModel[]> = {
  position: ['position'],
  similarity: ['position', 'similarity'],
  affine: ['position', 'similarity', 'affine'],
  perspective: ['position', 'similarity', 'affine', 'perspective'],
}

/** How one sample's value changes with each parameter of the models with few of them, at the start of `row`. */
export function steepestDescent(
  model: 'similarity' | 'affine',
  u: number,
  v: number,
  gu: number,
  gv: number,
  row: Float64Array,
) {
  row[0] = gu
  row[1] = gv
  if (model === 'similarity') {
    row[2] = gu * u + gv * v
    row[3] = gv * u - gu * v
  } else {
    row[2] = gu * u
    row[3] = gu * v
    row[4] = gv * u
    row[5] = gv * v
  }
}

/** The solved parameters as a map of region coordinates. */
export function stepOf(model: PlanarModel, p: Float64Array): Matrix3 {
  const step = identity()
  if (model === 'position') {
    step[2] = p[0]!
    step[5] = p[1]!
  } else if (model === 'similarity') {
    step[0] = step[4] = 1 + p[2]!
    step[1] = -p[3]!
    step[2] = p[0]!
    step[3] = p[3]!
    step[5] = p[1]!
  } else if (model === 'affine') {
    step[0] = 1 + p[2]!
    step[1] = p[3]!
    step[2] = p[0]!
    step[3] = p[4]!
    step[4] = 1 + p[5]!
    step[5] = p[1]!
  } else {
    step.set(p.subarray(0, 8))
    step[0]! += 1
    step[4]! += 1
  }
  return step
}

/** Adds one sample to the lower triangle of the four normal equations of the position model. */
export function addPositionSample(
  normal: Float64Array,
  right: Float64Array,
  weight: number,
  residual: number,
  gu: number,
  gv: number,
  value: number,
) {
  const w0 = weight * gu
  const w1 = weight * gv
  const w2 = weight * value
  right[0]! += w0 * residual
  right[1]! += w1 * residual
  right[2]! += w2 * residual
  right[3]! += weight * residual
  normal[0]! += w0 * gu
  normal[4]! += w1 * gu
  normal[5]! += w1 * gv
  normal[8]! += w2 * gu
  normal[9]! += w2 * gv
  normal[10]! += w2 * value
  normal[12]! += w0
  normal[13]! += w1
  normal[14]! += w2
  normal[15]! += weight
}

/**
 * Adds one sample to the lower triangle of the ten normal equations of the perspective model. Written out: the loop over
 * rows and columns costs three times as long, and this is where alignment spends its time.
 */
export function addPerspectiveSample(
  normal: Float64Array,
  right: Float64Array,
  weight: number,
  residual: number,
  u: number,
  v: number,
  gu: number,
  gv: number,
  value: number,
) {
  const radial = gu * u + gv * v
  const a0 = gu * u
  const a1 = gu * v
  const a2 = gu
  const a3 = gv * u
  const a4 = gv * v
  const a5 = gv
  const a6 = -radial * u
  const a7 = -radial * v
  const a8 = value
  const w0 = weight * a0
  const w1 = weight * a1
  const w2 = weight * a2
  const w3 = weight * a3
  const w4 = weight * a4
  const w5 = weight * a5
  const w6 = weight * a6
  const w7 = weight * a7
  const w8 = weight * a8
  const w9 = weight
  right[0]! += w0 * residual
  normal[0]! += w0 * a0
  right[1]! += w1 * residual
  normal[10]! += w1 * a0
  normal[11]! += w1 * a1
  right[2]! += w2 * residual
  normal[20]! += w2 * a0
  normal[21]! += w2 * a1
  normal[22]! += w2 * a2
  right[3]! += w3 * residual
  normal[30]! += w3 * a0
  normal[31]! += w3 * a1
  normal[32]! += w3 * a2
  normal[33]! += w3 * a3
  right[4]! += w4 * residual
  normal[40]! += w4 * a0
  normal[41]! += w4 * a1
  normal[42]! += w4 * a2
  normal[43]! += w4 * a3
  normal[44]! += w4 * a4
  right[5]! += w5 * residual
  normal[50]! += w5 * a0
  normal[51]! += w5 * a1
  normal[52]! += w5 * a2
  normal[53]! += w5 * a3
  normal[54]! += w5 * a4
  normal[55]! += w5 * a5
  right[6]! += w6 * residual
  normal[60]! += w6 * a0
  normal[61]! += w6 * a1
  normal[62]! += w6 * a2
  normal[63]! += w6 * a3
  normal[64]! += w6 * a4
  normal[65]! += w6 * a5
  normal[66]! += w6 * a6
  right[7]! += w7 * residual
  normal[70]! += w7 * a0
  normal[71]! += w7 * a1
  normal[72]! += w7 * a2
  normal[73]! += w7 * a3
  normal[74]! += w7 * a4
  normal[75]! += w7 * a5
  normal[76]! += w7 * a6
  normal[77]! += w7 * a7
  right[8]! += w8 * residual
  normal[80]! += w8 * a0
  normal[81]! += w8 * a1
  normal[82]! += w8 * a2
  normal[83]! += w8 * a3
  normal[84]! += w8 * a4
  normal[85]! += w8 * a5
  normal[86]! += w8 * a6
  normal[87]! += w8 * a7
  normal[88]! += w8 * a8
  right[9]! += w9 * residual
  normal[90]! += w9 * a0
  normal[91]! += w9 * a1
  normal[92]! += w9 * a2
  normal[93]! += w9 * a3
  normal[94]! += w9 * a4
  normal[95]! += w9 * a5
  normal[96]! += w9 * a6
  normal[97]! += w9 * a7
  normal[98]! += w9 * a8
  normal[99]! += w9
}
