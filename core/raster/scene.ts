import { boundsOf, type Box } from '../geometry'
import type { HomogeneousOutline } from '../spline'
import { unionBoundary, type BoundaryPieces } from './boundary'
import { flattenOutline } from '../spline'
import type { EdgeProfile } from './feather'

/** Shapes of one Part that share an edge and an opacity, so that they are united as geometry. */
export interface EdgeGroup {
  edge: EdgeProfile
  opacity: number
  /** Outlines in target pixels at position u in 0..1 of the Part's own open shutter. */
  outlinesAt(u: number): HomogeneousOutline[]
}

/** What the rasteriser knows of a Part: no document, no time, only outlines over the open shutter. */
export interface ScenePart {
  id: string
  /** This Part cuts itself out of what stands behind it. */
  holdsOut: boolean
  groups: EdgeGroup[]
}

/** Parts of one frame, nearest first. */
export interface Scene {
  parts: ScenePart[]
}

/** Flattened, united boundaries of a Part over the open shutter; computed when asked for and kept. */
export class PartBoundaries {
  private readonly cache = new Map<string, BoundaryPieces>()
  private sweptBox: Box | null = null
  private largestSweep = -1
  private band = ''
  private readonly bandPieces = new Map<string, BoundaryPieces>()

  constructor(readonly part: ScenePart) {}

  pieces(group: number, u: number): BoundaryPieces {
    const key = `${group}/${this.isStill ? 0.5 : u}`
    let pieces = this.cache.get(key)
    if (!pieces) {
      const outlines = this.part.groups[group]!.outlinesAt(this.isStill ? 0.5 : u)
      pieces = unionBoundary(outlines.map((outline) => flattenOutline(outline)))
      this.cache.set(key, pieces)
    }
    return pieces
  }

  /** Only those pieces that touch rows top to bottom: what the tiles of one row of tiles need. */
  piecesInRows(group: number, u: number, top: number, bottom: number): BoundaryPieces {
    const band = `${top}/${bottom}`
    if (band !== this.band) {
      this.band = band
      this.bandPieces.clear()
    }
    const key = `${group}/${this.isStill ? 0.5 : u}`
    let found = this.bandPieces.get(key)
    if (!found) {
      found = touchingRows(this.pieces(group, u), top, bottom)
      this.bandPieces.set(key, found)
    }
    return found
  }

  get isStill(): boolean {
    return this.sweep < 1e-3
  }

  /** Largest way in target pixels that any control point goes while the shutter is open. */
  get sweep(): number {
    if (this.largestSweep < 0) this.measure()
    return this.largestSweep
  }

  /** Box of everything the Part touches while the shutter is open, without feather. */
  get box(): Box {
    if (!this.sweptBox) this.measure()
    return this.sweptBox!
  }

  private measure() {
    const box = { left: Infinity, top: Infinity, right: -Infinity, bottom: -Infinity }
    let largest = 0
    for (const group of this.part.groups) {
      let previous: Float64Array[] | null = null
      let ways: Float64Array[] = []
      for (const u of [0, 0.25, 0.5, 0.75, 1]) {
        const projected = group.outlinesAt(u).map(projectControlPoints)
        for (const points of projected) grow(box, boundsOf(points))
        if (previous) {
          projected.forEach((points, shape) => {
            const way = (ways[shape] ??= new Float64Array(points.length / 2))
            const before = previous![shape]!
            for (let i = 0; i < way.length; i++) {
              way[i]! += Math.hypot(points[2 * i]! - before[2 * i]!, points[2 * i + 1]! - before[2 * i + 1]!)
              if (way[i]! > largest) largest = way[i]!
            }
          })
        } else ways = []
        previous = projected
      }
    }
    this.sweptBox = box
    this.largestSweep = largest
  }
}

function touchingRows(pieces: BoundaryPieces, top: number, bottom: number): BoundaryPieces {
  const kept = new Float64Array(pieces.length)
  let length = 0
  for (let i = 0; i < pieces.length; i += 4) {
    const y0 = pieces[i + 1]!
    const y1 = pieces[i + 3]!
    if ((y0 < top && y1 < top) || (y0 > bottom && y1 > bottom)) continue
    kept[length++] = pieces[i]!
    kept[length++] = y0
    kept[length++] = pieces[i + 2]!
    kept[length++] = y1
  }
  return kept.slice(0, length)
}

function projectControlPoints(outline: HomogeneousOutline): Float64Array {
  const out = new Float64Array((outline.length / 3) * 2)
  for (let i = 0; i < outline.length / 3; i++) {
    const w = Math.max(1e-6, outline[3 * i + 2]!)
    out[2 * i] = outline[3 * i]! / w
    out[2 * i + 1] = outline[3 * i + 1]! / w
  }
  return out
}

function grow(box: Box, other: Box) {
  box.left = Math.min(box.left, other.left)
  box.top = Math.min(box.top, other.top)
  box.right = Math.max(box.right, other.right)
  box.bottom = Math.max(box.bottom, other.bottom)
}
