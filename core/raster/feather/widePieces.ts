import { followingPieces, type BoundaryPieces } from '../union'
import { WIDTHS_STRIDE, type WidePolygon } from './widePolygon'

/** Side of the cells that edges are sorted into, pixels. */
const CELL = 8

/** Edges nearer to a piece than this lie on each other: the wider one counts. */
const SAME_PLACE = 1e-6

/** A piece is no longer than this, pixels, so that widths can change within what was one. */
const LONGEST = 6

/** Pixels by which a width may rise a pixel along the boundary. */
export const STEEPEST_RISE = 0.9

/** Boundary pieces, and inner and outer width at the beginning, then inner and outer at the end of each, pixels. */
export interface WidePieces {
  pieces: BoundaryPieces
  widths: Float64Array
  /**
   * How far beyond its beginning and beyond its end each piece is looked at, along its own line, for each pixel across: by how far what it reaches leans, and by the turn to its
   * neighbours.
   */
  overlaps: Float64Array
}

/**
 * Gives the pieces of a united boundary, each of which lies on an edge of one of the polygons that were united, the widths of these.
 *
 * Along the boundary widths rise by at most {@link STEEPEST_RISE}. Where they rose by a pixel a pixel, no place of the wider contour would lie straight out
 * from its own place of the line, and where two polygons cross, or one crosses itself, the soft edge would jump.
 */
export function widePieces(boundary: BoundaryPieces, polygons: readonly WidePolygon[]): WidePieces {
  const edges = new EdgesByPlace(polygons, boundary.length / 4)
  const pieces = shortPieces(boundary)
  const widths = new Float64Array(pieces.length)
  for (let i = 0; i < pieces.length; i += 4) {
    const [x0, y0, x1, y1] = [pieces[i]!, pieces[i + 1]!, pieces[i + 2]!, pieces[i + 3]!]
    const edge = edges.nearest((x0 + x1) / 2, (y0 + y1) / 2)
    if (edge < 0) continue
    edges.widthsAt(edge, x0, y0, widths, i)
    edges.widthsAt(edge, x1, y1, widths, i + WIDTHS_STRIDE)
  }
  limitRise(pieces, widths)
  return { pieces, widths, overlaps: overlapsOf(pieces, widths) }
}

function shortPieces(boundary: BoundaryPieces): BoundaryPieces {
  const out: number[] = []
  for (let i = 0; i < boundary.length; i += 4) {
    let [x, y] = [boundary[i]!, boundary[i + 1]!]
    const [dx, dy] = [boundary[i + 2]! - x, boundary[i + 3]! - y]
    const parts = Math.max(1, Math.ceil(Math.hypot(dx, dy) / LONGEST))
    for (let part = 1; part < parts; part++) {
      const [nextX, nextY] = [boundary[i]! + (dx * part) / parts, boundary[i + 1]! + (dy * part) / parts]
      out.push(x, y, nextX, nextY)
      ;[x, y] = [nextX, nextY]
    }
    out.push(x, y, boundary[i + 2]!, boundary[i + 3]!)
  }
  return Float64Array.from(out)
}

function overlapsOf(pieces: BoundaryPieces, widths: Float64Array): Float64Array {
  const next = followingPieces(pieces)
  const previous = new Int32Array(next.length).fill(-1)
  next.forEach((follower, n) => follower >= 0 && (previous[follower] = n))
  const leans = leansOf(pieces, widths)
  const out = new Float64Array(2 * next.length)
  for (let n = 0; n < next.length; n++) {
    out[2 * n] = overlap(leans, n, previous[n]!, LEAN.most, 1)
    out[2 * n + 1] = overlap(leans, n, next[n]!, LEAN.least, -1)
  }
  return out
}

/** Places of a piece's direction and of its least and largest lean, radians. */
const LEAN = { direction: 0, least: 1, most: 2 } as const
const LEAN_STRIDE = 3

/**
 * For each piece by how much what it reaches may lean back along it, from straight out: where the ramp begins the sine of that is the slope of the width on that side, on the line itself
 * what `tiltedFoot` gives at no distance.
 */
function leansOf(pieces: BoundaryPieces, widths: Float64Array): Float64Array {
  const out = new Float64Array((pieces.length / 4) * LEAN_STRIDE)
  for (let i = 0, at = 0; i < pieces.length; i += 4, at += LEAN_STRIDE) {
    const [dx, dy] = [pieces[i + 2]! - pieces[i]!, pieces[i + 3]! - pieces[i + 1]!]
    const length = Math.hypot(dx, dy) || 1
    const inner = (widths[i + 2]! - widths[i]!) / length
    const outer = (widths[i + 3]! - widths[i + 1]!) / length
    let [least, most] = [Math.min(0, inner, outer), Math.max(0, inner, outer)]
    for (const end of [i, i + 2]) {
      const width = widths[end]! + widths[end + 1]! + 1
      const share = (widths[end + 1]! + 0.5) / width
      const onLine = outer - (inner + outer) * share
      // Inwards it is that of the other side.
      least = Math.min(least, onLine, -onLine)
      most = Math.max(most, onLine, -onLine)
    }
    out[at + LEAN.direction] = Math.atan2(dy, dx)
    out[at + LEAN.least] = Math.asin(Math.max(-1, least))
    out[at + LEAN.most] = Math.asin(Math.min(1, most))
  }
  return out
}

/** Angles from which a piece is looked at all around. */
const WIDEST = 1.4

/** At the end where `other` goes on, by the leans of both that way and the turn between them; where nobody is known to go on, all around. */
function overlap(leans: Float64Array, piece: number, other: number, which: number, way: 1 | -1): number {
  if (other < 0) return Infinity
  const [own, its] = [piece * LEAN_STRIDE, other * LEAN_STRIDE]
  const turn = Math.abs(leans[its + LEAN.direction]! - leans[own + LEAN.direction]!)
  const lean = Math.max(way * leans[own + which]!, way * leans[its + which]!)
  const angle = lean + (turn > Math.PI ? 2 * Math.PI - turn : turn)
  return angle < WIDEST ? Math.tan(angle) : Infinity
}

/** Largest widths that are nowhere above those given, rise nowhere faster than they may, and are the same wherever pieces meet. */
function limitRise(pieces: BoundaryPieces, widths: Float64Array) {
  const corners = cornersOf(pieces)
  const count = pieces.length / 4
  const rises = Float64Array.from(
    { length: count },
    (_, n) => STEEPEST_RISE * Math.hypot(pieces[4 * n + 2]! - pieces[4 * n]!, pieces[4 * n + 3]! - pieces[4 * n + 1]!),
  )
  for (let side = 0; side < WIDTHS_STRIDE; side++) {
    const least = new Float64Array(2 * count).fill(Infinity)
    corners.forEach((corner, end) => {
      least[corner] = Math.min(least[corner]!, widths[WIDTHS_STRIDE * end + side]!)
    })
    // On and back along the boundary until nothing falls any more: mostly once or twice.
    for (let isFalling = true; isFalling;) {
      isFalling = false
      const level = (from: number, to: number, rise: number) => {
        if (least[to]! <= least[from]! + rise) return
        least[to] = least[from]! + rise
        isFalling = true
      }
      for (let n = 0; n < count; n++) level(corners[2 * n]!, corners[2 * n + 1]!, rises[n]!)
      for (let n = count - 1; n >= 0; n--) level(corners[2 * n + 1]!, corners[2 * n]!, rises[n]!)
    }
    corners.forEach((corner, end) => (widths[WIDTHS_STRIDE * end + side] = least[corner]!))
  }
}

/** For both ends of each piece a number that those at the same place share. */
function cornersOf(pieces: BoundaryPieces): Int32Array {
  const known = new Map<number, number[]>()
  return Int32Array.from({ length: pieces.length / 2 }, (_, end) => {
    const alike = known.get(pieces[2 * end]!)
    const same = alike?.find((other) => pieces[2 * other + 1] === pieces[2 * end + 1])
    if (same !== undefined) return same
    if (alike) alike.push(end)
    else known.set(pieces[2 * end]!, [end])
    return end
  })
}

/** Numbers of an edge: x0, y0, x1, y1, inner0, outer0, inner1, outer1. */
const EDGE_STRIDE = 8

/** The edges of polygons, found by place. */
class EdgesByPlace {
  private readonly edges: Float64Array
  /** Made when it is needed first. */
  private cells: Map<number, number[]> | null = null
  /** All edges are whole in the boundary: none lies on another one, and they follow one another as the pieces do. */
  private readonly areWhole: boolean
  /** The edge that was found last. */
  private last = 0

  /** @param pieces  of the boundary of their union */
  constructor(polygons: readonly WidePolygon[], pieces: number) {
    const count = polygons.reduce((sum, { polygon }) => sum + polygon.length / 2, 0)
    this.areWhole = pieces === count
    this.edges = new Float64Array(EDGE_STRIDE * count)
    let at = 0
    for (const { polygon, widths } of polygons) {
      for (let i = 0; i < polygon.length; i += 2, at += EDGE_STRIDE) {
        const next = i + 2 === polygon.length ? 0 : i + 2
        for (let n = 0; n < 2; n++) {
          this.edges[at + n] = polygon[i + n]!
          this.edges[at + 2 + n] = polygon[next + n]!
          this.edges[at + 4 + n] = widths[i + n]!
          this.edges[at + 6 + n] = widths[next + n]!
        }
      }
    }
  }

  private sorted(): Map<number, number[]> {
    const cells = new Map<number, number[]>()
    for (let at = 0; at < this.edges.length; at += EDGE_STRIDE) {
      const [x0, y0, x1, y1] = this.edges.subarray(at, at + 4) as unknown as [number, number, number, number]
      const steps = Math.max(1, Math.ceil(Math.max(Math.abs(x1 - x0), Math.abs(y1 - y0)) / (CELL / 2)))
      let last = NaN
      for (let step = 0; step <= steps; step++) {
        const cell = cellOf(x0 + ((x1 - x0) * step) / steps, y0 + ((y1 - y0) * step) / steps)
        if (cell === last) continue
        last = cell
        const known = cells.get(cell)
        if (known) known.push(at)
        else cells.set(cell, [at])
      }
    }
    return cells
  }

  /** Where the edge nearest to a place begins in `edges`; -1 where none is within a cell. */
  nearest(x: number, y: number): number {
    return this.areWhole && (this.isOn(this.last, x, y) || this.isOn(this.last + EDGE_STRIDE, x, y))
      ? this.last
      : (this.last = this.nearestOfAll(x, y))
  }

  /** Whether a place lies on an edge, which is then the one that was found last. */
  private isOn(at: number, x: number, y: number): boolean {
    const isOn = at >= 0 && at < this.edges.length && this.distance(at, x, y) < SAME_PLACE
    if (isOn) this.last = at
    return isOn
  }

  private nearestOfAll(x: number, y: number): number {
    const cells = (this.cells ??= this.sorted())
    let best = -1
    let least = Infinity
    for (let dy = -CELL; dy <= CELL; dy += CELL) {
      for (let dx = -CELL; dx <= CELL; dx += CELL) {
        for (const at of cells.get(cellOf(x + dx, y + dy)) ?? NONE) {
          const away = this.distance(at, x, y)
          const isWider = Math.abs(away - least) < SAME_PLACE && this.widthOf(at) > this.widthOf(best)
          if (away < least - SAME_PLACE || isWider) {
            best = at
            least = Math.min(least, away)
          }
        }
      }
    }
    return best
  }

  widthsAt(at: number, x: number, y: number, out: Float64Array, to: number) {
    const t = this.along(at, x, y)
    for (let side = 0; side < WIDTHS_STRIDE; side++) {
      const [from, end] = [this.edges[at + 4 + side]!, this.edges[at + 6 + side]!]
      out[to + side] = from + (end - from) * t
    }
  }

  private along(at: number, x: number, y: number): number {
    const { edges } = this
    const ax = edges[at]!
    const ay = edges[at + 1]!
    const dx = edges[at + 2]! - ax
    const dy = edges[at + 3]! - ay
    const squared = dx * dx + dy * dy
    const t = squared > 0 ? ((x - ax) * dx + (y - ay) * dy) / squared : 0
    return t < 0 ? 0 : t > 1 ? 1 : t
  }

  private distance(at: number, x: number, y: number): number {
    const { edges } = this
    const t = this.along(at, x, y)
    const offX = edges[at]! + t * (edges[at + 2]! - edges[at]!) - x
    const offY = edges[at + 1]! + t * (edges[at + 3]! - edges[at + 1]!) - y
    return Math.sqrt(offX * offX + offY * offY)
  }

  private widthOf(at: number): number {
    let sum = 0
    for (let n = 4; n < 8; n++) sum += this.edges[at + n]!
    return sum
  }
}

const NONE: readonly number[] = []

/** Rows of cells beside each other, far enough apart for any picture. */
const cellOf = (x: number, y: number) => Math.floor(x / CELL) + Math.floor(y / CELL) * 2 ** 20
