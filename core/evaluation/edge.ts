import type { EdgeProfile } from '../raster'
import type { Shape } from '../document'
import { numberAt } from './channelValues'

/** What of a shape's edge belongs to all of it, and the share of it that is kept. */
export interface EdgeOf {
  edge: EdgeProfile
  opacity: number
}

/** Feather and growth, plate pixels, and opacity of a shape on a frame. */
export function edgeOn(shape: Shape, frame: number): EdgeOf {
  return {
    edge: {
      innerFeather: numberAt(shape, 'innerFeather', frame),
      outerFeather: numberAt(shape, 'outerFeather', frame),
      grow: numberAt(shape, 'grow', frame),
    },
    opacity: numberAt(shape, 'opacity', frame),
  }
}
