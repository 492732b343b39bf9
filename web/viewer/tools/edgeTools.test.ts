import { describe, expect, it } from 'vitest'
import {
  constantChannel,
  findObject,
  keyedChannels,
  POINT_STRIDE,
  type RotoDocument,
} from '@tender-lasso/core/document'
import {
  documentOf,
  testPart,
  testShape,
  testShot,
  testSubject,
  withPatches,
} from '@tender-lasso/core/document/testDocuments'
import { edgeBars, edgeOn, pointFocusAt, sceneAt } from '@tender-lasso/core/evaluation'
import { renderMattes } from '@tender-lasso/core/raster'
import { NOTHING_SELECTED } from '../../store'
import { featherTool, focusTool } from './edgeTools'
import { contextOf, pointerAt } from './testContext'
import type { PointerInput, ToolContext } from './tool'

const RADIUS = 60
const round = testShape('round', 'part', [1001], 12, RADIUS)
/** Middle of the round shape: it has none of its own. */
const middle = (() => {
  const { values } = round.channels.outline.keys[0]!
  const [xs, ys] = [0, 1].map((n) => Array.from({ length: 12 }, (_, i) => values[i * POINT_STRIDE + n]!))
  return [xs!.reduce((a, b) => a + b) / 12, ys!.reduce((a, b) => a + b) / 12] as const
})()
const other = { ...testShape('other', 'part', [1001], 12, RADIUS), order: 1 }
const document = documentOf([testShot, testSubject, testPart('part'), round])
const chosen = { ...NOTHING_SELECTED, partId: 'part', shapeIds: ['round'] }

/** Between two points, in the direction 15 degrees below the level. */
const BETWEEN = Math.PI / 12
const at = (radius: number, keys: Partial<PointerInput> = {}) =>
  pointerAt(middle[0] + radius * Math.cos(BETWEEN), middle[1] + radius * Math.sin(BETWEEN), keys)

/** Presses at one radius, drags to another, lets go. */
function drag(context: ToolContext, from: number, to: number, keys: Partial<PointerInput> = {}): RotoDocument {
  const pressed = featherTool.down(featherTool.idle, at(from, keys), context)
  const moved = featherTool.move(pressed.state, at(to, { ...keys, time: 300 }), context)
  const { commit } = featherTool.up(moved.state, at(to, { ...keys, time: 320 }), context)
  return commit ? withPatches(context.document, commit.patches) : context.document
}

const edgeOf = (of: RotoDocument, id = 'round') => edgeOn(findObject(of, 'shape', id)!, 1001).edge

describe('softening an edge at a point', () => {
  const context = contextOf(document, { selection: chosen })
  const bar = (n: number, radius: number, keys: Partial<PointerInput> = {}) =>
    pointerAt(middle[0] + radius * Math.cos((n * Math.PI) / 6), middle[1] + radius * Math.sin((n * Math.PI) / 6), keys)
  const dragBar = (of: ToolContext, n: number, from: number, to: number, keys: Partial<PointerInput> = {}) => {
    const pressed = featherTool.down(featherTool.idle, bar(n, from, keys), of)
    const moved = featherTool.move(pressed.state, bar(n, to, { ...keys, time: 300 }), of)
    return featherTool.up(moved.state, bar(n, to, { ...keys, time: 320 }), of)
  }
  const after = (of: ToolContext, { commit }: ReturnType<typeof dragBar>) => withPatches(of.document, commit!.patches)
  /** Outer, inner of each point. */
  const widths = (of: RotoDocument) => edgeBars(of, findObject(of, 'shape', 'round')!, 1001, 'feather').map(({ outer, inner }) => [outer, inner]) // prettier-ignore

  it('by its bar widens the edge there alone, and by the Reach', () => {
    const step = dragBar(context, 3, RADIUS, RADIUS + 9)
    expect(step.commit?.reaches).toBe(true)
    expect(step.commit?.label).toBe('feather out at this point of round')
    const found = widths(after(context, step))
    found.forEach(([outer, inner], n) => {
      expect(outer).toBeCloseTo(n === 3 ? 9 : 0, 6)
      expect(inner).toBe(0)
    })
    // From there on inwards again, no farther than none.
    const soft = contextOf(after(context, step), { selection: chosen })
    expect(widths(after(soft, dragBar(soft, 3, RADIUS + 9, RADIUS - 20)))[3]).toEqual([0, 0])
  })

  it('takes all selected points with it, others by the soft selection, both sides with Alt', () => {
    const pointIds = new Set(['round-p3', 'round-p4'])
    const several = contextOf(document, { selection: { ...chosen, pointIds }, softness: 45 })
    const found = widths(after(several, dragBar(several, 4, RADIUS, RADIUS + 6, { alt: true })))
    for (const n of [3, 4]) expect(found[n]![0]).toBeCloseTo(6, 6)
    // The chord between two points is 31 px: a neighbour goes along a little, and the one after not at all.
    for (const n of [2, 5]) expect(found[n]![0]).toBeGreaterThan(0.5)
    for (const n of [2, 5]) expect(found[n]![0]).toBeLessThan(5.5)
    for (const n of [0, 7, 9]) expect(found[n]![0]).toBe(0)
    for (const [outer, inner] of found) expect(outer).toBeCloseTo(inner!, 9)
  })

  it('adds to the feather of the shape, and takes from it', () => {
    const soft = contextOf(drag(context, RADIUS, RADIUS + 10), { selection: chosen })
    const harder = after(soft, dragBar(soft, 6, RADIUS + widths(soft.document)[6]![0]!, RADIUS + 4))
    const found = widths(harder)
    expect(found[6]![0]).toBeCloseTo(4, 1)
    expect(found[5]![0]).toBeCloseTo(found[0]![0]!, 9)
    expect(found[5]![0]).toBeGreaterThan(9.5)
    // The contour of the whole can still be taken between two points, and all go along.
    const wider = widths(drag(contextOf(harder, { selection: chosen }), RADIUS + found[0]![0]!, RADIUS + 15))
    expect(wider[0]![0]! - wider[6]![0]!).toBeCloseTo(found[0]![0]! - found[6]![0]!, 6)
    expect(wider[0]![0]).toBeGreaterThan(14)
  })

  it('a click on a bar selects its point, with Shift more of them', () => {
    const click = (n: number, keys: Partial<PointerInput>, of = context) =>
      featherTool.up(featherTool.down(featherTool.idle, bar(n, RADIUS, keys), of).state, bar(n, RADIUS, keys), of)
    expect(click(2, {}).selection).toEqual({ pointIds: new Set(['round-p2']) })
    const one = contextOf(document, { selection: { ...chosen, pointIds: new Set(['round-p2']) } })
    expect(click(5, { shift: true }, one).selection).toEqual({ pointIds: new Set(['round-p2', 'round-p5']) })
    expect(click(2, { shift: true }, one).selection).toEqual({ pointIds: new Set() })
  })

  it('the matte is as wide there as the bar says', () => {
    const soft = after(context, dragBar(context, 0, RADIUS, RADIUS + 12))
    const [matte] = renderMattes(sceneAt(soft, 1001), [{ partId: 'part', withHoldouts: false }], { box: { left: 0, top: 0, right: 640, bottom: 400 }, motionBlur: false })! // prettier-ignore
    const row = Math.floor(middle[1])
    const alpha = (x: number) => matte![row * 640 + Math.floor(x)]!
    const edge = middle[0] + RADIUS
    // s runs from 1 on the line to 0 at 12 px: half of the way is a half.
    const s = 1 - (Math.floor(edge + 6) + 0.5 - edge) / 12
    expect(Math.abs(alpha(edge + 6) - s * s * (3 - 2 * s))).toBeLessThan(0.01)
    expect(alpha(edge + 13)).toBe(0)
    // On the other side it is as hard as ever.
    expect(alpha(middle[0] - RADIUS - 1.5)).toBe(0)
  })
})

describe('softening an edge by hand', () => {
  const context = contextOf(document, { selection: chosen })

  it('from the bare line outwards feathers out, inwards feathers in, as far as the hand goes', () => {
    const out = edgeOf(drag(context, RADIUS, RADIUS + 9))
    expect(Math.abs(out.outerFeather - 9)).toBeLessThan(0.2)
    expect(out.innerFeather).toBe(0)
    const inwards = edgeOf(drag(context, RADIUS, RADIUS - 7))
    expect(Math.abs(inwards.innerFeather - 7)).toBeLessThan(0.2)
    expect(inwards.outerFeather).toBe(0)
  })

  it('takes hold of the contour that is there, and goes no farther than the line', () => {
    const soft = contextOf(drag(context, RADIUS, RADIUS + 20), { selection: chosen })
    expect(Math.abs(edgeOf(drag(soft, RADIUS + 20, RADIUS + 12)).outerFeather - 12)).toBeLessThan(0.2)
    expect(edgeOf(drag(soft, RADIUS + 20, RADIUS - 30)).outerFeather).toBe(0)
    // Between the contours there is nothing to take.
    expect(featherTool.down(featherTool.idle, at(RADIUS + 10), soft).state).toEqual(featherTool.idle)
  })

  it('with Alt does both sides at once', () => {
    const both = edgeOf(drag(context, RADIUS, RADIUS + 8, { alt: true }))
    expect(Math.abs(both.outerFeather - 8)).toBeLessThan(0.2)
    expect(both.innerFeather).toBe(both.outerFeather)
  })

  it('changes all selected shapes by as much', () => {
    const softer = { ...other, channels: { ...other.channels, outerFeather: constantChannel(5) } }
    const two = contextOf(documentOf([testShot, testSubject, testPart('part'), round, softer]), { selection: { ...chosen, shapeIds: ['round', 'other'] } }) // prettier-ignore
    const after = drag(two, RADIUS, RADIUS + 10)
    expect(edgeOf(after, 'other').outerFeather - edgeOf(after).outerFeather).toBeCloseTo(5, 6)
  })

  it('makes a key where the width is keyed, by the Reach, and none where it is not', () => {
    expect(keyedChannels(findObject(drag(context, RADIUS, RADIUS + 9), 'shape', 'round')!)).toHaveLength(1)
    const keyed = { ...round, channels: { ...round.channels, outerFeather: { keys: [{ time: 990, interpolation: 'smooth' as const, values: Float64Array.of(0) }] } } } // prettier-ignore
    const there = contextOf(documentOf([testShot, testSubject, testPart('part'), keyed]), { selection: chosen })
    const pressed = featherTool.down(featherTool.idle, at(RADIUS), there)
    const moved = featherTool.move(pressed.state, at(RADIUS + 6, { time: 300 }), there)
    const { commit } = featherTool.up(moved.state, at(RADIUS + 6, { time: 320 }), there)
    expect(commit?.reaches).toBe(true)
    const after = findObject(withPatches(there.document, commit!.patches), 'shape', 'round')!
    expect(after.channels.outerFeather!.keys.map(({ time }) => time)).toEqual([990, 1001])
  })

  it('draws the contours where the edge fades out and where it is full, while it is dragged as well', () => {
    const lines = (of: ToolContext, state = featherTool.idle) =>
      featherTool.sketch!(state, of)!.lines.filter(({ points }) => points.length > 4).map(({ points }) => Math.hypot(points[0]! - middle[0], points[1]! - middle[1])) // prettier-ignore
    expect(lines(context)).toEqual([])
    const both = contextOf(drag(context, RADIUS, RADIUS + 8, { alt: true }), { selection: chosen })
    const [outer, inner] = lines(both)
    expect(Math.abs(outer! - RADIUS - 8)).toBeLessThan(0.5)
    expect(Math.abs(inner! - RADIUS + 8)).toBeLessThan(0.5)
    const pressed = featherTool.down(featherTool.idle, at(RADIUS), context)
    const { state } = featherTool.move(pressed.state, at(RADIUS + 15, { time: 300 }), context)
    expect(Math.abs(lines(context, state)[0]! - RADIUS - 15)).toBeLessThan(0.5)
    expect(featherTool.tag!(state, context)).toMatch(/^out 1[45]\.\d px$/)
  })

  it('asks for a selection where there is none, and gives up with Escape', () => {
    const none = contextOf(document)
    expect(featherTool.down(featherTool.idle, at(RADIUS), none).say).toContain('Select a shape')
    const pressed = featherTool.down(featherTool.idle, at(RADIUS), context)
    expect(featherTool.key!(pressed.state, 'Escape', context)).toMatchObject({ preview: [], tool: 'select' })
  })
})

describe('focus blur by hand', () => {
  const context = contextOf(document, { selection: chosen })
  const focusOf = (of: RotoDocument) => edgeOn(findObject(of, 'shape', 'round')!, 1001).focus
  const dragFocus = (of: ToolContext, from: PointerInput, to: PointerInput) => {
    const pressed = focusTool.down(focusTool.idle, from, of)
    const moved = focusTool.move(pressed.state, { ...to, time: 300 }, of)
    return focusTool.up(moved.state, { ...to, time: 320 }, of).commit!
  }

  it('is drawn two sigmas to both sides, and dragged by either', () => {
    for (const way of [8, -8]) {
      const commit = dragFocus(context, at(RADIUS), at(RADIUS + way))
      expect(commit.label).toBe('focus blur of round')
      const after = withPatches(document, commit.patches)
      expect(Math.abs(focusOf(after) - 4)).toBeLessThan(0.1)
      expect(edgeOf(after)).toMatchObject({ innerFeather: 0, outerFeather: 0 })
      const soft = contextOf(after, { selection: chosen })
      const radii = focusTool.sketch!(focusTool.idle, soft)!.lines.filter(({ points }) => points.length > 4).map(({ points }) => Math.hypot(points[0]! - middle[0], points[1]! - middle[1])) // prettier-ignore
      expect(radii.map(Math.round).toSorted()).toEqual([RADIUS - 8, RADIUS + 8])
      // From the inner contour outwards it becomes sharper.
      expect(Math.abs(focusOf(withPatches(after, dragFocus(soft, at(RADIUS - 8), at(RADIUS - 4)).patches)) - 2)).toBeLessThan(0.1) // prettier-ignore
    }
  })

  it('by the bar of a point is that of the point alone', () => {
    const bar = (radius: number) => pointerAt(middle[0] + radius, middle[1])
    const commit = dragFocus(context, bar(RADIUS), bar(RADIUS + 6))
    expect(commit.label).toBe('focus blur at this point of round')
    const shape = findObject(withPatches(document, commit.patches), 'shape', 'round')!
    const sigmas = pointFocusAt(shape, 1001, 0)
    expect(sigmas[0]).toBeCloseTo(3, 6)
    for (let n = 1; n < 12; n++) expect(sigmas[n]).toBe(0)
  })
})
