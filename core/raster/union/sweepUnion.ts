import type { BoundaryPieces, PieceBuffer } from './boundaryPieces'

/**
 * Boundary of what directed edges wind round at all, swept in scan beams between consecutive end and crossing heights
 * (Vatti, "A generic solution to polygon clipping", CACM 1992): inside a beam no two edges cross, so the edges where the
 * winding changes between zero and non-zero are the boundary. Between two beams the level boundary is where one is filled
 * and the other is not. No special cases, and always closed: what begins in a beam ends in it.
 *
 * @param edges  x0, y0, x1, y1 of each; together they form closed loops, in any order. Level ones follow from the others
 */
export function pushUnionBySweep(edges: BoundaryPieces, out: PieceBuffer) {
  sweep(edgesByHeight(edges), out)
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

function sweep(edges: Edge[], pieces: PieceBuffer) {
  if (edges.length === 0) return
  const heights = distinctHeights(edges)
  const active: Edge[] = []
  const levels = new LevelBoundary(pieces)
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
    if (active.length === 0) {
      levels.step(active, top)
      continue
    }
    const cuts = crossingHeights(active, top, bottom)
    let from = top
    for (let c = 0; c <= cuts.length; c++) {
      const to = c < cuts.length ? cuts[c]! : bottom
      if (to > from) {
        assignRoles(active, from, to, pieces)
        levels.step(active, from)
      }
      from = to
    }
  }
  const end = heights[heights.length - 1]!
  for (const edge of active) finish(edge, edge.bottom, pieces)
  levels.step([], end)
}

/** Spans shorter than this come from rounding: the same edge's place, or a crossing's, worked out twice. */
const LEAST_SPAN = 1e-9

/** The level boundary: at each height, where the sub-beams above and below it are not filled alike. */
class LevelBoundary {
  /** Edges that bound the filling of the sub-beam above, from left to right: in, out, in, out ... */
  private above: Edge[] = []

  constructor(private readonly pieces: PieceBuffer) {}

  /** @param active  edges of the sub-beam that begins at `y`, in their order there, with their roles */
  step(active: readonly Edge[], y: number) {
    const below = active.filter((edge) => edge.role !== 0)
    const { above } = this
    this.above = below
    if (above.length === below.length && above.every((edge, i) => edge === below[i])) return
    let [i, j, from] = [0, 0, -Infinity]
    while (i < above.length || j < below.length) {
      const xAbove = i < above.length ? positionAt(above[i]!, y) : Infinity
      const xBelow = j < below.length ? positionAt(below[j]!, y) : Infinity
      const to = Math.min(xAbove, xBelow)
      // An odd count of bounds passed means filled.
      const [isFilledAbove, isFilledBelow] = [i % 2 === 1, j % 2 === 1]
      if (isFilledAbove !== isFilledBelow && to - from > LEAST_SPAN) {
        if (isFilledBelow) this.pieces.push(to, y, from, y)
        else this.pieces.push(from, y, to, y)
      }
      if (xAbove <= xBelow) i++
      else j++
      from = to
    }
  }
}

function edgesByHeight(pieces: BoundaryPieces): Edge[] {
  const edges: Edge[] = []
  for (let i = 0; i < pieces.length; i += 4) {
    if (pieces[i + 3]! === pieces[i + 1]!) continue
    const down = pieces[i + 3]! > pieces[i + 1]!
    const upper = down ? i : i + 2
    const lower = down ? i + 2 : i
    edges.push({
      x: pieces[upper]!,
      top: pieces[upper + 1]!,
      bottom: pieces[lower + 1]!,
      slope: (pieces[lower]! - pieces[upper]!) / (pieces[lower + 1]! - pieces[upper + 1]!),
      direction: down ? 1 : -1,
      at: 0,
      below: 0,
      role: 0,
      roleSince: 0,
    })
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

/** Edges nearer to each other than this, in pixels, stand at one place: between them lies nothing, filled or not. */
const SAME_PLACE = 1e-9

function assignRoles(active: Edge[], top: number, bottom: number, pieces: PieceBuffer) {
  const middle = (top + bottom) / 2
  for (const edge of active) edge.at = positionAt(edge, middle)
  sortByPosition(active)
  let winding = 0
  for (let i = 0; i < active.length;) {
    const before = winding
    const first = i
    for (; i < active.length && active[i]!.at - active[first]!.at < SAME_PLACE; i++) winding += active[i]!.direction
    const role = before === 0 && winding !== 0 ? 1 : before !== 0 && winding === 0 ? -1 : 0
    // Of edges at one place a single one bounds the filling: that which did so before, if any.
    let bounding = -1
    if (role !== 0) {
      bounding = first
      for (let j = first; j < i; j++) if (active[j]!.role === role) bounding = j
    }
    for (let j = first; j < i; j++) setRole(active[j]!, j === bounding ? role : 0, top, pieces)
  }
}

function setRole(edge: Edge, role: number, y: number, pieces: PieceBuffer) {
  if (role === edge.role) return
  finish(edge, y, pieces)
  edge.role = role
  edge.roleSince = y
}

/** Emits what the edge bounded since its role began. */
function finish(edge: Edge, y: number, pieces: PieceBuffer) {
  if (edge.role === 0 || y <= edge.roleSince) return
  const x0 = positionAt(edge, edge.roleSince)
  const x1 = positionAt(edge, y)
  if (edge.role === 1) pieces.push(x0, edge.roleSince, x1, y)
  else pieces.push(x1, y, x0, edge.roleSince)
  edge.role = 0
}
