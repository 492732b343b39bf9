import { POINT, POINT_STRIDE, type Patch, type RotoDocument, type Shape } from '../document'
import { edgeOn } from '../evaluation'
import { formChanged, type Keying } from './change'
import { pointShares } from './softSelection'

export const FEATHER_SIDES = ['innerFeather', 'outerFeather'] as const
export type FeatherSide = (typeof FEATHER_SIDES)[number]

/**
 * The edge made wider at points, by the Reach: at those chosen by all of it, at their neighbours by as much as they go along. Nowhere it becomes less than none.
 *
 * @param to        the width in plate pixels of each point on a side, given that which it has
 * @param softness  as in {@link pointShares}
 */
export function pointFeatherChanged(
  document: RotoDocument,
  shape: Shape,
  frame: number,
  { sides, pointIds, softness, to }: { sides: readonly FeatherSide[]; pointIds: ReadonlySet<string>; softness: number; to(width: number, pointId: string, side: FeatherSide): number }, // prettier-ignore
  keying: Keying,
): Patch[] {
  const share = pointShares(document, shape, frame, pointIds, softness)
  const { edge } = edgeOn(shape, frame)
  return formChanged(
    shape,
    frame,
    (values, out) =>
      shape.pointIds.forEach((id, i) => {
        const part = share(id)
        if (part === 0) return
        for (const side of sides) {
          const at = i * POINT_STRIDE + POINT[side]
          const width = Math.max(0, edge[side] + values[at]!)
          out[at] = Math.max(0, width + (to(width, id, side) - width) * part) - edge[side]
        }
      }),
    keying,
  )
}

/** Points that are as soft as their shape again, by the Reach. */
export function pointFeatherCleared(
  shape: Shape,
  frame: number,
  pointIds: ReadonlySet<string>,
  keying: Keying,
): Patch[] {
  const change = (_values: Float64Array, out: Float64Array) =>
    shape.pointIds.forEach((id, i) => {
      if (pointIds.has(id))
        out.fill(0, i * POINT_STRIDE + POINT.innerFeather, i * POINT_STRIDE + POINT.outerFeather + 1)
    })
  return formChanged(shape, frame, change, keying)
}
