/**
 * True when the closed polygon certainly does not cross or touch itself. May say false for a simple polygon with
 * coincident points: the caller then takes the general road.
 *
 * The polygon is cut into chains that run steadily up or down; two chains whose left-right order never changes where
 * their heights overlap cannot cross. A smooth outline has a handful of chains, so this is nearly linear.
 */
export function isSimplePolygon(polygon: Float64Array): boolean {
  const n = polygon.length / 2
  const turns: number[] = []
  const rise = (i: number) => Math.sign(polygon[2 * ((i + 1) % n) + 1]! - polygon[2 * i + 1]!)
  let previous = 0
  for (let i = n - 1; i >= 0 && previous === 0; i--) previous = rise(i)
  if (previous === 0) return false
  for (let i = 0; i < n; i++) {
    const direction = rise(i)
    if (direction !== 0 && direction !== previous) {
      turns.push(i)
      previous = direction
    }
  }
  if (turns.length < 2 || turns.length > 40) return false
  const chains = turns.map((start, k) => chainBetween(polygon, start, turns[(k + 1) % turns.length]!))
  for (let a = 0; a < chains.length; a++) {
    for (let b = a + 1; b < chains.length; b++) if (!keepOrder(polygon, chains[a]!, chains[b]!)) return false
  }
  return true
}

/** Vertex numbers from top to bottom. */
function chainBetween(polygon: Float64Array, start: number, end: number): Int32Array {
  const n = polygon.length / 2
  const length = ((end - start + n) % n) + 1
  const down = polygon[2 * end + 1]! > polygon[2 * start + 1]!
  const chain = new Int32Array(length)
  for (let i = 0; i < length; i++) chain[down ? i : length - 1 - i] = (start + i) % n
  return chain
}

function keepOrder(p: Float64Array, a: Int32Array, b: Int32Array): boolean {
  const top = Math.max(p[2 * a[0]! + 1]!, p[2 * b[0]! + 1]!)
  const bottom = Math.min(p[2 * a[a.length - 1]! + 1]!, p[2 * b[b.length - 1]! + 1]!)
  if (top > bottom) return true
  let order = 0
  for (const [walked, other, sign] of [
    [a, b, 1],
    [b, a, -1],
  ] as const) {
    let edge = 0
    for (const vertex of walked) {
      const y = p[2 * vertex + 1]!
      if (y < top || y > bottom) continue
      while (edge < other.length - 2 && p[2 * other[edge + 1]! + 1]! < y) edge++
      const u = other[edge]!
      const v = other[edge + 1]!
      if (vertex === u || vertex === v) continue
      const y0 = p[2 * u + 1]!
      const y1 = p[2 * v + 1]!
      if (y1 === y0) return false
      const x = p[2 * u]! + ((y - y0) / (y1 - y0)) * (p[2 * v]! - p[2 * u]!)
      const side = Math.sign(p[2 * vertex]! - x) * sign
      if (side === 0 || (order !== 0 && side !== order)) return false
      order = side
    }
  }
  return true
}
