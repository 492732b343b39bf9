import type { Unit } from './channelRegistry'

/** How a stored number is shown to people and typed by them. */
export interface ShownAs {
  /** Behind the number. */
  sign: string
  shown(stored: number): number
  stored(shown: number): number
}

const same = (value: number) => value
const DEGREES = 180 / Math.PI
/** A size of nothing has no logarithm. */
const SMALLEST_SCALE = 1e-6

export const UNITS: Record<Unit, ShownAs> = {
  px: { sign: 'px', shown: same, stored: same },
  /** 0 to 1. */
  share: { sign: '%', shown: (v) => 100 * v, stored: (v) => v / 100 },
  /** Radians. */
  turn: { sign: '°', shown: (v) => v * DEGREES, stored: (v) => v / DEGREES },
  degrees: { sign: '°', shown: same, stored: same },
  /** Natural logarithm of a factor. */
  logScale: { sign: '%', shown: (v) => 100 * Math.exp(v), stored: (v) => Math.log(Math.max(SMALLEST_SCALE, v / 100)) },
  none: { sign: '', shown: same, stored: same },
}
