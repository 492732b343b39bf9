import { followedMatrix } from '@tender-lasso/core/evaluation'
import { patternFor } from '@tender-lasso/core/tracks'
import { type Track } from '@tender-lasso/core/document'
import { boundsOfAll, invert, multiply, type Box } from '@tender-lasso/core/geometry'
import { useShot } from '../../store'
import { plateOf, trackWorkers } from '../../commands'

/** The pattern's box with a rim, so that what is round it can be seen too. */
export function patchBox(track: Track, frame: number): Box {
  const box = boundsOfAll(patternFor(track, frame).outlines)
  const rim = 0.12 * Math.max(box.right - box.left, box.bottom - box.top)
  return { left: box.left - rim, top: box.top - rim, right: box.right + rim, bottom: box.bottom + rim }
}

/** The patch that a track shows on a frame, unwarped to its pattern; null where the track is not known. */
export async function patchOf(track: Track, frame: number, box: Box, width: number, height: number) {
  const { info } = useShot.getState()
  const pattern = patternFor(track, frame)
  const matrix = frame === pattern.frame ? pattern.matrix : followedMatrix(track, frame)
  if (!info || !matrix) return null
  const motion = multiply(matrix, invert(pattern.matrix))
  const [worker] = trackWorkers(1)
  const run = { preprocessing: track.preprocessing, patterns: [{ ...pattern, hidden: [] }] }
  return worker!.patch(plateOf(info), run, frame, motion, box, width, height)
}

/** Paints values 0..1 as grey; what is not known stays dark. */
export function paintPatch(canvas: HTMLCanvasElement, data: Float32Array, width: number, height: number) {
  canvas.width = width
  canvas.height = height
  const context = canvas.getContext('2d')!
  const image = context.createImageData(width, height)
  for (let i = 0; i < data.length; i++) {
    image.data.fill(Number.isNaN(data[i]) ? 24 : 255 * data[i]!, 4 * i, 4 * i + 3)
    image.data[4 * i + 3] = 255
  }
  context.putImageData(image, 0, 0)
}
