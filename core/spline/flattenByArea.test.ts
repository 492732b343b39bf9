import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { identity, signedArea } from '../geometry'
import { numberBetween } from '../testing'
import { flattenByArea } from './flattenByArea'
import { homogeneousOutline, SEGMENT_STRIDE, type HomogeneousOutline } from './rational'

const ERROR = 1 / 510

/** A circle as cubics: 1e-7 of its radius off where there are 24 (Goldapp 1991). */
function circle(radius: number, count = 24): HomogeneousOutline {
  const handle = (4 / 3) * Math.tan(Math.PI / (2 * count)) * radius
  const points = Array.from({ length: count }, (_, i) => {
    const [c, s] = [Math.cos((2 * Math.PI * i) / count), Math.sin((2 * Math.PI * i) / count)]
    return [300 + radius * c, 200 + radius * s, s * handle, -c * handle, -s * handle, c * handle]
  })
  return homogeneousOutline(Float64Array.from(points.flat()), 6, identity())
}

/** From (x0, y0) over one control point to (x1, y1) and straight back. */
function parabola([x0, y0, cx, cy, x1, y1]: readonly number[]): HomogeneousOutline {
  const towards = (from: number, to: number) => (2 / 3) * (to - from)
  const points = [
    [x0, y0, (x1! - x0!) / 3, (y1! - y0!) / 3, towards(x0!, cx!), towards(y0!, cy!)],
    [x1, y1, towards(x1!, cx!), towards(y1!, cy!), (x0! - x1!) / 3, (y0! - y1!) / 3],
  ]
  return homogeneousOutline(Float64Array.from(points.flat() as number[]), 6, identity())
}

const place = numberBetween(-60, 60)
const sixPlaces = fc.array(place, { minLength: 6, maxLength: 6 })

describe('a polygon of the same areas', () => {
  it('keeps the area of any parabola: two thirds of the triangle of its control points (Archimedes)', () => {
    fc.assert(
      fc.property(sixPlaces, (numbers) => {
        const [x0, y0, cx, cy, x1, y1] = numbers as [number, number, number, number, number, number]
        const triangle = ((cx - x0) * (y1 - y0) - (x1 - x0) * (cy - y0)) / 2
        const polygon = flattenByArea(parabola(numbers), ERROR)
        // So flat that it is one chord, it may leave as much as a pixel's side.
        const left = polygon.length === 4 ? ERROR : 1e-9 * Math.abs(triangle) + 1e-9
        expect(Math.abs(Math.abs(signedArea(polygon)) - Math.abs((2 / 3) * triangle))).toBeLessThanOrEqual(left)
      }),
    )
  })

  it('keeps the area of circles of any size', () => {
    for (const radius of [0.5, 2, 9, 40, 250, 2000]) {
      const shift = (Math.abs(signedArea(flattenByArea(circle(radius), ERROR))) - Math.PI * radius ** 2) / (2 * Math.PI * radius) // prettier-ignore
      // In a dot of half a pixel each of 24 segments is a single chord.
      expect(Math.abs(shift)).toBeLessThan(radius < 1 ? ERROR / Math.PI : ERROR / 20 + 1e-7 * radius)
    }
  })

  it('needs as many corners as the affine length of a circle says, 2 pi times the two thirds power of its radius', () => {
    for (const radius of [9, 40, 250]) {
      const chords = flattenByArea(circle(radius), ERROR).length / 2
      const least = (2 * Math.PI * radius ** (2 / 3)) / Math.cbrt(57.2 * ERROR)
      expect(chords).toBeGreaterThanOrEqual(least - 1)
      // At each anchor two chords are short, and their number is a whole one.
      expect(chords).toBeLessThan(least + 24 * 1.6)
    }
  })

  it('follows every affine map that keeps areas', () => {
    fc.assert(
      fc.property(fc.array(place, { minLength: 18, maxLength: 18 }), numberBetween(-2, 2), numberBetween(0.4, 2.5), (numbers, shear, stretch) => {
        const points = Float64Array.from(numbers)
        const map = Float64Array.of(stretch, shear, 7, 0, 1 / stretch, -4, 0, 0, 1)
        const plain = flattenByArea(homogeneousOutline(points, 6, identity()), ERROR)
        const mapped = flattenByArea(homogeneousOutline(points, 6, map), ERROR)
        // Rounding may give one segment a chord more.
        fc.pre(plain.length === mapped.length)
        for (let i = 0; i < plain.length; i += 2) {
          expect(mapped[i]).toBeCloseTo(stretch * plain[i]! + shear * plain[i + 1]! + 7, 6)
          expect(mapped[i + 1]).toBeCloseTo(plain[i + 1]! / stretch - 4, 6)
        }
      }),
    ) // prettier-ignore
  })

  it('leaves anchors where they are and gives straight sides no corner', () => {
    const outline = parabola([10, 10, 30, 60, 50, 10])
    const polygon = flattenByArea(outline, ERROR)
    expect([...polygon.subarray(0, 2)]).toEqual([10, 10])
    expect([...polygon.subarray(polygon.length - 2)]).toEqual([50, 10])
    const square = parabola([0, 0, 20, 0, 40, 0])
    expect(flattenByArea(square, ERROR)).toHaveLength((2 * square.length) / SEGMENT_STRIDE)
  })

  it('stays finite behind the vanishing line and near it', () => {
    for (const g of [-0.004, -0.0034, -0.0036]) {
      const beyond = Float64Array.of(1, 0, 0, 0, 1, 0, g, 0, 1)
      const points = Float64Array.from([200, 100, 0, -50, 0, 50, 290, 100, 0, 50, 0, -50])
      expect(flattenByArea(homogeneousOutline(points, 6, beyond), ERROR).every(Number.isFinite)).toBe(true)
    }
  })
})
