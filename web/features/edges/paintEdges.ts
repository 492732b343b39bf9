import { BT709_LUMA, profileAlong, steepestNear, type LumaImage } from '@tender-lasso/core/image'
import { isoLines } from '@tender-lasso/core/raster'
import type { Box } from '@tender-lasso/core/geometry'
import type { EdgeLook } from './edgeLook'

const ACCENT = '#6fb3a0'
const CHALK = '#ece9e2'
/** Levels whose lines are drawn: half of the alpha, and faintly where it fades out and where it is nearly full. */
const LEVELS = [[0.5, 1.3, 1], [0.05, 0.7, 0.6], [0.95, 0.7, 0.6]] as const // prettier-ignore

/**
 * Paints the plate about a place, and over it the edge of the matte as hairlines.
 *
 * @param zoom   canvas pixels per plate pixel
 * @param alpha  of the pixels of the look's box; null: not known yet
 */
export function paintTile(
  context: CanvasRenderingContext2D,
  { x, y, box }: EdgeLook,
  zoom: number,
  bitmap: ImageBitmap | undefined,
  plateWidth: number,
  alpha: Float32Array | null,
) {
  const { width, height } = grounded(context, '#181818')
  context.setTransform(zoom, 0, 0, zoom, width / 2 - x * zoom, height / 2 - y * zoom)
  context.imageSmoothingEnabled = false
  if (bitmap) {
    const ratio = bitmap.width / plateWidth
    const [w, h] = [box.right - box.left, box.bottom - box.top]
    context.drawImage(bitmap, box.left * ratio, box.top * ratio, w * ratio, h * ratio, box.left, box.top, w, h)
  }
  if (!alpha) return
  for (const [level, lineWidth, opacity] of LEVELS) {
    const lines = isoLines(alpha, box.right - box.left, box.bottom - box.top, level)
    context.beginPath()
    for (let i = 0; i < lines.length; i += 4) {
      context.moveTo(box.left + lines[i]!, box.top + lines[i + 1]!)
      context.lineTo(box.left + lines[i + 2]!, box.top + lines[i + 3]!)
    }
    context.globalAlpha = opacity
    context.strokeStyle = 'rgb(16 16 16 / 0.7)'
    context.lineWidth = (lineWidth + 1.6) / zoom
    context.stroke()
    context.strokeStyle = ACCENT
    context.lineWidth = lineWidth / zoom
    context.stroke()
  }
  context.globalAlpha = 1
}

/** The canvas emptied to one colour, in its own pixels. */
function grounded(context: CanvasRenderingContext2D, colour: string): HTMLCanvasElement {
  const { canvas } = context
  context.setTransform(1, 0, 0, 1, 0, 0)
  context.fillStyle = colour
  context.fillRect(0, 0, canvas.width, canvas.height)
  return canvas
}

/** Plate pixels to both sides that the profile shows, and from one value to the next. */
const REACH = 10
const STEP = 0.25

/** Paints the profile across the edge near a place: the plate from its darkest to its lightest, the alpha from none to full. */
export function paintProfile(
  context: CanvasRenderingContext2D,
  { x, y, box }: EdgeLook,
  bitmap: ImageBitmap | undefined,
  plateWidth: number,
  alpha: Float32Array | null,
) {
  const { width, height } = grounded(context, '#1b1b1b')
  const matte = alpha && imageOf(box, alpha)
  const edge = matte && steepestNear(matte, x, y, REACH)
  context.strokeStyle = '#303030'
  context.lineWidth = 1
  context.beginPath()
  for (const share of [0.25, 0.5, 0.75]) {
    context.moveTo(Math.round(width * share) + 0.5, 0)
    context.lineTo(Math.round(width * share) + 0.5, height)
  }
  context.stroke()
  if (!matte || !edge) return
  if (bitmap) {
    const plate = profileAlong(plateLuma(bitmap, box, plateWidth), edge, REACH, STEP)
    const known = plate.filter((value) => !Number.isNaN(value))
    const [low, high] = [Math.min(...known), Math.max(...known)]
    line(context, plate, low, Math.max(high, low + 1e-3), CHALK)
  }
  line(context, profileAlong(matte, edge, REACH, STEP), 0, 1, ACCENT)
}

function line(context: CanvasRenderingContext2D, values: Float32Array, low: number, high: number, colour: string) {
  const { width, height } = context.canvas
  const margin = 0.08 * height
  context.strokeStyle = colour
  context.lineWidth = 1.5
  context.beginPath()
  values.forEach((value, i) => {
    if (Number.isNaN(value)) return
    const at = (width * i) / (values.length - 1)
    context.lineTo(at, height - margin - ((height - 2 * margin) * (value - low)) / (high - low))
  })
  context.stroke()
}

const imageOf = (box: Box, data: Float32Array): LumaImage => ({
  left: box.left,
  top: box.top,
  width: box.right - box.left,
  height: box.bottom - box.top,
  data,
})

/** Luma of the shown picture on some plate pixels, 0..1 as it is encoded. */
function plateLuma(bitmap: ImageBitmap, box: Box, plateWidth: number): LumaImage {
  const [width, height] = [box.right - box.left, box.bottom - box.top]
  const canvas = new OffscreenCanvas(width, height)
  const context = canvas.getContext('2d')!
  const ratio = bitmap.width / plateWidth
  context.drawImage(bitmap, box.left * ratio, box.top * ratio, width * ratio, height * ratio, 0, 0, width, height)
  const { data } = context.getImageData(0, 0, width, height)
  return imageOf(box, Float32Array.from({ length: width * height }, (_, i) => BT709_LUMA.reduce((sum, weight, channel) => sum + (weight * data[4 * i + channel]!) / 255, 0))) // prettier-ignore
}
