import { allOf, findObject, type RotoDocument } from '@tender-lasso/core/document'
import { isShown, seamLines } from '@tender-lasso/core/evaluation'
import type { Matrix3 } from '@tender-lasso/core/geometry'
import { strokeCased } from './strokeCased'

/** CSS pixels between two stitches, and half the length of one. */
const SPACING = 8
const HALF = 3.5

/** A Seam is a row of short stitches across the shared line. */
export function drawStitches(
  context: CanvasRenderingContext2D,
  document: RotoDocument,
  frame: number,
  toScreen: Matrix3,
) {
  context.strokeStyle = 'rgb(236 233 226 / 0.8)'
  context.lineWidth = 1
  context.beginPath()
  for (const seam of allOf(document, 'seam')) {
    const shapes = [seam.ownerId, seam.borrowerId].map((id) => findObject(document, 'shape', id))
    if (!shapes.every((shape) => shape && isShown(shape, findObject(document, 'part', shape.partId), frame))) continue
    for (const line of seamLines(document, seam, { timeOf: () => frame, toTarget: toScreen })) stitch(context, line)
  }
  strokeCased(context)
}

function stitch(context: CanvasRenderingContext2D, line: readonly number[]) {
  let rest = SPACING / 2
  for (let i = 2; i < line.length; i += 2) {
    const [x, y] = [line[i - 2]!, line[i - 1]!]
    const [dx, dy] = [line[i]! - x, line[i + 1]! - y]
    const length = Math.hypot(dx, dy)
    if (length === 0) continue
    const [ux, uy] = [dx / length, dy / length]
    for (; rest < length; rest += SPACING) {
      const [px, py] = [x + ux * rest, y + uy * rest]
      // Slanted, so that they are told from the ticks of a track's path.
      const [sx, sy] = [(-uy + ux * 0.5) * HALF, (ux + uy * 0.5) * HALF]
      context.moveTo(px - sx, py - sy)
      context.lineTo(px + sx, py + sy)
    }
    rest -= length
  }
}
