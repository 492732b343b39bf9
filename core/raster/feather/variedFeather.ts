import type { Box } from '../../geometry'
import type { WidePieces } from './widePieces'
import { exactShareOf, integralOf, meanRamp, type EdgeProfile } from './edgeProfile'
import { insideOfCentres } from './insideOfCentres'

/** Half of the pixel that the ramp is averaged over: it reaches so much farther to both sides. */
const HALF = 0.5

/** Pixels by which a piece looks farther than it must. */
const MARGIN = 0.01

/**
 * Alpha of a soft edge whose widths vary along the outline.
 *
 * Outside it is the largest, inside the smallest of the ramps that start from all places q of the outline, so it is continuous on the medial
 * axis too: with i and o the widths at q and W = i + o, outside the largest of (o + grow - |x - q|) / W, inside one less the largest of
 * (i - grow - |x - q|) / W. Along a piece the widths are linear, and the largest is found in closed form, see {@link tiltedFoot}.
 * Ramps are averaged over a pixel across the edge; where they vanish the exact coverage takes over. Of equal widths it is what `Feather` gives.
 *
 * @param coverage  exact coverage of the region on the box; null where the edge is nowhere so narrow that it has a share
 * @param edge      its widths are not looked at
 * @param out       gets the pixels of the box, row-major
 */
export function variedFeather(
  { pieces, widths, overlaps }: WidePieces,
  coverage: Float32Array | null,
  { grow, falloff }: Pick<EdgeProfile, 'grow' | 'falloff'>,
  box: Box,
  out: Float32Array,
) {
  const isInside = insideOfCentres(pieces, box)
  out.set(isInside)
  let nearest: NearestPlaces | null = null
  const [a, b, c] = integralOf(falloff)
  const boxWidth = box.right - box.left
  const boxHeight = box.bottom - box.top

  for (let i = 0; i < pieces.length; i += 4) {
    const [inner0, outer0, inner1, outer1] = [widths[i]!, widths[i + 1]!, widths[i + 2]!, widths[i + 3]!]
    const isHard = coverage !== null && Math.min(inner0 + outer0, inner1 + outer1) < SOFT_WIDTH
    const least = isHard ? COVERED_REACH : 0
    const outward = Math.max(least, HALF + Math.max(outer0, outer1) + grow)
    const inward = Math.max(least, HALF + Math.max(inner0, inner1) - grow)
    const reach = Math.max(outward, inward)
    if (reach <= 0) continue
    const ax = pieces[i]! - box.left - 0.5
    const ay = pieces[i + 1]! - box.top - 0.5
    const [dx, dy] = [pieces[i + 2]! - pieces[i]!, pieces[i + 3]! - pieces[i + 1]!]
    const top = Math.max(0, Math.ceil(Math.min(ay, ay + dy) - reach))
    const bottom = Math.min(boxHeight - 1, Math.floor(Math.max(ay, ay + dy) + reach))
    if (top > bottom) continue
    const length = Math.hypot(dx, dy)
    const [ux, uy] = length > 1e-15 ? [dx / length, dy / length] : [1, 0]
    const perLength = length > 1e-15 ? 1 / length : 0
    const outerSlope = (outer1 - outer0) * perLength
    const innerSlope = (inner1 - inner0) * perLength
    const width = inner0 + outer0 + 2 * HALF
    const widthSlope = innerSlope + outerSlope
    const [before, after] = [overlaps[i / 2]!, overlaps[i / 2 + 1]!]
    const from = -MARGIN - reach * Math.min(1, before)
    const to = length + MARGIN + reach * Math.min(1, after)

    for (let y = top; y <= bottom; y++) {
      const py = y - ay
      // Columns from which the piece is seen between the normals at its ends, spread by the turn to the next one, and within reach.
      let left = Math.max(0, Math.min(ax, ax + dx) - reach)
      let right = Math.min(boxWidth - 1, Math.max(ax, ax + dx) + reach)
      if (Math.abs(ux) > 1e-6) {
        const [one, other] = [ax + (from - py * uy) / ux, ax + (to - py * uy) / ux]
        left = Math.max(left, Math.min(one, other))
        right = Math.min(right, Math.max(one, other))
      }
      if (Math.abs(uy) > 1e-6) {
        const [one, other] = [ax + (py * ux - reach) / uy, ax + (py * ux + reach) / uy]
        left = Math.max(left, Math.min(one, other))
        right = Math.min(right, Math.max(one, other))
      }
      for (let x = Math.ceil(left - 1e-9), at = y * boxWidth + x; x <= right + 1e-9; x++, at++) {
        const px = x - ax
        const foot = px * ux + py * uy
        const across = Math.abs(px * uy - py * ux)
        if (foot < -MARGIN - across * before || foot > length + MARGIN + across * after) continue
        const inside = isInside[at] === 1
        // Beyond the widest place of its side, and not so near to a hard one that the coverage counts.
        if (across > (inside ? inward : outward)) continue
        if (isHard) {
          nearest ??= new NearestPlaces(isInside.length)
          const t = foot > 0 ? (foot < length ? foot : length) : 0
          nearest.see(at, (foot - t) ** 2 + across * across, width + widthSlope * t - 2 * HALF)
        }
        const start = HALF + (inside ? inner0 - grow : outer0 + grow)
        const slope = inside ? innerSlope : outerSlope
        const t = tiltedFoot(foot, across, start, slope, width, widthSlope, length)
        const away = Math.sqrt((t - foot) * (t - foot) + across * across)
        const share = (start + slope * t - away) / (width + widthSlope * t)
        if (share <= 0) continue
        const distance = (inside ? -away : away) - grow
        const alpha = meanRamp(distance, inner0 + innerSlope * t, outer0 + outerSlope * t, a, b, c)
        // The highest outside, the lowest inside: so it is continuous wherever one place takes over from another.
        if (inside ? alpha < out[at]! : alpha > out[at]!) out[at] = alpha
      }
    }
  }
  if (coverage) nearest?.laidUnder(isInside, coverage, grow, out)
}

/** Widths from which the exact coverage has no share any more, see `exactShareOf`. */
const SOFT_WIDTH = 2

/** Distance from the outline, pixels, beyond which a pixel is covered wholly or not at all. */
const COVERED_REACH = 1.5

/** For each pixel the nearest place of the outline where the edge is so narrow that the exact coverage counts. */
class NearestPlaces {
  private readonly squares: Float32Array
  private readonly widths: Float32Array

  constructor(size: number) {
    this.squares = new Float32Array(size).fill(COVERED_REACH ** 2)
    this.widths = new Float32Array(size)
  }

  see(at: number, squared: number, width: number) {
    if (squared >= this.squares[at]!) return
    this.squares[at] = squared
    this.widths[at] = width
  }

  /** Takes the ramp of a pixel's width out of the alpha and puts the coverage in, by its share. */
  laidUnder(isInside: Uint8Array, coverage: Float32Array, grow: number, out: Float32Array) {
    for (let at = 0; at < out.length; at++) {
      if (this.squares[at]! >= COVERED_REACH ** 2) continue
      const share = exactShareOf({ innerFeather: this.widths[at]!, outerFeather: 0, grow })
      if (share === 0) continue
      const distance = Math.sqrt(this.squares[at]!) * (isInside[at] ? -1 : 1)
      const alpha = out[at]! + share * (coverage[at]! - Math.min(1, Math.max(0, 0.5 - distance)))
      out[at] = alpha < 0 ? 0 : alpha > 1 ? 1 : alpha
    }
  }
}

/**
 * Where along a piece the ramp starts that is highest at a pixel: the t from 0 to L for which f(t) = (A + a t - r) / (B + b t) is largest, with r the
 * distance of the pixel from the piece's place t.
 *
 * With T = t - foot, p the pixel's distance from the line, B' = B + b foot and C = a B - b A, f' = 0 is r C = T B' - b p^2, so
 * T = (b B' p^2 + C p sqrt(B'^2 + b^2 p^2 - C^2)) / (B'^2 - C^2). f is a concave function over a positive linear one, so it has no other peak;
 * where it has none it rises towards one end. Where the line's width would have vanished before the foot, the peak is looked for by halving.
 */
function tiltedFoot(foot: number, p: number, A: number, a: number, B: number, b: number, L: number): number {
  const here = B + b * foot
  const C = a * B - b * A
  if (here <= 0) return peakByHalving(foot, p, here, C, b, L)
  const below = here * here - C * C
  const square = below + b * b * p * p
  if (below <= 1e-12 || square < 0) return C > 0 ? L : 0
  const t = foot + (b * here * p * p + C * p * Math.sqrt(square)) / below
  return t > 0 ? (t < L ? t : L) : 0
}

const HALVINGS = 48

/** The same by halving, between where f rises and where it falls. */
function peakByHalving(foot: number, p: number, here: number, C: number, b: number, L: number): number {
  const isRising = (t: number) => C * Math.sqrt((t - foot) * (t - foot) + p * p) > (t - foot) * here - b * p * p
  let [low, high] = [0, L]
  if (!isRising(low)) return low
  if (isRising(high)) return high
  for (let n = 0; n < HALVINGS; n++) {
    const middle = (low + high) / 2
    if (isRising(middle)) low = middle
    else high = middle
  }
  return low
}
