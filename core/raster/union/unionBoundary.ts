import { boundsOf, type Box } from '../../geometry'
import { PieceBuffer, type BoundaryPieces } from './boundaryPieces'
import { pushUnionByCrossings } from './crossingUnion'
import { segmentsOf } from './segmentRuns'
import { pushUnionBySweep } from './sweepUnion'

/**
 * Boundary of the union of closed polygons, each filled by the non-zero rule on its own: overlaps and self-crossings
 * resolved, whatever way round each was drawn.
 *
 * Outlines are cut where they cross, and the stretches that bound the union are kept. Where corners or edges coincide,
 * so that rounding would decide, the cluster is swept in scan beams instead: slower, without special cases.
 */
export function unionBoundary(polygons: readonly Float64Array[]): BoundaryPieces {
  const out = new PieceBuffer()
  pushUnion(polygons, out)
  return out.toPieces()
}

/** The same, appended to a buffer. */
export function pushUnion(polygons: readonly Float64Array[], out: PieceBuffer) {
  for (const cluster of overlappingClusters(polygons)) {
    if (!pushUnionByCrossings(cluster, out)) pushSweptUnion(cluster, out)
  }
}

function pushSweptUnion(polygons: readonly Float64Array[], out: PieceBuffer) {
  const resolved = new PieceBuffer()
  for (const polygon of polygons) {
    const edges = new PieceBuffer()
    const { ends, count } = segmentsOf([polygon])
    for (let i = 0; i < 4 * count; i += 4) edges.push(ends[i]!, ends[i + 1]!, ends[i + 2]!, ends[i + 3]!)
    pushUnionBySweep(edges.toPieces(), polygons.length === 1 ? out : resolved)
  }
  if (polygons.length > 1) pushUnionBySweep(resolved.toPieces(), out)
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
