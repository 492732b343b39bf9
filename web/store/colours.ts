import type { Rgb } from '@tender-lasso/core/evaluation'

export { partColour, SHADE_COUNT, SUBJECT_HUES, type Rgb } from '@tender-lasso/core/evaluation'

export const css = ([r, g, b]: Rgb, alpha = 1) => `rgb(${r} ${g} ${b} / ${alpha})`

/** Keys of the shot itself: no Subject's colour. */
export const SHOT_COLOUR = '#b9b6af'
