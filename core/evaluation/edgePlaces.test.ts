import { describe, expect, it } from 'vitest'
import { documentOf, testPart, testShape, testShot, testSubject } from '../document/testDocuments'
import { constantChannel, POINT_STRIDE, type Shape } from '../document'
import { edgePlacesOf } from './index'

const RADIUS = 60
const round = (id: string, partId = 'part'): Shape => testShape(id, partId, [1001, 1011], 12, RADIUS)
const documentWith = (...shapes: Shape[]) =>
  documentOf([testShot, testSubject, testPart('part', { depth: 1 }), testPart('near', { depth: 0 }), ...shapes])

/** A shape moved to the side on all of its keys. */
const moved = (shape: Shape, dx: number): Shape => ({
  ...shape,
  channels: {
    ...shape.channels,
    outline: {
      keys: shape.channels.outline.keys.map((key) => ({
        ...key,
        values: key.values.map((value, i) => (i % POINT_STRIDE === 0 ? value + dx : value)),
      })),
    },
  },
})

describe('places where an edge can be seen', () => {
  const shape = round('a')
  const places = edgePlacesOf(documentWith(shape), shape, 1001, 5)
  const centre = [0, 1].map((n) => {
    const { values } = shape.channels.outline.keys[0]!
    return Array.from({ length: 12 }, (_, i) => values[i * POINT_STRIDE + n]!).reduce((a, b) => a + b) / 12
  })

  it('stand along the outline, their normals pointing outwards', () => {
    expect(places.length).toBeGreaterThan((2 * Math.PI * RADIUS) / 10)
    for (const { x, y, normalX, normalY, turn } of places) {
      const [dx, dy] = [x - centre[0]!, y - centre[1]!]
      expect(Math.hypot(normalX, normalY)).toBeCloseTo(1, 9)
      expect((dx * normalX + dy * normalY) / Math.hypot(dx, dy)).toBeGreaterThan(0.99)
      // Four pixels of a circle turn by four over its radius.
      expect(Math.abs(turn - 4 / RADIUS)).toBeLessThan(0.06)
    }
  })

  it('know how far the motion within the shutter sweeps across them', () => {
    // Its keys lie 3 px to the side of each other, 10 frames apart: half of a frame, at 180 degrees.
    const still = edgePlacesOf(documentWith({ ...shape, channels: { outline: { keys: [shape.channels.outline.keys[0]!] } } }), { ...shape, channels: { outline: { keys: [shape.channels.outline.keys[0]!] } } }, 1001, 5) // prettier-ignore
    expect(Math.max(...still.map(({ sweep }) => sweep))).toBeLessThan(1e-9)
    const wide = { ...testShot, channels: { shutterAngle: constantChannel(360), shutterPhase: constantChannel(0) } }
    const document = documentOf([wide, testSubject, testPart('part'), shape])
    const swept = edgePlacesOf(document, shape, 1005, 5).map(({ sweep }) => sweep)
    const half = edgePlacesOf(documentWith(shape), shape, 1005, 5).map(({ sweep }) => sweep)
    expect(Math.max(...swept)).toBeGreaterThan(1.8 * Math.max(...half))
  })

  it('are those of a hole, and of what it is cut out of none inside it', () => {
    const hole: Shape = { ...moved(shape, RADIUS), id: 'hole', order: 1, operation: 'subtract' }
    const document = documentWith(shape, hole)
    expect(edgePlacesOf(document, hole, 1001, 5)).toHaveLength(places.length)
    const base = edgePlacesOf(document, shape, 1001, 5)
    expect(base.length).toBeLessThan(places.length)
    for (const { x, y } of base) expect(Math.hypot(x - centre[0]! - RADIUS, y - centre[1]!)).toBeGreaterThan(RADIUS)
  })

  it('are none where a nearer Part covers them, or another shape of the same Part, or where the shape is hidden', () => {
    const nearer = moved(round('b', 'near'), RADIUS)
    const left = edgePlacesOf(documentWith(shape, nearer), shape, 1001, 5)
    expect(left.length).toBeLessThan(places.length)
    expect(left.length).toBeGreaterThan(0)
    for (const { x, y } of left) expect(Math.hypot(x - centre[0]! - RADIUS, y - centre[1]!)).toBeGreaterThan(RADIUS)
    // What stands behind covers nothing.
    expect(edgePlacesOf(documentWith(shape, nearer), nearer, 1001, 5)).toHaveLength(places.length)
    expect(edgePlacesOf(documentWith(shape, { ...moved(shape, RADIUS), id: 'c', order: 1 }), shape, 1001, 5).length).toBeLessThan(places.length) // prettier-ignore
    expect(edgePlacesOf(documentWith({ ...shape, hidden: [[1001, 1001]] }), { ...shape, hidden: [[1001, 1001]] }, 1001, 5)).toEqual([]) // prettier-ignore
  })
})
