import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { applyToPoint, homographyOf, type Matrix3 } from '@tender-lasso/core/geometry'
import {
  motionOfTrackData,
  readTrackData,
  TRACK_DATA_KINDS,
  trackDataCsv,
  trackDataJson,
  trackDataOf,
  type TrackDataSettings,
  type TrackMotion,
} from './index'

const corners = [
  [400, 200],
  [700, 220],
  [690, 420],
  [390, 400],
] as const

const motionOf = (matrixOn: (i: number) => Matrix3, pixelAspect = 1): TrackMotion => ({
  name: 'Board, "left"',
  width: 1280,
  height: 720,
  framesPerSecond: 23.976,
  pixelAspect,
  centre: [545, 310],
  corners,
  frames: Array.from({ length: 5 }, (_, i) => ({ frame: 1001 + i, matrix: matrixOn(i) })),
})

const CHANNELS: Record<(typeof TRACK_DATA_KINDS)[number], (i: number) => number[]> = {
  position: (i) => [545 + 3 * i, 310 - i, 0, 0, 0, 0, 0, 0],
  similarity: (i) => [545 + 3 * i, 310 - i, 0.1 * i, 0.02 * i, 0.02 * i, 0, 0, 0],
  corners: (i) => [545 + 3 * i, 310 - i, 0.1 * i, 0.02 * i, -0.01 * i, 0.03 * i, 1e-5 * i, -2e-5 * i],
  matrix: (i) => [545 + 3 * i, 310 - i, 0.1 * i, 0.02 * i, -0.01 * i, 0.03 * i, 1e-5 * i, -2e-5 * i],
}

const arbitrarySettings = fc.record({
  kind: fc.constantFrom(...TRACK_DATA_KINDS),
  relativeTo: fc.constant(1001),
  yAxis: fc.constantFrom('down' as const, 'up' as const),
  units: fc.constantFrom('pixels' as const, 'normalised' as const),
  pivot: fc.constantFrom('origin' as const, 'centre' as const),
})

describe('track data', () => {
  it('read back, as CSV and as JSON, give the same motion in every setting', () => {
    fc.assert(
      fc.property(
        arbitrarySettings,
        fc.boolean(),
        fc.constantFrom(1, 2),
        (settings: TrackDataSettings, asCsv, aspect) => {
          // Rotation and scale in coordinates of unequal units are not a similarity any more: only pixels then.
          if (settings.kind === 'similarity') settings = { ...settings, units: 'pixels' }
          const motion = motionOf((i) => homographyOf(CHANNELS[settings.kind](i), 545, 310, aspect), aspect)
          const data = trackDataOf(motion, settings)
          const read = motionOfTrackData(readTrackData(asCsv ? trackDataCsv(data) : trackDataJson(data)))
          expect(read.name).toBe(motion.name)
          let worst = 0
          read.frames.forEach(({ matrix }, i) => {
            for (const [x, y] of [...corners, motion.centre]) {
              const [p, q] = [applyToPoint(matrix, x, y), applyToPoint(motion.frames[i]!.matrix, x, y)]
              worst = Math.max(worst, Math.hypot(p[0]! - q[0]!, p[1]! - q[1]!))
            }
          })
          expect(worst).toBeLessThan(1e-6)
        },
      ),
      { endOnFailure: true },
    )
  })

  it('the worked example of docs/formats.md: a turn by 90 degrees about the centre, y down and y up', () => {
    const quarter = motionOf((i) => homographyOf([545 + 10 * i, 310, (i * Math.PI) / 2, 0, 0, 0, 0, 0], 545, 310))
    const settings = { kind: 'similarity', relativeTo: 1001, yAxis: 'down', units: 'pixels', pivot: 'centre' } as const
    const second = (s: TrackDataSettings) => trackDataOf(quarter, s).frames[1]!.values.map((v) => Number(v.toFixed(6)))
    expect(second(settings)).toEqual([555, 310, 90, 1])
    expect(second({ ...settings, yAxis: 'up' })).toEqual([555, 410, -90, 1])
    // About the origin the same turn is told by where the origin goes: (0, 0) - centre, turned, + new centre.
    expect(second({ ...settings, pivot: 'origin' })).toEqual([555 + 310, 310 - 545, 90, 1])
    // Pixels twice as wide as high: what lay 10 pixels to the right lies 20 below after a quarter turn.
    const wide = motionOf(() => homographyOf([545, 310, Math.PI / 2, 0, 0, 0, 0, 0], 545, 310, 2), 2)
    expect(applyToPoint(wide.frames[1]!.matrix, 555, 310)).toEqual([expect.closeTo(545, 9), expect.closeTo(330, 9)])
    expect(trackDataOf(wide, settings).frames[1]!.values[2]).toBeCloseTo(90, 9)
  })

  it('the second worked example: a chosen quadrilateral that doubles, normalised, y up, as corners and as a matrix', () => {
    const quadrilateral = [[320, 180], [640, 180], [640, 360], [320, 360]] as const // prettier-ignore
    // Everything is twice as far from (320, 180) as before.
    const doubled = Float64Array.of(2, 0, -320, 0, 2, -180, 0, 0, 1)
    const motion = { ...motionOf(() => doubled), centre: [480, 270] as const, corners: quadrilateral }
    const settings = { kind: 'corners', relativeTo: 1001, yAxis: 'up', units: 'normalised', pivot: 'origin' } as const
    const told = trackDataOf(motion, settings)
    expect(told.corners).toEqual([[0.25, 0.75], [0.5, 0.75], [0.5, 0.5], [0.25, 0.5]]) // prettier-ignore
    expect(told.frames[0]!.values.map((value) => Number(value.toFixed(9)))).toEqual([0.25, 0.75, 0.75, 0.75, 0.75, 0.25, 0.25, 0.25]) // prettier-ignore
    const matrix = trackDataOf(motion, { ...settings, kind: 'matrix' }).frames[0]!.values
    expect(matrix.map((value) => Number(value.toFixed(9)) + 0)).toEqual([2, 0, -0.25, 0, 2, -0.75, 0, 0, 1])
  })

  it('what is broken is refused in words', () => {
    const good = trackDataCsv(trackDataOf(motionOf(() => homographyOf([545, 310, 0, 0, 0, 0, 0, 0], 545, 310)), { kind: 'corners', relativeTo: 1001, yAxis: 'down', units: 'pixels', pivot: 'centre' })) // prettier-ignore
    expect(readTrackData(good).frames).toHaveLength(5)
    expect(() => readTrackData(good.replace('1002,', '1002,x'))).toThrow('line 13')
    expect(() => readTrackData(good.replace(/^1003,[^,]*,/m, '1003,'))).toThrow('another number of values')
    expect(() => readTrackData(good.replace('# kind, corners', '# kind, letters'))).toThrow('settings.kind')
    expect(() => readTrackData('{"format":')).toThrow('JSON is broken')
    expect(() => readTrackData('hello')).toThrow('not track data')
  })
})
