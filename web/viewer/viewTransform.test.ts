import { describe, expect, it } from 'vitest'
import { findObject, type RotoDocument } from '@tender-lasso/core/document'
import { patchesForSamples, unmeasuredSample } from '@tender-lasso/core/evaluation'
import { applyToPoint, translation } from '@tender-lasso/core/geometry'
import {
  documentOf,
  testPart,
  testShape,
  testShot,
  testSubject,
  testTrack,
  withPatches,
} from '@tender-lasso/core/document/testDocuments'
import { withSolo, useShot, type View } from '../store'
import { plateToScreen } from './viewTransform'

/** A track that goes 4 px a frame and shakes by 3 px from frame to frame. */
function shaken(): RotoDocument {
  const document = documentOf([testShot, testTrack('board')])
  const samples = Array.from({ length: 72 }, (_, f) =>
    unmeasuredSample(1001 + f, 'tracked', translation(4 * f + (f % 2 ? 3 : -3), 0)),
  )
  return withPatches(document, patchesForSamples(findObject(document, 'track', 'board')!, samples))
}

const view = (change: Partial<View>): View => ({ ...useShot.getState().view, zoom: 1, ...change })

describe('Steady', () => {
  const document = shaken()
  const placeOf = (change: Partial<View>, frame: number) => {
    const onSurface = 300 + 4 * (frame - 1001) + ((frame - 1001) % 2 ? 3 : -3)
    return applyToPoint(
      plateToScreen(view({ steadyTrackId: 'board', ...change }), document, frame, 1),
      onSurface,
      200,
    )[0]!
  }

  it('holds what the track follows where the reference frame shows it', () => {
    for (const frame of [1001, 1020, 1041]) expect(placeOf({}, frame)).toBeCloseTo(300, 6)
  })

  it('on rails what the track follows goes its way without the shake', () => {
    const ways = [1030, 1031, 1032, 1033].map((frame) => placeOf({ isSteadySmooth: true }, frame))
    for (let i = 1; i < ways.length; i++) expect(Math.abs(ways[i]! - ways[i - 1]! - 4)).toBeLessThan(0.2)
  })
})

describe('a Part alone', () => {
  const document = documentOf([
    testShot,
    testSubject,
    testPart('coat'),
    testPart('hat'),
    testShape('outline', 'coat', [1001]),
  ])

  it('is seen while all others are hidden, and nothing of that is stored', () => {
    const seen = withSolo(document, ['coat'])
    expect([findObject(seen, 'part', 'coat')!.visible, findObject(seen, 'part', 'hat')!.visible]).toEqual([true, false])
    expect(findObject(seen, 'shape', 'outline')).toBe(findObject(document, 'shape', 'outline'))
    expect(findObject(document, 'part', 'hat')!.visible).toBe(true)
    expect(withSolo(document, [])).toBe(document)
  })
})
