import { linearAbout, rotationAbout, type Box, type Matrix3 } from '@tender-lasso/core/geometry'
import { selectedBox } from '../../selection'
import type { PointerInput, ToolContext } from './tool'

/** Screen pixels between what is selected and the box drawn round it, so that no edge is covered. */
export const BOX_GAP = 12
/** Screen pixels from the top of the box to the ring that turns it. */
const BOX_STALK = 18

/** A handle of the box: where it stands in it, 0 left or top, 1 right or bottom; or the ring above it. */
export type BoxHandle = { kind: 'scale'; u: 0 | 0.5 | 1; v: 0 | 0.5 | 1 } | { kind: 'turn' }

const PLACES = [0, 0.5, 1] as const
export const SCALE_HANDLES = PLACES.flatMap((v) =>
  PLACES.flatMap((u) => (u === 0.5 && v === 0.5 ? [] : [{ kind: 'scale', u, v } as const])),
)

/** Where a handle is on the plate. @param scale screen pixels per plate pixel */
export function placeOfHandle(box: Box, handle: BoxHandle, scale: number): [number, number] {
  const gap = BOX_GAP / scale
  const [left, top] = [box.left - gap, box.top - gap]
  const [width, height] = [box.right - box.left + 2 * gap, box.bottom - box.top + 2 * gap]
  if (handle.kind === 'turn') return [left + width / 2, top - BOX_STALK / scale]
  return [left + width * handle.u, top + height * handle.v]
}

export function boxHandleAt(context: ToolContext, { x, y, scale }: PointerInput, reach: number): BoxHandle | null {
  const box = selectedBox(context)
  if (!box) return null
  const all: BoxHandle[] = [...SCALE_HANDLES, { kind: 'turn' }]
  return (
    all.find((handle) => {
      const [px, py] = placeOfHandle(box, handle, scale)
      return Math.hypot(px - x, py - y) * scale <= reach
    }) ?? null
  )
}

/**
 * What dragging a handle makes of the plate. A corner scales, Shift by the same factor both ways; a side scales across
 * itself, Alt skews along it; about the pivot, or else the side opposite; the ring turns about the pivot or the middle.
 * The box's own edge goes by as much as the pointer: handles stand outside it.
 */
export function boxMap(
  box: Box,
  handle: BoxHandle,
  from: readonly [number, number],
  to: PointerInput,
  pivot: readonly [number, number] | null,
): Matrix3 {
  const middle = [(box.left + box.right) / 2, (box.top + box.bottom) / 2] as const
  if (handle.kind === 'turn') {
    const [px, py] = pivot ?? middle
    const turn = Math.atan2(to.y - py, to.x - px) - Math.atan2(from[1] - py, from[0] - px)
    const angle = to.shift ? Math.round(turn / (Math.PI / 12)) * (Math.PI / 12) : turn
    return rotationAbout(angle, px, py)
  }
  const opposite = [handle.u === 0.5 ? middle[0] : handle.u ? box.left : box.right, handle.v === 0.5 ? middle[1] : handle.v ? box.top : box.bottom] as const // prettier-ignore
  const [px, py] = pivot ?? opposite
  const isSide = handle.u === 0.5 || handle.v === 0.5
  const [wayX, wayY] = [to.x - from[0], to.y - from[1]]
  const fromPivotX = box.left + (box.right - box.left) * handle.u - px
  const fromPivotY = box.top + (box.bottom - box.top) * handle.v - py
  if (isSide && to.alt) {
    const isHorizontal = handle.u === 0.5
    const slant = isHorizontal ? wayX / (fromPivotY || 1) : wayY / (fromPivotX || 1)
    return linearAbout(px, py, 1, isHorizontal ? slant : 0, isHorizontal ? 0 : slant, 1)
  }
  let [fx, fy] = [factor(fromPivotX, wayX), factor(fromPivotY, wayY)]
  if (handle.u === 0.5) fx = 1
  if (handle.v === 0.5) fy = 1
  if (!isSide && to.shift) fx = fy = Math.max(fx, fy)
  return linearAbout(px, py, fx, 0, 0, fy)
}

const factor = (extent: number, way: number) => (Math.abs(extent) < 1e-6 ? 1 : Math.max(0.01, 1 + way / extent))
