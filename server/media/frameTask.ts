import type { ColourEncoding } from '@tender-lasso/core/colour'
import type { DecodedFrame } from './frameFiles'

/** A frame to be made in a thread: from a picture's file, or from a movie's decoded picture. */
export interface FrameTask {
  /** Address of the store that gets the files. */
  store: string
  shotId: string
  frame: number
  width: number
  height: number
  colourEncoding: ColourEncoding
  source: { file: string; name: string } | Pick<DecodedFrame, 'rgb' | 'isChromaHalved'>
}
