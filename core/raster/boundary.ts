import { boundsOf, signedArea, type Box } from '../geometry'
import { isSimplePolygon } from './simplePolygon'

/**
 * Directed boundary pieces x0, y0, x1, y1 of a filled region. The region lies to the right of pieces that run down and
 * to the left of pieces that run up, pieces never cross, and their order does not matter: signed-area accumulation and
 * distance need no closed loops.
 */
export type BoundaryPieces = Float64Array

/**
 * Boundary of the union of closed polygons under the non-zero rule, each polygon on its own winding, overlaps and
 * self-crossings resolved.
 *
 * Simple polygons that touch no other go through as they are. The rest is swept in scan beams between consecutive
 * vertex and crossing heights (Vatti, "A generic solution to polygon clipping", CACM 1992): inside a beam no two edges
 * cross, so the edges where the winding changes between zero and non-zero are the boundary.
 */
export function unionBoundary(polygons: readonly Float64Array[]): BoundaryPieces {
  const pieces: number[] = []
  for (const cluster of overlappingClusters(polygons.map(onHeightGrid))) {
    if (cluster.length === 1 && isSimplePolygon(cluster[0]!)) pushSimple(cluster[0]!, pieces)
    else sweep(cluster, pieces)
  }
  return Float64Array.from(pieces)
}

/** Heights are rounded to this part of a pixel: far below what shows, and no edge is left so flat that its slope overflows. */
const HEIGHT_STEPS = 2 ** 20

function onHeightGrid(polygon: Float64Array): Float64Array {
  const out = polygon.slice()
  for (let i = 1; i < out.length; i += 2) out[i] = Math.round(out[i]! * HEIGHT_STEPS) / HEIGHT_STEPS
  return out
}

/** Polygons grouped so that boxes of different groups do not overlap. Empty and degenerate polygons are dropped. */
function overlappingClusters(polygons: readonly Float64Array[]): Float64Array[][] {
  const items = polygons.filter((p) => p.length >= 6).map((polygon) => ({ polygon, box: boundsOf(polygon) }))
  if (items.length <= 1) return items.map((item) => [item.polygon])
  items.sort((a, b) => a.box.left - b.box.left)
  const parent = items.map((_, i) => i)
  const rootOf = (i: number): number => {
    while (parent[i] !== i) i = parent[i] = parent[parent[i]!]!
    return i
  }
  for (let i = 0; i < items.length; i++) {
    const a = items[i]!.box
    for (let j = i + 1; j < items.length && items[j]!.box.left <= a.right; j++) {
      if (boxesTouchVertically(a, items[j]!.box)) parent[rootOf(j)] = rootOf(i)
    }
  }
  const groups = new Map<number, Float64Array[]>()
  items.forEach((item, i) => {
    const root = rootOf(i)
    const group = groups.get(root)
    if (group) group.push(item.polygon)
    else groups.set(root, [item.polygon])
  })
  return [...groups.values()]
}

const boxesTouchVertically = (a: Box, b: Box) => a.top <= b.bottom && b.top <= a.bottom

function pushSimple(polygon: Float64Array, pieces: number[]) {
  // A positive shoelace sum runs clockwise on screen: its right-hand side runs down, so it is walked backwards.
  const clockwise = signedArea(polygon) > 0
  const n = polygon.length
  for (let i = 0; i < n; i += 2) {
    const j = i + 2 === n ? 0 : i + 2
    if (polygon[i + 1] === polygon[j + 1]) continue
    if (clockwise) pieces.push(polygon[j]!, polygon[j + 1]!, polygon[i]!, polygon[i + 1]!)
    else pieces.push(polygon[i]!, polygon[i + 1]!, polygon[j]!, polygon[j + 1]!)
  }
}

interface Edge {
  x: number
  top: number
  bottom: number
  slope: number
  direction: 1 | -1
  /** Position in the present sub-beam, for sorting. */
  at: number
  /** Position at the bottom of the present beam. */
  below: number
  /** +1: region starts here, -1: region ends here, 0: inside or outside on both sides. */
  role: number
  roleSince: number
}

function sweep(polygons: readonly Float64Array[], pieces: number[]) {
  const edges = edgesOf(polygons)
  if (edges.length === 0) return
  const heights = distinctHeights(edges)
  const active: Edge[] = []
  let next = 0
  for (let beam = 0; beam + 1 < heights.length; beam++) {
    const top = heights[beam]!
    const bottom = heights[beam + 1]!
    let kept = 0
    for (const edge of active) {
      if (edge.bottom <= top) finish(edge, edge.bottom, pieces)
      else active[kept++] = edge
    }
    active.length = kept
    for (; next < edges.length && edges[next]!.top <= top; next++) active.push(edges[next]!)
    if (active.length === 0) continue
    const cuts = crossingHeights(active, top, bottom)
    let from = top
    for (let c = 0; c <= cuts.length; c++) {
      const to = c < cuts.length ? cuts[c]! : bottom
      if (to > from) assignRoles(active, from, to, pieces)
      from = to
    }
  }
  for (const edge of active) finish(edge, edge.bottom, pieces)
}

function edgesOf(polygons: readonly Float64Array[]): Edge[] {
  const edges: Edge[] = []
  for (const polygon of polygons) {
    const n = polygon.length
    for (let i = 0; i < n; i += 2) {
      const j = i + 2 === n ? 0 : i + 2
      const y0 = polygon[i + 1]!
      const y1 = polygon[j + 1]!
      if (y0 === y1) continue
      const down = y1 > y0
      const upper = down ? i : j
      const lower = down ? j : i
      edges.push({
        x: polygon[upper]!,
        top: polygon[upper + 1]!,
        bottom: polygon[lower + 1]!,
        slope: (polygon[lower]! - polygon[upper]!) / (polygon[lower + 1]! - polygon[upper + 1]!),
        direction: down ? 1 : -1,
        at: 0,
        below: 0,
        role: 0,
        roleSince: 0,
      })
    }
  }
  return edges.sort((a, b) => a.top - b.top)
}

function distinctHeights(edges: readonly Edge[]): Float64Array {
  const all = new Float64Array(edges.length * 2)
  edges.forEach((edge, i) => {
    all[2 * i] = edge.top
    all[2 * i + 1] = edge.bottom
  })
  all.sort()
  let count = 0
  for (let i = 0; i < all.length; i++) if (i === 0 || all[i] !== all[count - 1]) all[count++] = all[i]!
  return all.subarray(0, count)
}

const positionAt = (edge: Edge, y: number) => edge.x + (y - edge.top) * edge.slope

/** Heights strictly inside the beam where two active edges cross, sorted. Leaves the edges in their order at the top. */
function crossingHeights(active: Edge[], top: number, bottom: number): readonly number[] {
  for (const edge of active) edge.at = positionAt(edge, top)
  sortByPosition(active)
  let isOrdered = true
  let previous = -Infinity
  for (const edge of active) {
    edge.below = positionAt(edge, bottom)
    if (edge.below < previous) isOrdered = false
    previous = edge.below
  }
  if (isOrdered) return NO_CROSSINGS
  const cuts: number[] = []
  for (let i = 0; i < active.length; i++) {
    const a = active[i]!
    for (let j = i + 1; j < active.length; j++) {
      const b = active[j]!
      if (b.below >= a.below || a.slope === b.slope) continue
      const y = top + (b.at - a.at) / (a.slope - b.slope)
      if (y > top && y < bottom) cuts.push(y)
    }
  }
  return cuts.sort((p, q) => p - q)
}

const NO_CROSSINGS: readonly number[] = []

/** Insertion sort: the order hardly changes from beam to beam. */
function sortByPosition(active: Edge[]) {
  for (let i = 1; i < active.length; i++) {
    const edge = active[i]!
    let j = i - 1
    for (; j >= 0 && active[j]!.at > edge.at; j--) active[j + 1] = active[j]!
    active[j + 1] = edge
  }
}

function assignRoles(active: Edge[], top: number, bottom: number, pieces: number[]) {
  const middle = (top + bottom) / 2
  for (const edge of active) edge.at = positionAt(edge, middle)
  sortByPosition(active)
  let winding = 0
  for (const edge of active) {
    const before = winding
    winding += edge.direction
    const role = before === 0 ? 1 : winding === 0 ? -1 : 0
    if (role !== edge.role) {
      finish(edge, top, pieces)
      edge.role = role
      edge.roleSince = top
    }
  }
}

/** Emits what the edge bounded since its role began. */
function finish(edge: Edge, y: number, pieces: number[]) {
  if (edge.role === 0 || y <= edge.roleSince) return
  const x0 = positionAt(edge, edge.roleSince)
  const x1 = positionAt(edge, y)
  if (edge.role === 1) pieces.push(x0, edge.roleSince, x1, y)
  else pieces.push(x1, y, x0, edge.roleSince)
  edge.role = 0
}
