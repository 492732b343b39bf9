import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { numberBetween } from '../testing/numberBetween'
import { contourAtDistance, distanceToPolygon, distanceWithin, signedDistanceToPolygon } from './index'

const circle = (radius: number, count = 200) =>
  Array.from({ length: count }, (_, i) => (2 * Math.PI * i) / count).flatMap((a) => [100 + radius * Math.cos(a), 90 + radius * Math.sin(a)]) // prettier-ignore

const lengthOf = (lines: readonly number[][]) =>
  lines.reduce((sum, line) => {
    for (let i = 2; i < line.length; i += 2) sum += Math.hypot(line[i]! - line[i - 2]!, line[i + 1]! - line[i - 1]!)
    return sum
  }, 0)

const reversed = (polygon: readonly number[]) =>
  Array.from({ length: polygon.length / 2 }, (_, i) => polygon.slice(polygon.length - 2 * i - 2, polygon.length - 2 * i)).flat() // prettier-ignore

/** Spokes of any lengths round (100, 100). */
const star = fc.array(numberBetween(15, 60), { minLength: 3, maxLength: 40 }).map((radii) =>
  radii.flatMap((radius, i) => {
    const angle = (2 * Math.PI * i) / radii.length
    return [100 + radius * Math.cos(angle), 100 + radius * Math.sin(angle)]
  }),
)

describe('contours at a distance', () => {
  it.each([12, -12, 3, -30])('of a circle are circles (%d px)', (distance) => {
    for (const polygon of [circle(40), reversed(circle(40))]) {
      const lines = contourAtDistance(polygon, distance)
      expect(lines).toHaveLength(1)
      for (let i = 0; i < lines[0]!.length; i += 2) {
        expect(Math.abs(Math.hypot(lines[0]![i]! - 100, lines[0]![i + 1]! - 90) - (40 + distance))).toBeLessThan(0.06)
      }
      expect(Math.abs(lengthOf(lines) - 2 * Math.PI * (40 + distance))).toBeLessThan(0.5)
    }
  })

  it('of a square are its sides and quarters of circles outside, a smaller square inside', () => {
    const square = [10, 10, 50, 10, 50, 50, 10, 50]
    expect(lengthOf(contourAtDistance(square, 8))).toBeCloseTo(4 * 40 + 2 * Math.PI * 8, 0)
    const inner = lengthOf(contourAtDistance(square, -8))
    // At its corners a part of an edge, six pixels, may be left out.
    expect(inner).toBeLessThanOrEqual(4 * 24 + 0.5)
    expect(inner).toBeGreaterThan(4 * (24 - 12))
    expect(contourAtDistance(square, -25)).toEqual([])
  })

  it('lie everywhere at that distance, on that side, whatever the polygon', () => {
    fc.assert(
      fc.property(star, numberBetween(-20, 20), (polygon, distance) => {
        fc.pre(Math.abs(distance) > 0.5)
        for (const line of contourAtDistance(polygon, distance)) {
          for (let i = 0; i < line.length; i += 2) {
            expect(Math.abs(signedDistanceToPolygon(polygon, line[i]!, line[i + 1]!) - distance)).toBeLessThan(0.06)
          }
        }
      }),
    )
  })

  it('distance is that of the nearest place of all edges, by brute force', () => {
    const polygon = [0, 0, 30, 4, 22, 25, 10, 12]
    for (const [x, y] of [
      [-5, 3],
      [12, 9],
      [40, 40],
      [22, 25],
      [16, 2],
    ] as const) {
      let least = Infinity
      for (let i = 0; i < 4; i++) {
        const [ax, ay, bx, by] = [0, 1, 2, 3].map((n) => polygon[(2 * i + n) % 8]!)
        for (let t = 0; t <= 1; t += 1e-4) least = Math.min(least, Math.hypot(ax! + (bx! - ax!) * t - x, ay! + (by! - ay!) * t - y)) // prettier-ignore
      }
      expect(Math.abs(distanceToPolygon(polygon, x, y) - least)).toBeLessThan(1e-3)
    }
  })

  it('distance up to some pixels is the distance, or none beyond them', () => {
    const place = numberBetween(20, 180)
    fc.assert(
      fc.property(star, place, place, numberBetween(0.5, 60), (polygon, x, y, most) => {
        const whole = distanceToPolygon(polygon, x, y)
        expect(distanceWithin(polygon, most)(x, y)).toBe(whole <= most ? whole : Infinity)
      }),
    )
  })
})
