import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { findObject, inverted, POINT, POINT_STRIDE, type RotoDocument, type Shape, outlineKeys } from '../document'
import { pointsKeyPlaced, pointsMeanAt, pointsMeanAtKeys } from './pointCurves'
import { shapePointsAt } from '../evaluation'
import { documentOf, testPart, testShape, testShot, testSubject, withPatches } from '../document/testDocuments'
import { numberBetween } from '../testing/numberBetween'

const TIMES = [1001, 1021, 1041]
const shapeOf = (document: RotoDocument): Shape => findObject(document, 'shape', 'sleeve')!
const documentWith = (change: Partial<Shape> = {}) =>
  documentOf([testShot, testSubject, testPart('arm'), { ...testShape('sleeve', 'arm', TIMES), ...change }])
const chosenOf = (shape: Shape, places: readonly number[]) => new Set(places.map((i) => shape.pointIds[i]!))

describe("numbers of a shape's points over time", () => {
  it('a key placed gives the points the mean that was asked for and leaves all others', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.integer({ min: 0, max: 3 }), { maxLength: 4 }),
        fc.constantFrom(POINT.x, POINT.y),
        fc.constantFrom(...TIMES),
        fc.integer({ min: -5, max: 5 }),
        numberBetween(-500, 500),
        (places, channel, time, by, value) => {
          const document = documentWith()
          const before = shapeOf(document)
          const chosen = chosenOf(before, places)
          const patches = pointsKeyPlaced(before, chosen, channel, time, { time: time + by, value })
          const after = shapeOf(withPatches(document, patches))
          expect(pointsMeanAt(after, chosen, channel, time + by)).toBeCloseTo(value, 8)
          expect(outlineKeys(after).map((key) => key.time)).toEqual(
            TIMES.map((one) => (one === time ? time + by : one)),
          )
          const [old, now] = [before, after].map((shape) => outlineKeys(shape)[TIMES.indexOf(time)]!.values)
          before.pointIds.forEach((id, i) => {
            const isChosen = chosen.size === 0 || chosen.has(id)
            for (let n = 0; n < POINT_STRIDE; n++) {
              if (isChosen && n === channel) continue
              expect(now![i * POINT_STRIDE + n]).toBe(old![i * POINT_STRIDE + n])
            }
          })
          const back = patches.toReversed().map(inverted)
          expect(shapeOf(withPatches(withPatches(document, patches), back))).toEqual(before)
        },
      ),
    )
  })

  it('the curve runs through its keys', () => {
    const shape = shapeOf(documentWith())
    for (const { key, value } of pointsMeanAtKeys(shape, chosenOf(shape, [1, 2]), POINT.y)) {
      const values = shapePointsAt(shape, key.time)
      expect(value).toBeCloseTo((values[POINT_STRIDE + POINT.y]! + values[2 * POINT_STRIDE + POINT.y]!) / 2, 9)
    }
  })

  it('feather and width stay above nothing, tension within its bounds', () => {
    const document = documentWith()
    const shape = shapeOf(document)
    const valueAfter = (channel: number, value: number) => {
      const to = { time: 1021, value }
      const after = shapeOf(withPatches(document, pointsKeyPlaced(shape, new Set(), channel, 1021, to)))
      return pointsMeanAt(after, new Set(), channel, 1021)
    }
    expect(valueAfter(POINT.outerFeather, -3)).toBe(0)
    expect(valueAfter(POINT.outerFeather, 7)).toBeCloseTo(7, 12)
    expect(valueAfter(POINT.width, -1)).toBe(0)
    expect([valueAfter(POINT.tension, 4), valueAfter(POINT.tension, -4)]).toEqual([1, 0])
  })

  it('a key that holds some points alone changes these, so that the mean of all is what was asked for', () => {
    const whole = shapeOf(documentWith())
    const held = whole.pointIds.slice(0, 1)
    const keys = outlineKeys(whole).map((key) => (key.time === 1021 ? { ...key, touched: held } : key))
    const document = documentWith({ channels: { outline: { keys } } })
    const shape = shapeOf(document)
    const both = chosenOf(shape, [0, 1])
    const patches = pointsKeyPlaced(shape, both, POINT.x, 1021, { time: 1021, value: 40 })
    const after = shapeOf(withPatches(document, patches))
    expect(pointsMeanAt(after, both, POINT.x, 1021)).toBeCloseTo(40, 8)
    expect(outlineKeys(after)[1]!.touched).toEqual(held)
    expect(pointsMeanAtKeys(shape, chosenOf(shape, [1]), POINT.x).map(({ key }) => key.time)).toEqual([1001, 1041])
  })
})
