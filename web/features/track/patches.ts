import { followedMatrix, patternFor, type Track } from '@tender-lasso/core/document'
import { boundsOfAll, identity, invert, multiply, type Box, type Matrix3 } from '@tender-lasso/core/geometry'
import { useShot } from '../../state/shotStore'
import { plateOf, trackWorkers } from '../../state/trackWorkers'

/** The pattern's box with a rim, so that what is round it can be seen too. */
export function patchBox(track: Track, frame: number): Box {
  const box = boundsOfAll(patternFor(track, frame).outlines)
  const rim = 0.12 * Math.max(box.right - box.left, box.bottom - box.top)
  return { left: box.left - rim, top: box.top - rim, right: box.right + rim, bottom: box.bottom + rim }
}

/** Motion from the pattern that a frame is compared with to the frame; null where the track is not known. */
export function motionFromPattern(track: Track, frame: number): { patternFrame: number; motion: Matrix3 } | null {
  const pattern = patternFor(track, frame)
  if (pattern.frame === frame) return { patternFrame: frame, motion: identity() }
  const matrix = followedMatrix(track, frame)
  return matrix && { patternFrame: pattern.frame, motion: multiply(matrix, invert(pattern.matrix)) }
}

/** The patch that a track shows on a frame, unwarped to its pattern. */
export async function patchOf(track: Track, frame: number, box: Box, width: number, height: number) {
  const { info } = useShot.getState()
  const place = motionFromPattern(track, frame)
  if (!info || !place) return null
  const pattern = patternFor(track, frame)
  const run = { look: track.look, patterns: [{ ...pattern, hidden: [] }] }
  const [worker] = trackWorkers(1)
  return worker!.patch(plateOf(info), run, frame, place.motion, box, width, height)
}

/** Paints values 0..1 as grey; what is not known stays dark. */
export function paintPatch(canvas: HTMLCanvasElement, data: Float32Array, width: number, height: number) {
  canvas.width = width
  canvas.height = height
  const context = canvas.getContext('2d')!
  const image = context.createImageData(width, height)
  for (let i = 0; i < data.length; i++) {
    const value = Number.isNaN(data[i]) ? 24 : 255 * Math.min(1, Math.max(0, data[i]!))
    image.data.set([value, value, value, 255], 4 * i)
  }
  context.putImageData(image, 0, 0)
}
