import { beforeEach, describe, expect, it, vi } from 'vitest'
import { allOf, findObject, type Patch, type Shape, type Track } from '@tender-lasso/core/document'
import { documentOf, testPart, testShape, testShot, testSubject, withPatches } from '@tender-lasso/core/document/testDocuments' // prettier-ignore
import { controlPlacesAt } from '@tender-lasso/core/evaluation'
import type { TrackDataSettings } from '@tender-lasso/formats/trackData'
import { trackDataCsv, trackDataOf } from '@tender-lasso/formats/trackData'
import { useShot, type ShotInfo } from '../store'
import { quadrilateralsOf, takeTrackData, trackDataFor } from './trackData'

const edits = vi.hoisted(() => ({ made: [] as Patch[] }))
vi.mock('../session', () => ({
  wordsOf: String,
  edit: (_: string, patches: Patch[]) => {
    edits.made.push(...patches)
    return true
  },
}))

const settings: TrackDataSettings = { kind: 'corners', relativeTo: 1001, yAxis: 'down', units: 'pixels', pivot: 'centre' } // prettier-ignore
const scene = documentOf([
  testShot,
  testSubject,
  testPart('door'),
  testShape('panel', 'door', [1001], 4, 60),
  { ...testShape('stroke', 'door', [1001], 4), isClosed: false },
  testShape('round', 'door', [1001], 6),
])
/** A track that is read in: on each frame all has gone 5 px on and 2 down, and grown by a tenth. */
const told = trackDataCsv(
  trackDataOf(
    {
      name: 'board',
      width: 1280,
      height: 720,
      framesPerSecond: 24,
      pixelAspect: 1,
      centre: [50, 40],
      corners: [
        [0, 0],
        [100, 0],
        [100, 80],
        [0, 80],
      ],
      frames: [0, 1, 2].map((i) => ({ frame: 1001 + i, matrix: Float64Array.of(1 + i / 10, 0, 5 * i, 0, 1 + i / 10, 2 * i, 0, 0, 1) })), // prettier-ignore
    },
    { ...settings, kind: 'matrix', pivot: 'origin' },
  ),
)
let track: Track

beforeEach(() => {
  edits.made = []
  const info = { firstFrame: 1001, lastFrame: 1072, width: 1280, height: 720, rate: { numerator: 24, denominator: 1 } } as ShotInfo // prettier-ignore
  useShot.setState({ document: scene, shown: scene, info, frame: 1001, message: null })
  takeTrackData(told)
  const document = withPatches(scene, edits.made)
  track = allOf(document, 'track')[0]!
  useShot.setState({ document, shown: document })
})

describe('corners of any chosen shape', () => {
  it('are those of shapes that are closed and have four points', () => {
    expect(quadrilateralsOf(scene).map(({ id }) => id)).toEqual(['panel'])
  })

  it('go where the track carries them from where they are on the frame that motion is relative to', () => {
    const panel = findObject(scene, 'shape', 'panel') as Shape
    const data = trackDataFor(track, settings, panel)
    if (typeof data === 'string') throw new Error(data)
    const there = controlPlacesAt(scene, panel, 1001)
    expect(data.corners.flat()).toEqual([...there])
    data.frames.forEach(({ values }, i) =>
      values.forEach((value, n) => expect(value).toBeCloseTo((1 + i / 10) * there[n]! + (n % 2 ? 2 : 5) * i, 9)),
    )
    // Without one the corners are those of the track's own region.
    const own = trackDataFor(track, settings, null)
    expect(own).toMatchObject({ corners: [[0, 0], [100, 0], [100, 80], [0, 80]] }) // prettier-ignore
  })

  it('are not told on a frame that the track does not know', () => {
    expect(trackDataFor(track, { ...settings, relativeTo: 1040 }, null)).toContain('not known on frame 1040')
  })
})
