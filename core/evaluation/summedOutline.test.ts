import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { POINT_STRIDE, type Key, type Shape } from '../document'
import { documentOf, testPart, testShape, testShot, testSubject } from '../document/testDocuments'
import { homogeneousOutline } from '../spline'
import { outlineAt } from './outlines'
import { shapePointsAt, summedPointsAt } from './shapePoints'
import { summedOutline } from './summedOutline'

const number = fc.double({ min: -900, max: 900, noNaN: true })

/** A shape of some points with keys at uneven times. */
const keyed = (points: number) =>
  fc
    .uniqueArray(fc.integer({ min: 1001, max: 1072 }), { minLength: 1, maxLength: 6 })
    .chain((times) =>
      fc.tuple(
        fc.constant([...times].sort((a, b) => a - b)),
        fc.array(fc.array(number, { minLength: points * POINT_STRIDE, maxLength: points * POINT_STRIDE }), {
          minLength: times.length,
          maxLength: times.length,
        }),
      ),
    )
    .map(([times, values]): Shape => {
      const keys: Key[] = times.map((time, i) => ({
        time,
        interpolation: 'smooth',
        values: Float64Array.from(values[i]!),
      }))
      return { ...testShape('outline', 'coat', times, points), channels: { outline: { keys } } }
    })

const map = fc.array(number, { minLength: 9, maxLength: 9 }).map((values) => Float64Array.from(values))
const time = fc.double({ min: 1000, max: 1073, noNaN: true })

describe('an outline summed from its keys', () => {
  it('is to the last digit what the points on their own give, under any map, with points of any number', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 2, max: 7 }).chain((points) => keyed(points)),
        map,
        time,
        (shape, map, time) => {
          const sum = summedPointsAt(shape, time)
          fc.pre(sum !== null)
          expect(summedOutline(sum, map)).toEqual(homogeneousOutline(shapePointsAt(shape, time), POINT_STRIDE, map))
        },
      ),
    )
  })

  it('is none on a key, beyond the keys, on stretches that are straight or held, or with tangents set by hand', () => {
    const shape = testShape('outline', 'coat', [1001, 1010, 1020])
    expect(summedPointsAt(shape, 1004.5)).not.toBeNull()
    for (const time of [990, 1001, 1010, 1020, 1030]) expect(summedPointsAt(shape, time)).toBeNull()
    const withKey = (change: Partial<Key>, at = 0): Shape => {
      const keys = shape.channels.outline.keys.map((key, i) => (i === at ? { ...key, ...change } : key))
      return { ...shape, channels: { outline: { keys } } }
    }
    for (const interpolation of ['linear', 'ease', 'hold'] as const)
      expect(summedPointsAt(withKey({ interpolation }), 1004.5)).toBeNull()
    const tangents = new Float64Array(shape.channels.outline.keys[0]!.values.length * 4)
    for (const at of [0, 1]) expect(summedPointsAt(withKey({ tangents }, at), 1004.5)).toBeNull()
  })

  it('is none of strokes, B-splines, shapes that turn, and where keys hold some points only', () => {
    const shape = testShape('outline', 'coat', [1001, 1010, 1020])
    const touched = shape.channels.outline.keys.map((key, i) => (i === 1 ? { ...key, touched: [shape.pointIds[0]!] } : key)) // prettier-ignore
    const others: Partial<Shape>[] = [
      { isClosed: false },
      { curve: 'bspline' },
      { interpolateBy: 'turning' },
      { channels: { outline: { keys: touched } } },
    ]
    for (const other of others) {
      const changed = { ...shape, ...other } as Shape
      expect(summedPointsAt(changed, 1004.5)).toBeNull()
      const document = documentOf([testShot, testSubject, testPart('coat'), changed])
      expect(outlineAt(document, changed, 1004.5)).toHaveLength(6 * 9)
    }
  })
})
