import type { Box } from '../geometry'
import type { PartBoundaries } from './scene'

/**
 * The columns of a strip in which more than one layer of a Part can be other than 0. Beside them what is there is one layer's, so that the mean over the
 * shutter of the layers over one another is the sum of the means of each. Null: there are none.
 *
 * @param strip  whole pixels
 */
export function sharedColumns(part: PartBoundaries, strip: Box): Box | null {
  const boxes = part.part.groups.map((_, g) => columnsOf(part, g, strip)).filter((box) => box !== null)
  let [left, right] = [Infinity, -Infinity]
  boxes.forEach((a, i) => {
    for (const b of boxes.slice(i + 1)) {
      if (a.left >= b.right || b.left >= a.right) continue
      left = Math.min(left, Math.max(a.left, b.left))
      right = Math.max(right, Math.min(a.right, b.right))
    }
  })
  return left < right ? { ...strip, left, right } : null
}

/** The columns of a strip that a layer can touch, or null. */
export const columnsOf = (part: PartBoundaries, group: number, strip: Box): Box | null =>
  columnsWithin(part.groupBox(group), strip)

/** The pixels of a strip between the leftmost and the rightmost place that a box reaches, or null. */
export function columnsWithin(own: Box, strip: Box): Box | null {
  if (!(own.top < strip.bottom && own.bottom > strip.top)) return null
  const left = Math.max(strip.left, Math.floor(own.left))
  const right = Math.min(strip.right, Math.ceil(own.right))
  return left < right ? { ...strip, left, right } : null
}
