import type { Scene } from '@tender-lasso/core/raster'

/** Outlines of a shot that are to be written. */
export interface OutlinesOfShot {
  title: string
  /** Plate pixels, and how wide one is over its height. */
  width: number
  height: number
  pixelAspect: number
  rate: { numerator: number; denominator: number }
  /** Name and colour (#rrggbb) of a Part. */
  nameOf(partId: string): { name: string; colour: string }
  /** One frame, or several for an animation; whole frames one after the other. */
  frames: readonly { frame: number; scene: Scene }[]
}

export interface WrittenOutlines {
  text: string
  /** Largest distance of a written outline from ours, plate pixels. */
  deviation: number
  /** What the format could not hold, in words. */
  lost: string[]
}
