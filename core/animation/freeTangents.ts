/**
 * Numbers of the tangents of one channel at a key: time and value from the key to the end of the arriving tangent, then of
 * the leaving one. Frames before the key are negative. All of no length: the channel is smooth by itself.
 */
export const TANGENT_STRIDE = 4

/** A stretch between two keys with tangents of free length, both as ways from their key into the stretch. */
export interface FreeStretch {
  span: number
  from: number
  to: number
  leavingTime: number
  leavingValue: number
  /** How long before the second key, and how far below it, its tangent ends. */
  arrivingTime: number
  arrivingValue: number
}

/**
 * Value of a cubic over time whose inner points are the ends of the tangents, `at` frames behind the first key.
 *
 * Tangents longer than the stretch are drawn in to it: then time never runs backwards along the curve, and the parameter
 * at a time is found by halving.
 */
export function freeValueAt(stretch: FreeStretch, at: number): number {
  const { span, from, to } = stretch
  // A tangent of no length stops time at its key, where halving would find the parameter only roughly.
  if (at <= 0) return from
  if (at >= span) return to
  const leaving = Math.min(span, Math.max(0, stretch.leavingTime))
  const arriving = span - Math.min(span, Math.max(0, stretch.arrivingTime))
  let [low, high] = [0, 1]
  for (let round = 0; round < 50; round++) {
    const s = (low + high) / 2
    if (bezier(0, leaving, arriving, span, s) < at) low = s
    else high = s
  }
  return bezier(from, from + stretch.leavingValue, to - stretch.arrivingValue, to, (low + high) / 2)
}

function bezier(a: number, b: number, c: number, d: number, s: number): number {
  const t = 1 - s
  return t * t * t * a + 3 * t * t * s * b + 3 * t * s * s * c + s * s * s * d
}
