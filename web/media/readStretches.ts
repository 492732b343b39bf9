/** First and last frame of each stretch of a plate that is read; null when all of it is. */
export type ReadStretches = readonly (readonly [number, number])[] | null

/** Whether a frame of the plate is there to be looked at. */
export const isRead = (frame: number, stretches: ReadStretches) =>
  stretches?.some(([first, last]) => frame >= first && frame <= last) ?? true
