import { describe, expect, it } from 'vitest'
import { controlPlacesAt, poseAt } from '@tender-lasso/core/evaluation'
import { findObject, POSE, type RotoDocument, pivotKeys, poseKeys } from '@tender-lasso/core/document'
import { pinSet, pivotOnPlate, shapePivotSet } from '@tender-lasso/core/edits'
import {
  documentOf,
  testPart,
  testShape,
  testShot,
  testSubject,
  withPatches,
} from '@tender-lasso/core/document/testDocuments'
import { NOTHING_SELECTED } from '../../store'
import { selectTool } from './selectTool'
import { contextOf, pointerAt } from './testContext'
import type { Tool, ToolContext } from './tool'
import { turnTool } from './turnTool'

const start = documentOf([
  testShot,
  testSubject,
  testPart('upper', { pivot: [200, 100] }),
  testPart('lower', { parentId: 'upper', pivot: [200, 180] }),
  testShape('sleeve', 'lower', [1001]),
])
const posing = (document: RotoDocument, partId: string): ToolContext =>
  contextOf(document, { frame: 1010, selection: { ...NOTHING_SELECTED, partId } })

function dragged<State>(
  tool: Tool<State>,
  context: ToolContext,
  from: readonly [number, number],
  to: readonly [number, number],
  keys = {},
) {
  let { state } = tool.down(tool.idle, pointerAt(...from, keys), context)
  state = tool.move(state, pointerAt(...to, keys), context).state
  return tool.up(state, pointerAt(...to, keys), context)
}

const partOf = (document: RotoDocument, id: string) => findObject(document, 'part', id)!

describe('a Part selected by itself', () => {
  it('is turned about its pivot, and its child goes along', () => {
    const step = dragged(turnTool, posing(start, 'upper'), [260, 100], [200, 160])
    expect(step.commit?.label).toBe('rotate upper')
    const after = withPatches(start, step.commit!.patches)
    expect(poseAt(partOf(after, 'upper'), 1010)[POSE.rotation]).toBeCloseTo(Math.PI / 2, 9)
    expect(pivotOnPlate(after, partOf(after, 'lower'), 1010)).toEqual([expect.closeTo(120, 9), expect.closeTo(100, 9)])
    expect(findObject(after, 'shape', 'sleeve')).toBe(findObject(start, 'shape', 'sleeve'))
  })

  it('is scaled with Shift; a click puts its pivot', () => {
    const scaled = dragged(turnTool, posing(start, 'upper'), [220, 100], [240, 100], { shift: true })
    const after = withPatches(start, scaled.commit!.patches)
    expect(Math.exp(poseAt(partOf(after, 'upper'), 1010)[POSE.logScaleX]!)).toBeCloseTo(2, 9)
    const { state } = turnTool.down(turnTool.idle, pointerAt(90, 80), posing(start, 'upper'))
    const placed = turnTool.up(state, pointerAt(90, 80), posing(start, 'upper'))
    expect(partOf(withPatches(start, placed.commit!.patches), 'upper').pivot).toEqual([90, 80])
  })

  it('is moved by its pivot; pinned, it stays and says so', () => {
    const moved = dragged(selectTool, posing(start, 'lower'), [202, 180], [232, 190])
    expect(moved.commit?.label).toBe('move lower')
    const after = withPatches(start, moved.commit!.patches)
    expect(pivotOnPlate(after, partOf(after, 'lower'), 1010)).toEqual([expect.closeTo(230, 9), expect.closeTo(190, 9)])
    const pinned = withPatches(start, pinSet(start, partOf(start, 'lower'), 1001, 'parent'))
    const refused = dragged(selectTool, posing(pinned, 'lower'), [202, 180], [232, 190])
    expect(refused.commit).toBeUndefined()
    expect(refused.say).toContain('pinned')
  })

  it('with a pivot that has keys of its own, dragging puts one, and the Part goes along', () => {
    const keyed = withPatches(start, pinSet(start, partOf(start, 'lower'), 1001, 'keys'))
    const moved = dragged(selectTool, posing(keyed, 'lower'), [200, 180], [230, 190])
    const after = withPatches(keyed, moved.commit!.patches)
    expect(partOf(after, 'lower').pin).toEqual({ to: 'keys' })
    expect(pivotKeys(partOf(after, 'lower')).map(({ time }) => time)).toEqual([1001, 1010])
    expect(poseKeys(partOf(after, 'lower'))).toEqual([])
    expect(pivotOnPlate(after, partOf(after, 'lower'), 1010)).toEqual([expect.closeTo(230, 9), expect.closeTo(190, 9)])
    expect(pivotOnPlate(after, partOf(after, 'lower'), 1001)).toEqual([expect.closeTo(200, 9), expect.closeTo(180, 9)])
  })

  it('pinned to a joint, is put elsewhere by a click with Alt only', () => {
    const pinned = withPatches(start, pinSet(start, partOf(start, 'lower'), 1001, 'parent'))
    const clicked = dragged(turnTool, posing(pinned, 'lower'), [90, 80], [90, 80])
    expect(clicked.commit).toBeUndefined()
    expect(clicked.say).toContain('turns about its joint')
    const meant = dragged(turnTool, posing(pinned, 'lower'), [90, 80], [90, 80], { alt: true })
    expect(meant.commit?.label).toBe('put the pivot of lower')
  })

  it('is left alone when it is locked', () => {
    const locked = { objects: new Map(start.objects).set('upper', { ...partOf(start, 'upper'), locked: true }) }
    expect(dragged(turnTool, posing(locked, 'upper'), [260, 100], [200, 160]).commit).toBeUndefined()
    expect(dragged(selectTool, posing(locked, 'upper'), [200, 100], [260, 160]).commit).toBeUndefined()
  })
})

describe('a shape with a pivot of its own', () => {
  const pivoted = withPatches(
    start,
    shapePivotSet(start, findObject(start, 'shape', 'sleeve')!, 1001, 'shape', [250, 180]),
  )
  const context = contextOf(pivoted, { selection: { ...NOTHING_SELECTED, partId: 'lower', shapeIds: ['sleeve'] } })
  const placesOf = (document: RotoDocument) => controlPlacesAt(document, findObject(document, 'shape', 'sleeve')!, 1001)
  const placesAfter = (patches: Parameters<typeof withPatches>[1]) => placesOf(withPatches(pivoted, patches))
  const before = placesOf(pivoted)

  it('is turned about it, unless another place was clicked for this', () => {
    const turned = dragged(turnTool, context, [350, 180], [250, 280])
    const [x, y] = placesAfter(turned.commit!.patches)
    expect([x, y]).toEqual([expect.closeTo(250 - (before[1]! - 180), 6), expect.closeTo(180 + (before[0]! - 250), 6)])
    const clicked = dragged(turnTool, { ...context, pivot: [0, 0] }, [100, 0], [0, 100])
    const [u, v] = placesAfter(clicked.commit!.patches)
    expect([u, v]).toEqual([expect.closeTo(-before[1]!, 6), expect.closeTo(before[0]!, 6)])
  })
})
