import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { signedArea } from '../../geometry'
import { CoverageAccumulator } from '../accumulate'
import { PieceBuffer, type BoundaryPieces } from './boundaryPieces'
import { pushUnionByCrossings } from './crossingUnion'
import { pushUnionBySweep } from './sweepUnion'
import { unionBoundary } from './unionBoundary'
import { numberBetween } from '../../testing/numberBetween'

const SIZE = 64

function coverageOf(pieces: BoundaryPieces): Float32Array {
  const accumulator = new CoverageAccumulator()
  const box = { left: 0, top: 0, right: SIZE, bottom: SIZE }
  accumulator.begin(box)
  accumulator.add(pieces)
  const out = new Float32Array(SIZE * SIZE)
  accumulator.finish({ box, alpha: out })
  return out
}

/** Star-shaped, so simple; right-hand side running up. */
const blob = fc
  .tuple(numberBetween(12, 52), numberBetween(12, 52), fc.array(numberBetween(4, 22), { minLength: 3, maxLength: 24 }))
  .map(([x, y, radii]) => {
    const points = radii.flatMap((radius, i) => {
      const angle = (-2 * Math.PI * (i + 0.137)) / radii.length
      return [x + radius * Math.cos(angle), y + radius * Math.sin(angle)]
    })
    return Float64Array.from(points)
  })

const swept = (polygons: readonly Float64Array[]) => {
  const edges = new PieceBuffer()
  for (const p of polygons) {
    for (let i = 0; i < p.length; i += 2) {
      const j = (i + 2) % p.length
      edges.push(p[i]!, p[i + 1]!, p[j]!, p[j + 1]!)
    }
  }
  const out = new PieceBuffer()
  pushUnionBySweep(edges.toPieces(), out)
  return out.toPieces()
}

const reversed = (polygon: Float64Array) => {
  const out: number[] = []
  for (let i = polygon.length - 2; i >= 0; i -= 2) out.push(polygon[i]!, polygon[i + 1]!)
  return Float64Array.from(out)
}

function largestDifference(a: Float32Array, b: Float32Array): number {
  let worst = 0
  for (let i = 0; i < a.length; i++) worst = Math.max(worst, Math.abs(a[i]! - b[i]!))
  return worst
}

describe('union of outlines', () => {
  it('by crossings equals the scan-beam sweep, for any overlapping blobs', () => {
    let certain = 0
    fc.assert(
      fc.property(fc.array(blob, { minLength: 2, maxLength: 6 }), (polygons) => {
        const out = new PieceBuffer()
        if (!pushUnionByCrossings(polygons, out)) return
        certain++
        expect(largestDifference(coverageOf(out.toPieces()), coverageOf(swept(polygons)))).toBeLessThan(1e-4)
      }),
      { numRuns: 200 },
    )
    // The quick way must be the usual way, or this compares nothing.
    expect(certain).toBeGreaterThan(180)
  })

  it('does not depend on which way round the outlines were drawn', () => {
    fc.assert(
      fc.property(fc.array(blob, { minLength: 2, maxLength: 4 }), fc.array(fc.boolean()), (polygons, flips) => {
        const turned = polygons.map((polygon, i) => (flips[i] ? reversed(polygon) : polygon))
        const a = coverageOf(unionBoundary(polygons))
        expect(largestDifference(a, coverageOf(unionBoundary(turned)))).toBeLessThan(1e-4)
      }),
      { numRuns: 80 },
    )
  })

  it('takes coincident edges, shared corners and identical outlines', () => {
    const left = Float64Array.of(10, 10, 10, 40, 30, 40, 30, 10)
    const right = Float64Array.of(30, 10, 30, 40, 50, 40, 50, 10)
    const corner = Float64Array.of(50, 40, 50, 60, 60, 60, 60, 40)
    const refused = new PieceBuffer()
    expect(pushUnionByCrossings([left, right], refused)).toBe(false)
    expect(refused.length).toBe(0)
    const sum = (polygons: Float64Array[]) => coverageOf(unionBoundary(polygons)).reduce((a, b) => a + b)
    expect(sum([left, right])).toBeCloseTo(1200, 3)
    expect(sum([left, left, reversed(left)])).toBeCloseTo(600, 3)
    expect(sum([left, right, corner])).toBeCloseTo(1400, 3)
  })

  it('a figure eight united with what lies over it leaves no hole, whichever way the lobes run', () => {
    const eight = Float64Array.of(10, 10, 50, 50, 50, 10, 10, 50)
    const bar = Float64Array.of(20, 5, 20, 58, 26, 58, 26, 5)
    const both = coverageOf(unionBoundary([eight, bar]))
    const flipped = coverageOf(unionBoundary([reversed(eight), bar]))
    expect(largestDifference(both, flipped)).toBeLessThan(1e-6)
    for (let y = 6; y < 57; y++) expect(both[y * SIZE + 22]).toBeCloseTo(1, 6)
    // Two triangles of 40 x 20 / 2, and the bar without what it shares with the left one.
    const shared = 2 * ((26 - 20) * (30 - 23)) // the lobe is 2 |30 - x| high at x
    expect(both.reduce((a, b) => a + b)).toBeCloseTo(
      Math.abs(signedArea([10, 10, 30, 30, 10, 50])) * 2 + 6 * 53 - shared,
      2,
    )
  })
})
