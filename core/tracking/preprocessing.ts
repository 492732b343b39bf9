import { blurred, grainOf, localContrast, sharpened, cornerStrength, type LumaImage } from '../image'

/** Planes of a picture that can be looked at. */
export const PICTURE_CHANNELS = ['luma', 'red', 'green', 'blue'] as const
export type PictureChannel = (typeof PICTURE_CHANNELS)[number]

/** What the tracker looks at: a plane of the picture, or the one that holds its place best, and what is done to it. */
export interface Preprocessing {
  channel: PictureChannel | 'best'
  /** Gaussian sigma in pixels. */
  blur: number
  sharpen: number
  localContrast: boolean
}

/** Pixels by which a picture must be larger than what is looked at, so that the filters see true surroundings. */
export function preprocessingMargin(preprocessing: Preprocessing): number {
  return (
    Math.ceil(3 * preprocessing.blur) + (preprocessing.sharpen > 0 ? 4 : 0) + (preprocessing.localContrast ? 36 : 0)
  )
}

/** The picture as the tracker sees it. */
export function preprocessed(image: LumaImage, preprocessing: Preprocessing): LumaImage {
  const even = preprocessing.localContrast ? localContrast(image) : image
  return sharpened(blurred(even, preprocessing.blur), preprocessing.sharpen)
}

/**
 * How well a picture holds its place against its own grain: mean of the structure tensor's smaller eigenvalue over the
 * variance of the grain. Its inverse is the Cramér-Rao bound of a pixel's share in the variance of a position.
 */
export function holdingPower(image: LumaImage): number {
  const corner = cornerStrength(image)
  const mean = corner.reduce((sum, value) => sum + value, 0) / corner.length
  return mean / Math.max(1e-4, grainOf(image)) ** 2
}
