import { rationalPoint } from '../spline'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { areasAt, outlineAt } from '../evaluation'
import { closedSet, cornersRounded, directionReversed, firstPointSet, roundnessSet } from './form'
import { curveKindSet } from './curveKind'
import {
  findObject,
  POINT,
  POINT_STRIDE,
  sameValue,
  type Patch,
  type RotoDocument,
  type Shape,
  outlineKeys,
  withOutlineKeys,
} from '../document'
import { pointInserted, pointsRemoved } from './points'
import { documentOf, testPart, testShape, testShot, testSubject, withPatches } from '../document/testDocuments'
import { numberBetween } from '../testing/numberBetween'

const start = documentOf([testShot, testSubject, testPart('coat'), testShape('outline', 'coat', [1001, 1021, 1041], 7)])
const shapeOf = (document: RotoDocument): Shape => findObject(document, 'shape', 'outline')!
const after = (patches: Patch[], document = start) => withPatches(document, patches)
const TIMES = [1001, 1011.5, 1021, 1033, 1041]

/** Largest distance from points of one outline to the other. */
function apart(a: RotoDocument, b: RotoDocument, time: number): number {
  const [one, other] = [a, b].map((document) => outlineAt(document, shapeOf(document), time)) as [
    Float64Array,
    Float64Array,
  ]
  const dense: [number, number][] = []
  for (let i = 0; i < other.length / 9; i++) for (let k = 0; k < 60; k++) dense.push(rationalPoint(other, i, k / 60))
  let worst = 0
  for (let i = 0; i < one.length / 9; i++) {
    for (let k = 0; k < 12; k++) {
      const [x, y] = rationalPoint(one, i, k / 12)
      worst = Math.max(worst, Math.min(...dense.map(([u, v]) => Math.hypot(u - x, v - y))))
    }
  }
  return worst
}
/** Half the step of the dense samples: two equal curves are as far apart as that. */
const STEP = 0.6

describe('kinds of curves', () => {
  it('a Bezier outline becomes a B-spline within the deviation that is told, on keys and between them', () => {
    const { patches, deviations } = curveKindSet(shapeOf(start), 'bspline')
    const bspline = after(patches)
    const told = Math.max(...deviations.map(({ pixels }) => pixels))
    expect(shapeOf(bspline).curve).toBe('bspline')
    expect(told).toBeLessThan(0.5)
    for (const time of TIMES) expect(apart(start, bspline, time)).toBeLessThan(told + STEP)
  })

  it('corners stay corners, and the deviation that is told is not more than it is', () => {
    const square = shapeWithCorners([[100, 100], [300, 110], [310, 280], [90, 260]]) // prettier-ignore
    const { patches, deviations } = curveKindSet(shapeOf(square), 'bspline')
    const bspline = after(patches, square)
    expect(Math.max(...deviations.map(({ pixels }) => pixels))).toBeLessThan(1e-3)
    expect(apart(square, bspline, 1001)).toBeLessThan(2)
    const back = after(curveKindSet(shapeOf(bspline), 'bezier').patches, bspline)
    expect(shapeOf(back).corners.filter(Boolean)).toHaveLength(4)
  })

  it('a B-spline becomes a Bezier outline exactly, at all times', () => {
    const bspline = after(curveKindSet(shapeOf(start), 'bspline').patches)
    const bezier = after(curveKindSet(shapeOf(bspline), 'bezier').patches, bspline)
    for (const time of TIMES) {
      const [a, b] = [bspline, bezier].map((document) => outlineAt(document, shapeOf(document), time))
      expect(Math.max(...a!.map((value, i) => Math.abs(value - b![i]!)))).toBeLessThan(1e-9)
    }
  })

  it('a control point put in or taken away keeps the outline as near as is told', () => {
    const bspline = after(curveKindSet(shapeOf(start), 'bspline').patches)
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 6 }), numberBetween(0.2, 0.8), (i, t) => {
        const more = pointInserted(shapeOf(bspline), i, t)
        const less = pointsRemoved(shapeOf(bspline), new Set([shapeOf(bspline).pointIds[i]!]))
        for (const { patches, deviations } of [more, less]) {
          const changed = after(patches, bspline)
          const told = Math.max(...deviations.map(({ pixels }) => pixels))
          expect(apart(bspline, changed, 1021)).toBeLessThan(told + STEP)
        }
        const change = shapeOf(after(more.patches, bspline)).pointIds.length - shapeOf(bspline).pointIds.length
        expect(change).toBe(1)
        expect(Math.max(...more.deviations.map(({ pixels }) => pixels))).toBeLessThan(4)
      }),
      { numRuns: 20 },
    )
  })
})

describe('the form of an outline', () => {
  it('reversed it is the same line, and twice reversed the same shape', () => {
    const reversed = after(directionReversed(shapeOf(start)))
    for (const time of TIMES) expect(apart(start, reversed, time)).toBeLessThan(STEP)
    expect(shapeOf(reversed).pointIds.slice(0, 2)).toEqual(['outline-p0', 'outline-p6'])
    expect(sameValue(shapeOf(after(directionReversed(shapeOf(reversed)), reversed)), shapeOf(start))).toBe(true)
  })

  it('counted from another point it is the same line', () => {
    const other = after(firstPointSet(shapeOf(start), 'outline-p3'))
    expect(shapeOf(other).pointIds[0]).toBe('outline-p3')
    const [a, b] = [start, other].map((document) => outlineAt(document, shapeOf(document), 1011))
    expect(rationalPoint(a!, 3, 0.4)).toEqual(rationalPoint(b!, 0, 0.4))
  })

  it('opened it becomes a stroke of that width, closed again the outline it was', () => {
    const open = after(closedSet(shapeOf(start), false, 8))
    const stroke = shapeOf(open)
    expect(outlineKeys(stroke)[0]!.values[POINT.width]).toBe(8)
    // The last side is gone: what is covered there is only as wide as the stroke.
    const areas = areasAt(open, stroke, 1001)
    expect(areas.length).toBe(1)
    const closed = after(closedSet(stroke, true, 8), open)
    const [a, b] = [start, closed].map((document) => outlineAt(document, shapeOf(document), 1021))
    expect(Array.from(a!)).toEqual(Array.from(b!))
  })

  it('a corner rounded by a radius is an arc of it between the legs (tangent-length formula)', () => {
    const square = shapeWithCorners([[100, 100], [300, 100], [300, 300], [100, 300]]) // prettier-ignore
    const id = shapeOf(square).pointIds[1]!
    const { patches, pointIds } = cornersRounded(shapeOf(square), new Set([id]), 40)
    const rounded = after(patches, square)
    expect(pointIds).toHaveLength(2)
    const outline = outlineAt(rounded, shapeOf(rounded), 1001)
    let off = 0
    for (let k = 0; k <= 20; k++) {
      const [x, y] = rationalPoint(outline, 1, k / 20)
      off = Math.max(off, Math.abs(Math.hypot(x - 260, y - 140) - 40))
    }
    // A cubic quarter circle is off by at most 2.73e-4 of its radius (Goldapp 1991; value from memory).
    expect(off).toBeLessThan(40 * 3e-4)
    expect(rationalPoint(outline, 0, 1)).toEqual([expect.closeTo(260, 6), expect.closeTo(100, 6)])
    expect(rationalPoint(outline, 2, 0)).toEqual([expect.closeTo(300, 6), expect.closeTo(140, 6)])
  })

  it('a radius that does not fit is as large as the legs allow', () => {
    const square = shapeWithCorners([[0, 0], [20, 0], [20, 20], [0, 20]]) // prettier-ignore
    const all = new Set(shapeOf(square).pointIds)
    const rounded = after(cornersRounded(shapeOf(square), all, 500).patches, square)
    expect(shapeOf(rounded).pointIds).toHaveLength(8)
    // 49 % of each leg is the arc's, so that the points stay apart; cubics come within 2.7e-4 of the radius to circles.
    const radius = 0.49 * 20
    const outline = outlineAt(rounded, shapeOf(rounded), 1001)
    for (let i = 0; i < 8; i++) {
      for (const t of [0, 0.25, 0.5, 0.75]) {
        const [x, y] = rationalPoint(outline, i, t)
        const beyond = [x, y].map((place) => Math.max(0, Math.abs(place - 10) - (10 - radius)))
        expect(Math.abs(Math.hypot(...beyond) - radius)).toBeLessThan(3e-4 * radius)
      }
    }
  })

  it('roundness 0 is a polygon of corners, 1 smooth at every point', () => {
    const sharp = shapeOf(after(roundnessSet(shapeOf(start), 0)))
    const round = shapeOf(after(roundnessSet(shapeOf(start), 1)))
    for (let i = 0; i < 7; i++) {
      const at = i * POINT_STRIDE + POINT.inX
      expect(Math.hypot(...outlineKeys(sharp)[1]!.values.subarray(at, at + 4))).toBe(0)
      const [ax, ay, bx, by] = outlineKeys(round)[1]!.values.subarray(at, at + 4)
      expect(ax! * by! - ay! * bx!).toBeCloseTo(0, 9)
    }
    expect([sharp.corners[0], round.corners[0]]).toEqual([true, false])
  })
})

function shapeWithCorners(places: readonly (readonly [number, number])[]): RotoDocument {
  const values = new Float64Array(places.length * POINT_STRIDE)
  places.forEach((place, i) => values.set(place, i * POINT_STRIDE))
  const shape = testShape('outline', 'coat', [1001], places.length)
  return documentOf([
    testShot,
    testSubject,
    testPart('coat'),
    withOutlineKeys({ ...shape, corners: places.map(() => true) }, [{ ...outlineKeys(shape)[0]!, values }]),
  ])
}
