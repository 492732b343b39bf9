import type { DrawnPoint } from '@tender-lasso/core/edits'

/** Twelve steps of the cubic between two drawn points, for the sketch. */
export function curveTo(a: DrawnPoint, b: DrawnPoint): number[] {
  const out: number[] = []
  for (let k = 1; k <= 12; k++) {
    const t = k / 12
    const s = 1 - t
    const [b0, b1, b2, b3] = [s * s * s, 3 * s * s * t, 3 * s * t * t, t * t * t]
    out.push(
      b0 * a.x + b1 * (a.x + a.outX) + b2 * (b.x + b.inX) + b3 * b.x,
      b0 * a.y + b1 * (a.y + a.outY) + b2 * (b.y + b.inY) + b3 * b.y,
    )
  }
  return out
}
