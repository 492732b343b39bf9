import { describe, expect, it } from 'vitest'
import { findObject } from '@tender-lasso/core/document'
import { followedMatrix, frameState, patchesForSamples, unmeasuredSample } from '@tender-lasso/core/evaluation'
import { trackOutlinesOn } from '@tender-lasso/core/tracks'
import { identity, translation } from '@tender-lasso/core/geometry'
import { documentOf, testShot, testTrack, withPatches } from '@tender-lasso/core/document/testDocuments'
import { NOTHING_SELECTED } from '../../store'
import { adjustTool } from './adjustTool'
import { contextOf, pointerAt } from './testContext'
import type { ToolContext } from './tool'

/** The region 200..400 x 100..300, known on 1001 to 1004, moved by 10 px a frame. */
function scene(frame: number, locked = false): ToolContext {
  const track = { ...testTrack('board'), locked }
  const samples = [0, 1, 2, 3].map((i) => unmeasuredSample(1001 + i, 'tracked', i ? translation(10 * i, 0) : identity())) // prettier-ignore
  const document = withPatches(documentOf([testShot, track]), patchesForSamples(track, samples))
  return contextOf(document, { frame, selection: { ...NOTHING_SELECTED, trackIds: ['board'] } })
}

function dragged(context: ToolContext, from: [number, number], to: [number, number], alt = false) {
  let { state } = adjustTool.down(adjustTool.idle, pointerAt(...from, { alt }), context)
  state = adjustTool.move(state, pointerAt(...to, { alt }), context).state
  return adjustTool.up(state, pointerAt(...to, { alt }), context)
}

const boardAfter = (context: ToolContext, step: ReturnType<typeof dragged>) =>
  findObject(withPatches(context.document, step.commit!.patches), 'track', 'board')!

describe('adjusting a track', () => {
  it('a corner dragged on a later frame re-shapes the pattern from there on only', () => {
    const context = scene(1003)
    const track = boardAfter(context, dragged(context, [220, 100], [230, 90]))
    expect(Array.from(trackOutlinesOn(track, 1003)![0]!.slice(0, 2))).toEqual([230, 90])
    expect(Array.from(trackOutlinesOn(track, 1002)![0]!.slice(0, 2))).toEqual([210, 100])
    expect(track.references.map((reference) => reference.frame)).toEqual([1003])
  })

  it('dragged by its inside it is placed by hand on this frame, and nowhere else', () => {
    const context = scene(1002)
    const track = boardAfter(context, dragged(context, [330, 220], [335, 217]))
    expect(frameState(track, 1002)).toBe('placed')
    expect(Array.from(followedMatrix(track, 1002)!)).toEqual(Array.from(translation(15, -3)))
    expect(frameState(track, 1003)).not.toBe('placed')
  })

  it('Alt-dragged the pattern goes elsewhere while the track keeps its place', () => {
    const context = scene(1003)
    const track = boardAfter(context, dragged(context, [330, 220], [430, 260], true))
    expect(Array.from(followedMatrix(track, 1003)!)).toEqual(Array.from(translation(20, 0)))
    expect(Array.from(track.references[0]!.outlines[0]!.slice(0, 2))).toEqual([320, 140])
    expect(track.references[0]!.matrix).toEqual(translation(20, 0))
  })

  it('beyond its last frame it is shown where it was seen last, and is placed from there', () => {
    const context = scene(1010)
    const track = boardAfter(context, dragged(context, [350, 220], [360, 230]))
    expect(Array.from(followedMatrix(track, 1010)!)).toEqual(Array.from(translation(40, 10)))
  })

  it('does not touch a locked track, and says so', () => {
    const step = dragged(scene(1002, true), [330, 220], [340, 220])
    expect(step.commit).toBeUndefined()
    expect(adjustTool.move({ kind: 'pressed', time: 0, x: 330, y: 220, trackId: 'board', handle: { kind: 'inside' }, another: false }, pointerAt(340, 220), scene(1002, true)).say).toContain('locked') // prettier-ignore
  })

  it('a press on nothing selects nothing', () => {
    expect(adjustTool.down(adjustTool.idle, pointerAt(900, 600), scene(1001)).selection?.trackIds).toEqual([])
  })
})
