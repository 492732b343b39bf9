import type { Accumulator } from './accumulate'
import type { BoundaryPieces } from './union'

/**
 * Places about a pixel from which its coverage is looked at, x0, y0, x1, y1 ...: half a pixel apart along either axis. A Gaussian with weights at whole
 * pixels alone makes alpha run in a straight line between two places of an edge that lies along the pixels, which shows where it is narrow.
 */
const PLACES = Float64Array.of(-0.25, -0.25, 0.25, -0.25, 0.25, 0.25, -0.25, 0.25)
/** Their variance along any direction, pixels squared. */
const VARIANCE = 0.0625
/** Sigma from which on whole pixels are fine enough: what the straight lines do is below 1/255. */
const WIDE = 2.3

/** A Gaussian as places to look from, and the sigma that is left; pixels. */
export interface SplitBlur {
  spread: Float64Array | null
  sigma: number
}

export function splitBlur(sigma: number): SplitBlur {
  if (sigma <= 0 || sigma >= WIDE) return { spread: null, sigma }
  const scale = Math.min(1, sigma / Math.sqrt(VARIANCE))
  return {
    spread: PLACES.map((value) => scale * value),
    sigma: Math.sqrt(Math.max(0, sigma * sigma - VARIANCE * scale * scale)),
  }
}

/** Farthest that a spread carries anything, whole pixels. */
export const spreadReach = (spread: Float64Array | null | undefined): number => (spread ? 1 : 0)

/** Adds boundary pieces as they are seen from all places of a spread. */
export function addSpread(accumulator: Accumulator, pieces: BoundaryPieces, spread: Float64Array) {
  if (moved.length < pieces.length) moved = new Float64Array(2 * pieces.length)
  const some = moved.subarray(0, pieces.length)
  for (let place = 0; place < spread.length; place += 2) {
    const [dx, dy] = [spread[place]!, spread[place + 1]!]
    for (let i = 0; i < some.length; i += 2) {
      some[i] = pieces[i]! + dx
      some[i + 1] = pieces[i + 1]! + dy
    }
    accumulator.add(some, 2 / spread.length)
  }
}

/** Used again for every picture. */
let moved: Float64Array = new Float64Array(4096)
