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

/** How one sample's value changes with each parameter of a model, at the start of `row`. */
export function steepestDescent(model: PlanarModel, u: number, v: number, gu: number, gv: number, row: Float64Array) {
  const [uu, uv, vu, vv] = [gu * u, gu * v, gv * u, gv * v]
  if (model === 'position') row.set([gu, gv])
  else if (model === 'similarity') row.set([gu, gv, uu + vv, vu - uv])
  else if (model === 'affine') row.set([gu, gv, uu, uv, vu, vv])
  else row.set([uu, uv, gu, vu, vv, gv, -(uu + vv) * u, -(uu + vv) * v])
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
