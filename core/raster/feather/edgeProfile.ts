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
 * side), late 1 - (1 - s)^2.
 */
export type Falloff = 'smooth' | 'linear' | 'early' | 'late'

/** Integrals from 0 to s as s^2 (a + b s + c s^2). */
export const FALLOFF_INTEGRALS: Record<Falloff, readonly [a: number, b: number, c: number]> = {
  smooth: [0, 1, -1 / 2],
  linear: [1 / 2, 0, 0],
  early: [0, 1 / 3, 0],
  late: [1, -1 / 3, 0],
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

/** Width of the smooth ramp that is as steep where it is steepest. */
export function rampWidthOf({ innerFeather, outerFeather, falloff }: EdgeProfile): number {
  const isOneSided = falloff === 'early' || falloff === 'late'
  return (innerFeather + outerFeather) * (isOneSided ? 1.5 / 2 : 1)
}

/**
 * Mean over a pixel's width of the ramp, s running from 0 at `outer` outside to 1 at `inner` inside.
 *
 * @param distance  signed, positive outside, pixels
 */
export function rampAt(distance: number, inner: number, outer: number, falloff: Falloff = 'smooth'): number {
  const [a, b, c] = FALLOFF_INTEGRALS[falloff]
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
