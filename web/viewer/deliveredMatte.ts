import type { Matrix3 } from '@tender-lasso/core/geometry'
import { isShownOn, type ShotState } from '../store'
import { drawWarped } from './warpedImage'

/** Screen pixels a pixel of the picture from which on its own pixels are seen. */
const SEEN_SINGLY = 2

/** The delivery that is looked at, in place of the plate, as far as it is known on this frame; and what it is. */
export function drawDeliveredMatte(
  context: CanvasRenderingContext2D,
  { view, frame, deliveredMatte: shown }: ShotState,
  toScreen: Matrix3,
) {
  const { delivery } = view
  if (!delivery) return
  const picture = isShownOn(shown, delivery, frame) ? shown.picture : null
  if (picture) {
    // Of an odd plate half the size is a pixel more than half: it reaches beyond.
    const size = [picture.width / delivery.scale, picture.height / delivery.scale, 1]
    const map = Float64Array.from(toScreen, (value, i) => value * size[i % 3]!)
    context.save()
    context.imageSmoothingEnabled = view.zoom / delivery.scale < SEEN_SINGLY
    if (map[6] === 0 && map[7] === 0) {
      const w = map[8]!
      context.transform(map[0]! / w, map[3]! / w, map[1]! / w, map[4]! / w, map[2]! / w, map[5]! / w)
      context.drawImage(picture, 0, 0, 1, 1)
    } else drawWarped(context, picture, picture.width, picture.height, map)
    context.restore()
  }
  const name = delivery.isCompared ? `${delivery.name} against now` : delivery.name
  const words = shown?.jobId === delivery.jobId ? `${name}, ${shown.matte.name}` : name
  context.font = "12px 'Spline Sans Variable', sans-serif"
  context.textBaseline = 'top'
  const [left, top, height] = [12, 10, 22]
  context.fillStyle = 'rgb(28 28 28 / 0.85)'
  context.fillRect(left, top, context.measureText(words).width + 16, height)
  context.fillStyle = '#ece9e2'
  context.fillText(words, left + 8, top + 5)
}
