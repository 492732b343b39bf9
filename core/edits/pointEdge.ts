import { POINT, POINT_STRIDE, type Patch, type RotoDocument, type Shape } from '../document'
import { edgeOn } from '../evaluation'
import { formChanged, type Keying } from './change'
import { pointShares } from './softSelection'

export const FEATHER_SIDES = ['innerFeather', 'outerFeather'] as const
export type FeatherSide = (typeof FEATHER_SIDES)[number]

/** Numbers of an edge that its points may add to. */
export type EdgeNumber = FeatherSide | 'focus'

/**
 * The edge made softer at points, by the Reach: at those chosen by all of it, at their neighbours by as much as they go along. Nowhere it becomes less than none.
 *
 * @param to        the number in plate pixels of each point, given that which it has
 * @param softness  as in {@link pointShares}
 */
export function pointEdgeChanged(
  document: RotoDocument,
  shape: Shape,
  frame: number,
  { numbers, pointIds, softness, to }: { numbers: readonly EdgeNumber[]; pointIds: ReadonlySet<string>; softness: number; to(value: number, pointId: string, number: EdgeNumber): number }, // prettier-ignore
  keying: Keying,
): Patch[] {
  const share = pointShares(document, shape, frame, pointIds, softness)
  const { edge, focus } = edgeOn(shape, frame)
  const ofShape = { ...edge, focus }
  return formChanged(
    shape,
    frame,
    (values, out) =>
      shape.pointIds.forEach((id, i) => {
        const part = share(id)
        if (part === 0) return
        for (const number of numbers) {
          const at = i * POINT_STRIDE + POINT[number]
          const value = Math.max(0, ofShape[number] + values[at]!)
          out[at] = Math.max(0, value + (to(value, id, number) - value) * part) - ofShape[number]
        }
      }),
    keying,
  )
}

/** Points that are as soft as their shape again, by the Reach. */
export function pointEdgeCleared(
  shape: Shape,
  frame: number,
  { numbers, pointIds }: { numbers: readonly EdgeNumber[]; pointIds: ReadonlySet<string> },
  keying: Keying,
): Patch[] {
  const change = (_values: Float64Array, out: Float64Array) =>
    shape.pointIds.forEach((id, i) => {
      if (pointIds.has(id)) for (const number of numbers) out[i * POINT_STRIDE + POINT[number]] = 0
    })
  return formChanged(shape, frame, change, keying)
}
