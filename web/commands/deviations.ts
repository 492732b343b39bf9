import type { Deviation } from '@tender-lasso/core/edits'
import { say } from '../store'

/** An outline that moved by less is said to be the same. */
const NOTICEABLE_PIXELS = 1
const MOST_NAMED = 4

/** Says on which keys an outline has moved by more than a pixel, if on any. */
export function sayDeviations(deviations: readonly Deviation[]) {
  const far = deviations.filter(({ pixels }) => pixels > NOTICEABLE_PIXELS).sort((a, b) => b.pixels - a.pixels)
  if (far.length === 0) return
  const named = far.slice(0, MOST_NAMED).map(({ time, pixels }) => `${time} by ${pixels.toFixed(1)} px`)
  const rest = far.length > MOST_NAMED ? ` and ${far.length - MOST_NAMED} more` : ''
  say('doubtful', `The outline moved on ${named.join(', ')}${rest}; undo brings it back`)
}
