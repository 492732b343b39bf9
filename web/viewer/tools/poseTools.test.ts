import { describe, expect, it } from 'vitest'
import { find, pinSet, pivotOnPlate, poseAt, POSE, type RotoDocument } from '@tender-lasso/core/document'
import {
  documentOf,
  testPart,
  testShape,
  testShot,
  testSubject,
  withPatches,
} from '@tender-lasso/core/document/testDocuments'
import { NOTHING_SELECTED } from '../../state/shotStore'
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

const partOf = (document: RotoDocument, id: string) => find(document, 'part', id)!

describe('a Part selected by itself', () => {
  it('is turned about its pivot, and its child goes along', () => {
    const step = dragged(turnTool, posing(start, 'upper'), [260, 100], [200, 160])
    expect(step.commit?.label).toBe('rotate upper')
    const after = withPatches(start, step.commit!.patches)
    expect(poseAt(partOf(after, 'upper'), 1010)[POSE.rotation]).toBeCloseTo(Math.PI / 2, 9)
    expect(pivotOnPlate(after, partOf(after, 'lower'), 1010)).toEqual([expect.closeTo(120, 9), expect.closeTo(100, 9)])
    expect(find(after, 'shape', 'sleeve')).toBe(find(start, 'shape', 'sleeve'))
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

  it('is left alone when it is locked', () => {
    const locked = { objects: new Map(start.objects).set('upper', { ...partOf(start, 'upper'), locked: true }) }
    expect(dragged(turnTool, posing(locked, 'upper'), [260, 100], [200, 160]).commit).toBeUndefined()
    expect(dragged(selectTool, posing(locked, 'upper'), [200, 100], [260, 160]).commit).toBeUndefined()
  })
})
