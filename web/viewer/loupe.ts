import { applyToPoint, type Matrix3 } from '@tender-lasso/core/geometry'
import type { ShotState } from '../store'

const SIDE = 132
/** Plate pixels across the loupe. */
const ACROSS = 33

/** The plate round the pointer, four times as large, beside it: a pattern is placed by what is seen here. */
export function drawLoupe(
  context: CanvasRenderingContext2D,
  bitmap: ImageBitmap,
  [x, y]: readonly [number, number],
  { info }: ShotState,
  toScreen: Matrix3,
) {
  if (!info) return
  const ratio = bitmap.width / info.width
  const [px, py] = applyToPoint(toScreen, x, y)
  const canvasWidth = context.canvas.width / context.getTransform().a
  const left = px! + 28 + SIDE < canvasWidth ? px! + 28 : px! - 28 - SIDE
  const top = Math.max(6, py! - SIDE - 12)
  context.save()
  context.beginPath()
  context.rect(left, top, SIDE, SIDE)
  context.fillStyle = '#181818'
  context.fill()
  context.clip()
  context.imageSmoothingEnabled = false
  const source = ACROSS * ratio
  context.drawImage(bitmap, (x - ACROSS / 2) * ratio, (y - ACROSS / 2) * ratio, source, source, left, top, SIDE, SIDE)
  context.restore()
  context.strokeStyle = 'rgb(236 233 226 / 0.7)'
  context.lineWidth = 1
  context.strokeRect(left + 0.5, top + 0.5, SIDE - 1, SIDE - 1)
  const [cx, cy] = [left + SIDE / 2, top + SIDE / 2]
  context.beginPath()
  for (const [dx, dy] of [[1, 0], [-1, 0], [0, 1], [0, -1]] as const) {
    context.moveTo(cx + 4 * dx, cy + 4 * dy)
    context.lineTo(cx + 14 * dx, cy + 14 * dy)
  } // prettier-ignore
  context.stroke()
}
