import { PIXEL_VARIANCE } from './fitEdge'

/** Ratio from one softness to the next. */
export const RATIO = 1.16
/** Softness as it is seen, with the pixel's own, pixels: from the least that a picture can have. */
export const SIGMAS = Float64Array.from({ length: 22 }, (_, i) => Math.sqrt(PIXEL_VARIANCE) * RATIO ** i)
/** Where the step may lie, pixels outside of the outline. */
export const PLACES = Float64Array.from({ length: 23 }, (_, i) => (i - 11) / 2)
