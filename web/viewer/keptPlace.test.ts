import { describe, expect, it } from 'vitest'
import { formChanged, poseTurned } from '@tender-lasso/core/edits'
import { controlPlacesAt } from '@tender-lasso/core/evaluation'
import { findObject } from '@tender-lasso/core/document'
import {
  documentOf,
  testPart,
  testShape,
  testShot,
  testSubject,
  testTrack,
  withPatches,
} from '@tender-lasso/core/document/testDocuments'
import { NOTHING_SELECTED, useShot, type Selection, type View } from '../store'
import { keptPlace } from './keptPlace'
import { reportedCentre } from './tools/trackHandles'

const still = documentOf([
  testShot,
  testSubject,
  testTrack('board'),
  testPart('arm', { pivot: [250, 190] }),
  testPart('hand', { parentId: 'arm', pivot: [300, 200] }),
  testShape('sleeve', 'arm', [1001, 1041]),
])
const document = withPatches(still, formChanged(findObject(still, 'part', 'arm')!, 1020, poseTurned(0.4)))
const kept = (keepInView: View['keepInView'], frame: number, selection: Partial<Selection> = {}) => {
  const state = useShot.getState()
  return keptPlace({ ...state, document, selection: { ...NOTHING_SELECTED, ...selection }, view: { ...state.view, keepInView } }, frame) // prettier-ignore
}

describe('what is kept in view', () => {
  it('is nothing, or the centre of a track, wherever that is known', () => {
    expect(kept(null, 1010)).toBeNull()
    expect(kept({ trackId: 'gone' }, 1010)).toBeNull()
    const track = findObject(document, 'track', 'board')!
    expect(kept({ trackId: 'board' }, 1005)).toEqual(reportedCentre(track, 1005))
  })

  it('is the middle of the selected points, of a whole shape, or the pivot of a Part by itself', () => {
    const shape = findObject(document, 'shape', 'sleeve')!
    for (const frame of [1001, 1013]) {
      const places = controlPlacesAt(document, shape, frame)
      const one = { partId: 'arm', shapeIds: ['sleeve'], pointIds: new Set([shape.pointIds[2]!]) }
      expect(kept('selection', frame, one)).toEqual([places[4], places[5]])
      const all = kept('selection', frame, { partId: 'arm', shapeIds: ['sleeve'] })!
      expect(all[0] * shape.pointIds.length).toBeCloseTo(
        places.filter((_, i) => i % 2 === 0).reduce((a, b) => a + b),
        6,
      )
    }
    // The hand's pivot goes round that of the arm.
    const [before, after] = [1001, 1020].map((frame) => kept('selection', frame, { partId: 'hand' })!)
    expect(Math.hypot(after![0] - 250, after![1] - 190)).toBeCloseTo(Math.hypot(before![0] - 250, before![1] - 190), 6)
    expect(kept('selection', 1001)).toBeNull()
  })
})
