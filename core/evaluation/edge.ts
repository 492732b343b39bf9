import type { EdgeProfile, MatteFinish } from '../raster'
import type { Part, Shape } from '../document'
import { numberAt } from './channelValues'

/** What of a shape's edge belongs to all of it, and the share of it that is kept. */
export interface EdgeOf {
  edge: EdgeProfile
  /** Sigma of the Gaussian that all of it is blurred by. */
  focus: number
  opacity: number
}

/** Feather, growth and blur, plate pixels, and opacity of a shape on a frame. */
export function edgeOn(shape: Shape, frame: number): EdgeOf {
  return {
    edge: {
      innerFeather: numberAt(shape, 'innerFeather', frame),
      outerFeather: numberAt(shape, 'outerFeather', frame),
      grow: numberAt(shape, 'grow', frame),
      falloff: shape.falloff === 'own' ? shape.falloffSlopes : shape.falloff,
    },
    focus: numberAt(shape, 'focus', frame),
    opacity: numberAt(shape, 'opacity', frame),
  }
}

/** What is done to the whole matte of a Part on a frame, in pixels of the target; undefined where that changes nothing. */
export function finishOn(part: Part, frame: number, scale: number): MatteFinish | undefined {
  const finish = {
    blur: numberAt(part, 'blur', frame) * scale,
    blackPoint: numberAt(part, 'blackPoint', frame),
    whitePoint: numberAt(part, 'whitePoint', frame),
    opacity: numberAt(part, 'opacity', frame),
  }
  const isIdle = finish.blur === 0 && finish.blackPoint === 0 && finish.whitePoint === 1 && finish.opacity === 1
  return isIdle ? undefined : finish
}
