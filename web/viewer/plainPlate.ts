import type { Matrix3 } from '@tender-lasso/core/geometry'
import type { View } from '../store'
import { SURROUND_GREY } from './plateRenderer'

/** True when the plate is shown as it is, bare or with the fill on it, under no more than zoom, pan and turn. */
export function isPlainView(view: View, plateToScreen: Matrix3): boolean {
  return (
    (view.mode === 'plate' || view.mode === 'fill') &&
    view.channel === 'rgb' &&
    view.exposure === 0 &&
    view.gamma === 1 &&
    plateToScreen[6] === 0 &&
    plateToScreen[7] === 0
  )
}

/** A coloured picture of mattes: `scale` of its pixels to a plate pixel, and where its first one is, in its own pixels. */
export interface PlacedFill {
  picture: CanvasImageSource
  scale: number
  left: number
  top: number
}

/**
 * Draws the plate as it is with the 2D context. Where no graphics card helps, this takes a third of the time of the
 * other renderer, whose picture has to be read back; it is what an artist looks at while scrubbing and playing.
 */
export function drawPlainPlate(
  context: CanvasRenderingContext2D,
  bitmap: ImageBitmap | null,
  plateToScreen: Matrix3,
  view: View,
  plate: { width: number; height: number },
  pixelRatio: number,
  matte: PlacedFill | null,
) {
  const [a, b, c, d, e, f] = plateToScreen as unknown as [number, number, number, number, number, number]
  const w = plateToScreen[8]! / pixelRatio
  context.setTransform(1, 0, 0, 1, 0, 0)
  context.fillStyle = SURROUND_GREY
  context.fillRect(0, 0, context.canvas.width, context.canvas.height)
  context.setTransform(a / w, d / w, b / w, e / w, c / w, f / w)
  if (bitmap) {
    // Nearest above 2:1, so that single pixels can be judged.
    context.imageSmoothingEnabled = view.zoom * pixelRatio < 2
    context.drawImage(bitmap, 0, 0, plate.width, plate.height)
  } else {
    context.fillStyle = '#292929'
    context.fillRect(0, 0, plate.width, plate.height)
  }
  if (!matte) return
  context.imageSmoothingEnabled = true
  context.globalAlpha = view.fillOpacity
  context.scale(1 / matte.scale, 1 / matte.scale)
  context.drawImage(matte.picture, matte.left, matte.top)
  context.globalAlpha = 1
}
