import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { identity } from '../../geometry'
import { outlineOfPolygon } from '../../spline'
import { numberBetween } from '../../testing'
import { unionBoundary } from '../union'
import { variedContour } from './variedContour'
import { widePieces, type WidePieces } from './widePieces'
import { widePolygon } from './widePolygon'

/** A round polygon of many corners, as wide inside and outside as `width` says of the angle. */
function ring(radius: number, width: (angle: number) => number): WidePieces {
  const angles = Array.from({ length: 72 }, (_, i) => (i * Math.PI) / 36)
  const polygon = Float64Array.from(angles.flatMap((a) => [100 + radius * Math.cos(a), 100 + radius * Math.sin(a)]))
  const wide = widePolygon(
    {
      outline: outlineOfPolygon(polygon, identity()),
      pointWidths: Float64Array.from(angles.flatMap((a) => [width(a), width(a)])),
    },
    { innerFeather: 0, outerFeather: 0, grow: 0 },
  )
  return widePieces(unionBoundary([wide.polygon]), [wide])
}

/** How far a place lies within the widest circle about a place of the outline, by sampling; on the envelope it is 0. */
function depthWithin({ pieces, widths }: WidePieces, x: number, y: number): number {
  let deepest = -Infinity
  for (let i = 0; i < pieces.length; i += 4) {
    for (let t = 0; t <= 1; t += 0.05) {
      const [qx, qy] = [0, 1].map((n) => pieces[i + n]! + (pieces[i + 2 + n]! - pieces[i + n]!) * t)
      const w = widths[i]! + (widths[i + 2]! - widths[i]!) * t
      deepest = Math.max(deepest, w - Math.hypot(x - qx!, y - qy!))
    }
  }
  return deepest
}

describe('contours of an edge of varying width', () => {
  it('of one width round a circle are circles', () => {
    const pieces = ring(60, () => 10)
    for (const [side, radius] of [['outer', 70], ['inner', 50]] as const) {
      const places = variedContour(pieces, side, 0).flat()
      expect(places.length).toBeGreaterThan(140)
      // The polygon of 72 sides lies up to 0.06 px inside the circle.
      for (let i = 0; i < places.length; i += 2) {
        expect(Math.abs(Math.hypot(places[i]! - 100, places[i + 1]! - 100) - radius)).toBeLessThan(0.12)
      }
    } // prettier-ignore
  })

  it('lie on the envelope of the circles, and go all the way round where nothing folds', () => {
    fc.assert(
      fc.property(numberBetween(4, 12), numberBetween(0, 8), fc.integer({ min: 1, max: 3 }), (mean, swing, waves) => {
        const pieces = ring(60, (a) => Math.max(0, mean + Math.min(mean, swing) * Math.sin(waves * a)))
        for (const side of ['outer', 'inner'] as const) {
          const lines = variedContour(pieces, side, 0)
          const seen = new Set<number>()
          for (const line of lines) {
            for (let i = 0; i < line.length; i += 2) {
              const [x, y] = [line[i]!, line[i + 1]!]
              expect(Math.abs(depthWithin(pieces, x, y))).toBeLessThan(0.1)
              const away = Math.hypot(x - 100, y - 100) - 60
              expect(side === 'outer' ? away : -away).toBeGreaterThan(-0.15)
              seen.add(Math.floor(((Math.atan2(y - 100, x - 100) + Math.PI) / (2 * Math.PI)) * 36))
            }
          }
          for (let sector = 0; sector < 36; sector++) expect(seen).toContain(sector)
        }
      }),
      { numRuns: 20, seed: 22, endOnFailure: true },
    )
  })

  it('grown, both move outwards', () => {
    const pieces = ring(60, () => 8)
    const meanRadius = (side: 'outer' | 'inner') => {
      const places = variedContour(pieces, side, 3).flat()
      let sum = 0
      for (let i = 0; i < places.length; i += 2) sum += Math.hypot(places[i]! - 100, places[i + 1]! - 100)
      return (2 * sum) / places.length
    }
    expect(Math.abs(meanRadius('outer') - 71)).toBeLessThan(0.15)
    expect(Math.abs(meanRadius('inner') - 55)).toBeLessThan(0.15)
  })
})
