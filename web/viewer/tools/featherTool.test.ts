import { describe, expect, it } from 'vitest'
import { constantChannel, findObject, keyedChannels, type RotoDocument } from '@tender-lasso/core/document'
import {
  documentOf,
  testPart,
  testShape,
  testShot,
  testSubject,
  withPatches,
} from '@tender-lasso/core/document/testDocuments'
import { edgeOn } from '@tender-lasso/core/evaluation'
import { NOTHING_SELECTED } from '../../store'
import { featherTool } from './featherTool'
import { contextOf, pointerAt } from './testContext'
import type { PointerInput, ToolContext } from './tool'

const RADIUS = 60
const round = testShape('round', 'part', [1001], 12, RADIUS)
/** Middle of the round shape: it has none of its own. */
const middle = (() => {
  const { values } = round.channels.outline.keys[0]!
  const [xs, ys] = [0, 1].map((n) => Array.from({ length: 12 }, (_, i) => values[i * 10 + n]!))
  return [xs!.reduce((a, b) => a + b) / 12, ys!.reduce((a, b) => a + b) / 12] as const
})()
const other = { ...testShape('other', 'part', [1001], 12, RADIUS), order: 1 }
const document = documentOf([testShot, testSubject, testPart('part'), round])
const chosen = { ...NOTHING_SELECTED, partId: 'part', shapeIds: ['round'] }

const at = (radius: number, keys: Partial<PointerInput> = {}) => pointerAt(middle[0] + radius, middle[1], keys)

/** Presses at one radius, drags to another, lets go. */
function drag(context: ToolContext, from: number, to: number, keys: Partial<PointerInput> = {}): RotoDocument {
  const pressed = featherTool.down(featherTool.idle, at(from, keys), context)
  const moved = featherTool.move(pressed.state, at(to, { ...keys, time: 300 }), context)
  const { commit } = featherTool.up(moved.state, at(to, { ...keys, time: 320 }), context)
  return commit ? withPatches(context.document, commit.patches) : context.document
}

const edgeOf = (of: RotoDocument, id = 'round') => edgeOn(findObject(of, 'shape', id)!, 1001).edge

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
      featherTool.sketch!(state, of)!.lines.map(({ points }) => Math.hypot(points[0]! - middle[0], points[1]! - middle[1])) // prettier-ignore
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
