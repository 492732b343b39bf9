import { describe, expect, it } from 'vitest'
import { findObject, leaveOutChannel } from '@tender-lasso/core/document'
import { patchesForSamples, unmeasuredSample } from '@tender-lasso/core/evaluation'
import { documentOf, testShot, testTrack, withPatches } from '@tender-lasso/core/document/testDocuments'
import { NOTHING_SELECTED } from '../../store'
import { leaveOutTool } from './regionTool'
import { contextOf, pointerAt } from './testContext'

/** The track, known on the frame after its reference as moved by (10, -4). */
function scene() {
  const track = testTrack('surface')
  const frame = track.referenceFrame + 1
  const matrix = Float64Array.of(1, 0, 10, 0, 1, -4, 0, 0, 1)
  const samples = [unmeasuredSample(frame, 'tracked', matrix)]
  const document = withPatches(documentOf([testShot, track]), patchesForSamples(track, samples))
  return contextOf(document, { frame, selection: { ...NOTHING_SELECTED, trackIds: [track.id] } })
}

function dragged(context: Parameters<typeof leaveOutTool.up>[2]) {
  let { state } = leaveOutTool.down(leaveOutTool.idle, pointerAt(100, 50), context)
  state = leaveOutTool.move(state, pointerAt(140, 90), context).state
  return leaveOutTool.up(state, pointerAt(140, 90), context)
}

describe('leaving out', () => {
  it('keeps the outline where it lies on the reference frame, whatever frame it was drawn on', () => {
    const context = scene()
    const step = dragged(context)
    const after = withPatches(context.document, step.commit!.patches)
    const [leaveOut] = findObject(after, 'track', 'surface')!.leaveOut
    if (leaveOut?.kind !== 'outline') throw new Error('not an outline')
    expect(leaveOut.rides).toBe(true)
    expect(
      Array.from(findObject(after, 'track', 'surface')!.channels[leaveOutChannel(leaveOut.id)]!.constant!),
    ).toEqual([90, 54, 130, 54, 130, 94, 90, 94])
  })

  it('says what is missing: a track, or its place on this frame', () => {
    const context = scene()
    const none = dragged({ ...context, selection: { ...context.selection, trackIds: [] } })
    expect(none.commit).toBeUndefined()
    expect(none.say).toContain('Select the track')
    const unknown = dragged({ ...context, frame: context.frame + 5 })
    expect(unknown.commit).toBeUndefined()
    expect(unknown.say).toContain(`draw on frame ${context.frame - 1}`)
  })
})
