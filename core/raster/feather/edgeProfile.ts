/** How the edge of a shape fades. Widths in pixels of the target; `grow` moves the edge outwards when positive. */
export interface EdgeProfile {
  innerFeather: number
  outerFeather: number
  grow: number
  /** How it runs from none to full; missing: smooth. */
  falloff?: Falloff
}

/**
 * With s from 0 where the edge has faded out to 1 where it is full: smooth s^2 (3 - 2s), linear s, early s^2 (most is lost near the full
 * side), late 1 - (1 - s)^2; or the cubic with two slopes of one's own, where it has faded out and where it is full.
 */
export type Falloff = 'smooth' | 'linear' | 'early' | 'late' | FalloffSlopes
export type FalloffSlopes = readonly [faded: number, full: number]

/** Slopes at both ends: all falloffs are cubics from (0, 0) to (1, 1). */
const SLOPES: Record<Exclude<Falloff, FalloffSlopes>, FalloffSlopes> = {
  smooth: [0, 0],
  linear: [1, 1],
  early: [0, 2],
  late: [2, 0],
}

/** Steepest slope at an end at which the cubic still rises all the way (Fritsch & Carlson, "Monotone piecewise cubic interpolation", 1980). */
export const STEEPEST_SLOPE = 3

const slopesOf = (falloff: Falloff = 'smooth'): FalloffSlopes =>
  typeof falloff === 'string' ? SLOPES[falloff] : falloff

/** The falloff at s from 0 to 1. */
export function falloffAt(falloff: Falloff | undefined, s: number): number {
  const [m0, m1] = slopesOf(falloff)
  return s * (m0 + s * (3 - 2 * m0 - m1 + s * (m0 + m1 - 2)))
}

/** Integral of a falloff from 0 to s as s^2 (a + b s + c s^2). */
export function integralOf(falloff: Falloff | undefined): readonly [a: number, b: number, c: number] {
  const [m0, m1] = slopesOf(falloff)
  return [m0 / 2, (3 - 2 * m0 - m1) / 3, (m0 + m1 - 2) / 4]
}

/** Largest slope anywhere: at an end, or where the cubic bends the other way. */
function steepestOf(falloff: Falloff | undefined): number {
  const [m0, m1] = slopesOf(falloff)
  const cubic = m0 + m1 - 2
  const bend = cubic === 0 ? 0 : -(3 - 2 * m0 - m1) / (3 * cubic)
  const middle = bend > 0 && bend < 1 ? m0 + bend * (2 * (3 - 2 * m0 - m1) + bend * 3 * cubic) : 0
  return Math.max(m0, m1, middle)
}

export function isPlainEdge(edge: EdgeProfile): boolean {
  return edge.innerFeather === 0 && edge.outerFeather === 0 && edge.grow === 0
}

/** Farthest distance from the outline at which the edge changes anything. */
export function edgeReach(edge: EdgeProfile): number {
  return isPlainEdge(edge) ? 0 : Math.max(edge.innerFeather, edge.outerFeather) + Math.abs(edge.grow) + 1.5
}

/** Share of the exact coverage in the alpha: where the widths vanish it takes over, so that a feather of nothing changes nothing. */
export function exactShareOf({ innerFeather, outerFeather, grow }: EdgeProfile): number {
  return Math.max(0, 1 - (innerFeather + outerFeather + Math.abs(grow)) / 2)
}

/** Width of the smooth ramp that is as steep where it is steepest; no wider than the ramp is. */
export function rampWidthOf({ innerFeather, outerFeather, falloff }: EdgeProfile): number {
  return (innerFeather + outerFeather) * Math.min(1, 1.5 / steepestOf(falloff))
}

/**
 * Mean over a pixel's width of the ramp, s running from 0 at `outer` outside to 1 at `inner` inside.
 *
 * @param distance  signed, positive outside, pixels
 */
export function rampAt(distance: number, inner: number, outer: number, falloff: Falloff = 'smooth'): number {
  const [a, b, c] = integralOf(falloff)
  return meanRamp(distance, inner, outer, a, b, c)
}

/** The same, given the integral s^2 (a + b s + c s^2) of the ramp: for loops over pixels. */
export function meanRamp(distance: number, inner: number, outer: number, a: number, b: number, c: number): number {
  const width = inner + outer
  if (width < 1e-6) return distance >= 0.5 ? 0 : distance <= -0.5 ? 1 : 0.5 - distance
  const perWidth = 1 / width
  const s = (outer - distance) * perWidth
  const half = 0.5 * perWidth
  const from = s - half
  const to = s + half
  if (to <= 0) return 0
  if (from >= 1) return 1
  const high = to < 1 ? to : 1
  let sum = high * high * (a + high * (b + high * c)) + (to > 1 ? to - 1 : 0)
  if (from > 0) sum -= from * from * (a + from * (b + from * c))
  return width * sum
}
