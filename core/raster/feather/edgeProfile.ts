/** How the edge of a shape fades. Widths in pixels of the target; `grow` moves the edge outwards when positive. */
export interface EdgeProfile {
  innerFeather: number
  outerFeather: number
  grow: number
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

/**
 * Mean over a pixel's width of the smooth ramp s^2 (3 - 2s), s running from 0 at `outer` outside to 1 at `inner` inside.
 *
 * @param distance  signed, positive outside, pixels
 */
export function rampAt(distance: number, inner: number, outer: number): number {
  const width = inner + outer
  if (width < 1e-6) return Math.min(1, Math.max(0, 0.5 - distance))
  return width * (rampIntegral((outer - distance + 0.5) / width) - rampIntegral((outer - distance - 0.5) / width))
}

/** Integral of the clamped smooth step from 0 to s. */
function rampIntegral(s: number): number {
  if (s <= 0) return 0
  if (s >= 1) return s - 0.5
  return s * s * s - (s * s * s * s) / 2
}
