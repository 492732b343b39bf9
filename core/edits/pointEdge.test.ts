import { describe, expect, it } from 'vitest'
import { constantChannel, findObject, outlineKeys, type Shape } from '../document'
import { documentOf, testPart, testShape, testShot, testSubject, withPatches } from '../document/testDocuments'
import { edgeBars, hasPointFocus, hasPointWidths, pointFocusAt, pointWidthsAt } from '../evaluation'
import { KEY_HERE, type Keying } from './change'
import { shapeRenewed } from './copies'
import { pointEdgeChanged, pointEdgeCleared, FEATHER_SIDES } from './pointEdge'

const shape = testShape('outline', 'part', [1001, 1021], 8, 60)
const soft: Shape = { ...shape, channels: { ...shape.channels, outerFeather: constantChannel(6) } }
const document = documentOf([testShot, testSubject, testPart('part'), soft])
const shapeIn = (of: typeof document) => findObject(of, 'shape', 'outline')!
const outers = (of: typeof document, frame: number) =>
  edgeBars(of, shapeIn(of), frame, 'feather').map(({ outer }) => outer)

const widened = (how: Keying, frame = 1001) =>
  withPatches(
    document,
    pointEdgeChanged(
      document,
      soft,
      frame,
      { numbers: ['outerFeather'], pointIds: new Set(['outline-p2']), softness: 0, to: (width) => 2 * width + 1 },
      how,
    ),
  )

describe('feather at points', () => {
  it('is given as what the edge has there, and stored as what the point adds to its shape', () => {
    const after = widened(KEY_HERE)
    expect(outers(after, 1001)).toEqual([6, 6, 13, 6, 6, 6, 6, 6])
    expect(pointWidthsAt(shapeIn(after), 1001)![2 * 2 + 1]).toBe(7)
    // Keyed on this frame alone; on the next key the point is as soft as the shape.
    expect(outers(after, 1021)).toEqual(new Array<number>(8).fill(6))
    const between = outers(after, 1011)[2]!
    expect(between).toBeGreaterThan(6)
    expect(between).toBeLessThan(13)
  })

  it('goes by the Reach, and never below none', () => {
    const everywhere = widened({ reach: { kind: 'everywhere' }, makesKeys: false, onlyTouched: false })
    for (const frame of [1001, 1021]) expect(outers(everywhere, frame)[2]).toBe(13)
    expect(outlineKeys(shapeIn(everywhere))).toHaveLength(2)
    const less = pointEdgeChanged(document, soft, 1001, { numbers: ['outerFeather'], pointIds: new Set(['outline-p0']), softness: 0, to: () => -40 }, KEY_HERE) // prettier-ignore
    expect(outers(withPatches(document, less), 1001)[0]).toBe(0)
  })

  it('is taken away again, and then nothing of it is left to be drawn', () => {
    const after = widened(KEY_HERE)
    const cleared = withPatches(
      after,
      pointEdgeCleared(shapeIn(after), 1001, { numbers: FEATHER_SIDES, pointIds: new Set(['outline-p2']) }, KEY_HERE),
    )
    expect(hasPointWidths(shapeIn(after))).toBe(true)
    expect(hasPointWidths(shapeIn(cleared))).toBe(false)
  })
})

describe('a copy of a shape', () => {
  it('has points of its own with the same blur weights', () => {
    const copy = shapeRenewed({ ...shape, blurWeights: { 'outline-p3': 0.25, gone: 0 } })
    expect(copy.blurWeights).toEqual({ [copy.pointIds[3]!]: 0.25 })
  })

  it('focus blur at points as well, beside the feather', () => {
    const blurred: Shape = { ...soft, channels: { ...soft.channels, focus: constantChannel(2) } }
    const given = documentOf([testShot, testSubject, testPart('part'), blurred])
    const everywhere: Keying = { reach: { kind: 'everywhere' }, makesKeys: false, onlyTouched: false }
    const pointIds = new Set(['outline-p2', 'outline-p3'])
    const change = { numbers: ['focus'] as const, pointIds, softness: 0, to: (sigma: number) => sigma - 5 }
    const after = withPatches(given, pointEdgeChanged(given, blurred, 1001, change, everywhere))
    // Never less than none.
    expect(Array.from(pointFocusAt(shapeIn(after), 1021, 2))).toEqual([2, 2, 0, 0, 2, 2, 2, 2])
    expect(outers(after, 1001)).toEqual(new Array<number>(8).fill(6))
    const cleared = withPatches(after, pointEdgeCleared(shapeIn(after), 1001, { numbers: ['focus'], pointIds }, everywhere)) // prettier-ignore
    expect(hasPointFocus(shapeIn(cleared))).toBe(false)
  })
})
