import { boxAroundAll, type Box } from '../geometry'

/** A matte where it can be more than 0: its pixels within `box`, row-major. */
export interface FittedMatte {
  box: Box
  alpha: Float32Array
}

/** Pixels of a box. */
export const sizeOf = (box: Box) => (box.right - box.left) * (box.bottom - box.top)

/**
 * Pixels over `box`, which lies between the left and right sides of another, put there; rows beyond its ends are dropped.
 *
 * @param stride  numbers from a row to the next in `values`
 */
export function putPixels(
  values: Float32Array,
  box: Box,
  { box: whole, alpha }: FittedMatte,
  stride = box.right - box.left,
) {
  const [width, wholeWidth] = [box.right - box.left, whole.right - whole.left]
  for (let y = Math.max(box.top, whole.top); y < Math.min(box.bottom, whole.bottom); y++) {
    const row = (y - box.top) * stride
    alpha.set(values.subarray(row, row + width), (y - whole.top) * wholeWidth + box.left - whole.left)
  }
}

/** Mattes laid onto pixels of the picture that hold all of them; those that lie there already are themselves. */
export function ontoBox(mattes: readonly FittedMatte[], box: Box): Float32Array[] {
  return mattes.map(({ alpha, box: own }) => {
    if (isSameBox(own, box)) return alpha
    const out = new Float32Array(sizeOf(box))
    if (alpha.length > 0) putPixels(alpha, own, { box, alpha: out })
    return out
  })
}

const isSameBox = (a: Box, b: Box) =>
  a.left === b.left && a.top === b.top && a.right === b.right && a.bottom === b.bottom

/** The least box that holds some mattes; of nothing one pixel. */
export function boxAround(mattes: readonly FittedMatte[]): Box {
  const boxes = mattes.filter(({ alpha }) => alpha.length > 0).map(({ box }) => box)
  return boxes.length === 0 ? { left: 0, top: 0, right: 1, bottom: 1 } : boxAroundAll(boxes)
}
