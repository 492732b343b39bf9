import { keyDeleted } from '../edits'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { applyToPoint, channelsOf, homographyOf, identity, invert, multiply, translation } from '../geometry'
import { FULL_STRENGTH } from '../motion'
import { homogeneousOutline, mixedOutline, rationalPoint, SEGMENT_STRIDE } from '../spline'
import {
  applyBatch,
  decodeObject,
  encodeObject,
  findObject,
  isConflict,
  movedByTrack,
  type RotoDocument,
  channelOf,
  POINT_STRIDE,
} from '../document'
import { movedOnPlate } from './plateSpaceEdits'
import { formChanged } from './change'
import {
  moverAttached,
  moverDroppedAtKeys,
  moverDroppedExactly,
  moverReferenceSet,
  moverReplacedExactly,
  moverStrengthSet,
  pinSet,
  pivotKeyed,
  shapePivotSet,
  type MoverTarget,
} from './movers'
import { objectsDeleted } from './objects'
import {
  outlineAt,
  patchesForSamples,
  shapePivotOnPlate,
  shapeWorldAt,
  unmeasuredSample,
  worldAt,
  type TrackSample,
} from '../evaluation'
import { partReparented } from './reparent'
import { pivotOnPlate, pivotPlaced } from './pose'
import { pointInserted, pointsRemoved } from './points'
import {
  documentOf,
  roundOutline,
  testBatch,
  testPart,
  testShape,
  testShot,
  testSubject,
  testTrack,
  withPatches,
} from '../document/testDocuments'
import { numberBetween } from '../testing/numberBetween'

/** Frames 1001 .. 1072 of a track with these channels about (300, 200). */
function tracked(document: RotoDocument, id: string, channelsOn: (t: number) => number[]): RotoDocument {
  const samples: TrackSample[] = []
  for (let f = 1001; f <= 1072; f++) {
    samples.push(unmeasuredSample(f, 'tracked', homographyOf(channelsOn(f - 1001), 300, 200)))
  }
  return withPatches(document, patchesForSamples(findObject(document, 'track', id)!, samples))
}

const bare = documentOf([
  testShot,
  testSubject,
  testPart('coat', { depth: 1 }),
  testPart('hat', { depth: 2, parentId: 'coat', pivot: [330, 190] }),
  testShape('outline', 'coat', [1001, 1020, 1040]),
  testShape('brim', 'hat', [1001, 1030]),
  testTrack('board'),
  testTrack('sleeve'),
])
const boardChannels = (t: number) => [
  300 + 4 * t, 200 + Math.sin(t / 7) * 20, 0.02 * t, 0.004 * t, 0.003 * t, 0.001 * t, 1e-5 * t, -5e-6 * t,
] // prettier-ignore
const boarded = tracked(bare, 'board', boardChannels)
const start = tracked(boarded, 'sleeve', (t) => [300 - 2 * t, 200 + t, 0.06 * t, 0, 0, 0, 0, 0])

/** A Part, a shape and two points of one. */
const targets = ['Part', 'shape', 'points'] as const
function targetIn(document: RotoDocument, which: (typeof targets)[number]): MoverTarget {
  const shape = findObject(document, 'shape', 'outline')!
  if (which === 'Part') return findObject(document, 'part', 'coat')!
  return which === 'shape' ? shape : { kind: 'points', shape, pointIds: shape.pointIds.slice(1, 3) }
}

const times = Array.from({ length: 120 }, (_, i) => 1001 + i / 2)

/** Largest move of any outline at these times. */
function largestMove(a: RotoDocument, b: RotoDocument, at: readonly number[] = times): number {
  let largest = 0
  for (const time of at) {
    for (const id of ['outline', 'brim']) {
      const [p, q] = [a, b].map((document) => outlineAt(document, findObject(document, 'shape', id)!, time))
      for (let i = 0; i < 6; i++) {
        for (const u of [0, 0.4]) {
          const [px, py] = rationalPoint(p!, i, u)
          const [qx, qy] = rationalPoint(q!, i, u)
          largest = Math.max(largest, Math.hypot(px - qx, py - qy))
        }
      }
    }
  }
  return largest
}

const attach = (document: RotoDocument, which: (typeof targets)[number], trackId: string, frame: number) =>
  withPatches(document, moverAttached(document, targetIn(document, which), trackId, frame))

describe('Movers (formulas 5)', () => {
  for (const which of targets) {
    it(`attached to a ${which} at a frame, nothing moves there and it goes with the track elsewhere`, () => {
      const moved = attach(start, which, 'board', 1010)
      expect(largestMove(start, moved, [1010])).toBeLessThan(1e-9)
      const [before, after] = [start, moved].map((d) => outlineAt(d, findObject(d, 'shape', 'outline')!, 1030))
      // The track's own motion from 1010 to 1030, by its channels.
      const [now, then] = [29, 9].map((t) => homographyOf(boardChannels(t), 300, 200))
      const expected = applyToPoint(multiply(now!, invert(then!)), ...rationalPoint(before!, 1, 0))
      const found = rationalPoint(after!, 1, 0)
      expect(Math.hypot(found[0] - expected[0]!, found[1] - expected[1]!)).toBeLessThan(1e-6)
      // Only what is chosen goes along.
      const stays = Math.hypot(...[0, 1].map((k) => rationalPoint(after!, 4, 0)[k]! - rationalPoint(before!, 4, 0)[k]!))
      if (which === 'points') expect(stays).toBe(0)
      else expect(stays).toBeGreaterThan(40)
    })

    it(`of a ${which}, dropped or replaced exactly, nothing moves beyond 1e-6 px at any time, whatever its strength`, () => {
      const share = numberBetween(0, 1.5)
      const strengths = fc.record({
        x: share,
        y: share,
        rotation: share,
        scale: share,
        skew: share,
        perspective: share,
      })
      fc.assert(
        fc.property(strengths, fc.integer({ min: 1001, max: 1060 }), (strength, frame) => {
          const full = attach(start, which, 'board', frame)
          const moved = withPatches(full, moverStrengthSet(full, targetIn(full, which), strength))
          expect(largestMove(full, moved, [frame])).toBeLessThan(1e-6)
          const dropped = withPatches(moved, moverDroppedExactly(moved, targetIn(moved, which)))
          expect(largestMove(moved, dropped)).toBeLessThan(1e-6)
          const replaced = withPatches(moved, moverReplacedExactly(moved, targetIn(moved, which), 'sleeve', frame + 5))
          expect(largestMove(moved, replaced, [frame + 5])).toBeLessThan(1e-6)
          const then = withPatches(replaced, moverDroppedExactly(replaced, targetIn(replaced, which)))
          expect(largestMove(replaced, then)).toBeLessThan(1e-6)
        }),
        { numRuns: 8 },
      )
    })

    it(`of a ${which}, dropped at keys, the outlines stay on the keys and the deviation in between is told`, () => {
      const moved = attach(start, which, 'board', 1001)
      const { patches, largest } = moverDroppedAtKeys(moved, targetIn(moved, which), times)
      const dropped = withPatches(moved, patches)
      expect(movedByTrack(dropped, 'board')).toEqual([])
      const keyed = which === 'Part' ? [1001, 1020, 1030, 1040] : [1001, 1020, 1040]
      for (const key of keyed) {
        const ids = which === 'Part' && key === 1030 ? ['brim'] : ['outline']
        for (const id of ids) {
          const [p, q] = [moved, dropped].map((d) => outlineAt(d, findObject(d, 'shape', id)!, key))
          for (let i = 0; i < 6; i++) {
            expect(Math.hypot(...[0, 1].map((k) => rationalPoint(p!, i, 0)[k]! - rationalPoint(q!, i, 0)[k]!))).toBeLessThan(1e-6) // prettier-ignore
          }
        }
      }
      expect(largest.pixels).toBeGreaterThan(0.5)
    })

    it(`of a ${which}, made to begin on another frame, nothing moves on that frame`, () => {
      const moved = attach(start, which, 'board', 1010)
      const half = { ...FULL_STRENGTH, rotation: 0.5, y: 0 }
      const weak = withPatches(moved, moverStrengthSet(moved, targetIn(moved, which), half))
      const later = withPatches(weak, moverReferenceSet(weak, targetIn(weak, which), 1040))
      expect(largestMove(weak, later, [1040])).toBeLessThan(1e-6)
      expect(largestMove(weak, later, [1015])).toBeGreaterThan(0.1)
      expect(moverReferenceSet(later, targetIn(later, which), 1040)).toEqual([])
    })

    it(`the track of a ${which} cannot be deleted from under it`, () => {
      const moved = attach(start, which, 'board', 1010)
      expect(movedByTrack(moved, 'board').map(({ id }) => id)).toEqual([which === 'Part' ? 'coat' : 'outline'])
      expect(isConflict(applyBatch(moved, testBatch(objectsDeleted(moved, ['board']))))).toBe(true)
      expect(isConflict(applyBatch(moved, testBatch(objectsDeleted(moved, ['sleeve']))))).toBe(false)
    })

    it(`a point of a moved ${which} dragged on the plate lands where it is put`, () => {
      const moved = attach(start, which, 'board', 1001)
      const shape = findObject(moved, 'shape', 'outline')!
      const [id] = shape.pointIds.slice(1)
      const change = movedOnPlate(moved, shape, 1035, (point) => (point === id ? 1 : 0), translation(7, -3))
      const after = withPatches(moved, formChanged(shape, 1035, change))
      const [p, q] = [moved, after].map((d) =>
        rationalPoint(outlineAt(d, findObject(d, 'shape', 'outline')!, 1035), 1, 0),
      )
      expect(q![0] - p![0]).toBeCloseTo(7, 9)
      expect(q![1] - p![1]).toBeCloseTo(-3, 9)
    })
  }

  it('the share of a channel is that of its way since the reference frame, beyond half a turn as well', () => {
    const moved = attach(start, 'Part', 'sleeve', 1001)
    const strength = { x: 0.5, y: 0, rotation: 0.5, scale: 1, skew: 1, perspective: 1 }
    const half = withPatches(moved, moverStrengthSet(moved, targetIn(moved, 'Part'), strength))
    // The sleeve turns by 0.06 a frame, 3.6 over 60 frames, and moves by (-2, 1).
    for (const t of [10, 60]) {
      const channels = channelsOf(worldAt(half, findObject(half, 'part', 'coat')!, 1001 + t), 300, 200)
      expect(channels[0]).toBeCloseTo(300 - t, 6)
      expect(channels[1]).toBeCloseTo(200, 6)
      expect(Math.cos(channels[2]! - 0.03 * t)).toBeCloseTo(1, 9)
    }
  })

  it('a carried child keeps its place when its own track takes over on a frame', () => {
    const carried = attach(start, 'Part', 'board', 1001)
    const hat = findObject(carried, 'part', 'hat')!
    const own = withPatches(carried, moverAttached(carried, hat, 'board', 1030))
    const p = worldAt(carried, hat, 1030)
    const q = worldAt(own, findObject(own, 'part', 'hat')!, 1030)
    p.forEach((value, i) => expect(q[i]! / q[8]!).toBeCloseTo(value / p[8]!, 9))
  })

  it('an outline of two Movers lies in room that was used before just as in room of its own', () => {
    const moved = attach(start, 'points', 'board', 1010)
    const shape = findObject(moved, 'shape', 'outline')!
    const room = new Float64Array(shape.pointIds.length * SEGMENT_STRIDE).fill(Number.NaN)
    expect(outlineAt(moved, shape, 1035, null, undefined, room)).toBe(room)
    expect(room).toEqual(outlineAt(moved, shape, 1035))
  })

  it('points belong to one Mover; those that are inserted between two of them go along, those that go are forgotten', () => {
    const moved = attach(start, 'points', 'board', 1010)
    const shape = findObject(moved, 'shape', 'outline')!
    const other: MoverTarget = { kind: 'points', shape, pointIds: [shape.pointIds[2]!, shape.pointIds[3]!] }
    const both = findObject(withPatches(moved, moverAttached(moved, other, 'sleeve', 1010)), 'shape', 'outline')!
    expect(both.movedPoints.map(({ pointIds }) => pointIds)).toEqual([[shape.pointIds[1]], other.pointIds])
    const { patches, pointId } = pointInserted(shape, 1, 0.5)
    const longer = withPatches(moved, patches)
    expect(findObject(longer, 'shape', 'outline')!.movedPoints[0]!.pointIds).toContain(pointId)
    expect(largestMove(moved, longer, [])).toBe(0)
    const fewer = withPatches(
      longer,
      pointsRemoved(findObject(longer, 'shape', 'outline')!, new Set([pointId])).patches,
    )
    expect(findObject(fewer, 'shape', 'outline')!.movedPoints[0]!.pointIds).toEqual(shape.movedPoints[0]!.pointIds)
  })

  it('objects stored before shapes had Movers are read as having none', () => {
    const {
      mover: _mover,
      frozenMovers: _frozenMovers,
      movedPoints: _points,
      ...former
    } = testShape('old', 'coat', [1001])
    const read = decodeObject(encodeObject(former as ReturnType<typeof testShape>))
    expect(read).toMatchObject({ mover: null, frozenMovers: [], movedPoints: [] })
  })
})

/** Where the hat's pivot is on the plate, and what it is pinned to. */
const pivotOf = (document: RotoDocument, time: number) =>
  pivotOnPlate(document, findObject(document, 'part', 'hat')!, time)
function placeOf(document: RotoDocument): [number, number] {
  const { pin } = findObject(document, 'part', 'hat')!
  if (!pin || pin.to === 'keys') throw new Error('not pinned to a place')
  return pin.place
}

describe('pinned pivots (formulas 4)', () => {
  it("a Part with a track of its own stays at its parent's joint, and turns as its track does", () => {
    const coated = attach(start, 'Part', 'board', 1001)
    const own = withPatches(coated, moverAttached(coated, findObject(coated, 'part', 'hat')!, 'sleeve', 1010))
    const pinned = withPatches(own, pinSet(own, findObject(own, 'part', 'hat')!, 1010, 'parent'))
    const joint = placeOf(pinned)
    let largest = 0
    for (const time of times) {
      const [x, y] = applyToPoint(worldAt(pinned, findObject(pinned, 'part', 'coat')!, time), joint[0], joint[1])
      const [px, py] = pivotOf(pinned, time)
      largest = Math.max(largest, Math.hypot(px! - x!, py! - y!))
      const [free, held] = [own, pinned].map((d) =>
        channelsOf(worldAt(d, findObject(d, 'part', 'hat')!, time), 330, 190),
      )
      expect(held![2]).toBeCloseTo(free![2]!, 9)
    }
    expect(largest).toBeLessThan(1e-9)
    expect(largestMove(own, pinned, [1010])).toBeLessThan(1e-9)
    expect(largestMove(own, pinned, [1040])).toBeGreaterThan(5)
  })

  it('a pivot held by a track goes where the track goes', () => {
    const held = withPatches(start, pinSet(start, findObject(start, 'part', 'hat')!, 1001, { trackId: 'sleeve' }))
    const place = placeOf(held)
    const motion = homographyOf([300 - 2 * 30, 230, 0.06 * 30, 0, 0, 0, 0, 0], 300, 200)
    const [x, y] = applyToPoint(motion, place[0], place[1])
    expect(pivotOf(held, 1031)[0]).toBeCloseTo(x!, 6)
    expect(pivotOf(held, 1031)[1]).toBeCloseTo(y!, 6)
    expect(isConflict(applyBatch(held, testBatch(objectsDeleted(held, ['sleeve']))))).toBe(true)
    const free = withPatches(held, pinSet(held, findObject(held, 'part', 'hat')!, 1031, null))
    expect(largestMove(start, free)).toBe(0)
  })
})

const unmoved = start

describe('pivots with keys, and of shapes', () => {
  const hat = (d: RotoDocument) => findObject(d, 'part', 'hat')!
  const brim = (d: RotoDocument) => findObject(d, 'shape', 'brim')!
  /** The coat goes with a track, and carries the hat. */
  const start = attach(unmoved, 'Part', 'board', 1001)

  it('a keyed pivot is where its keys put it, straight between them, and the Part with it', () => {
    const [x, y] = pivotOf(start, 1010)
    let document = withPatches(start, pinSet(start, hat(start), 1010, 'keys'))
    expect(largestMove(start, document, [1010])).toBeLessThan(1e-9)
    document = withPatches(document, pivotKeyed(document, hat(document), 1020, x! + 40, y! - 10))
    expect(Array.from(pivotOf(document, 1020))).toEqual([expect.closeTo(x! + 40, 9), expect.closeTo(y! - 10, 9)])
    // Its key before holds still; halfway it is halfway, as seen by what carries it.
    expect(Array.from(pivotOf(document, 1010))).toEqual([expect.closeTo(x!, 9), expect.closeTo(y!, 9)])
    const { parentId } = hat(document)
    const parent = parentId === null ? undefined : findObject(document, 'part', parentId)
    const inParent = (frame: number) => {
      const [px, py] = pivotOf(document, frame)
      return applyToPoint(invert(parent ? worldAt(document, parent, frame) : identity()), px!, py!)
    }
    const [a, b, c] = [1010, 1015, 1020].map(inParent)
    expect(b![0]).toBeCloseTo((a![0]! + c![0]!) / 2, 8)
    expect(b![1]).toBeCloseTo((a![1]! + c![1]!) / 2, 8)
    const fewer = withPatches(document, keyDeleted(channelOf(hat(document), 'pivot'), 1020))
    expect(Array.from(pivotOf(fewer, 1020))).toEqual(Array.from(pivotOf(withPatches(start, pinSet(start, hat(start), 1010, 'keys')), 1020))) // prettier-ignore
    expect(keyDeleted(channelOf(hat(fewer), 'pivot'), 1010)).toEqual([])
  })

  it('keyed places stay where they are when another Part carries it, and go along when the pivot is put elsewhere', () => {
    let document = withPatches(start, pinSet(start, hat(start), 1010, 'keys'))
    document = withPatches(document, pivotKeyed(document, hat(document), 1030, 350, 150))
    const before = [1010, 1030].map((frame) => Array.from(pivotOf(document, frame)))
    const alone = withPatches(document, partReparented(document, hat(document), null, 1010)!)
    const near = ([x, y]: readonly number[]) => [expect.closeTo(x!, 7), expect.closeTo(y!, 7)]
    expect([1010, 1030].map((frame) => Array.from(pivotOf(alone, frame)))).toEqual(before.map(near))
    const [x, y] = pivotOf(document, 1030)
    const put = withPatches(document, pivotPlaced(document, hat(document), 1030, x! + 6, y! + 2))
    expect(Array.from(pivotOf(put, 1030))).toEqual(near([x! + 6, y! + 2]))
    expect(largestMove(document, put, [1030])).toBeLessThan(1e-6)
  })

  it("a shape's pivot goes with the shape, or where a track carries its place; the track cannot be deleted then", () => {
    const own = withPatches(start, shapePivotSet(start, brim(start), 1010, 'shape', [331, 187]))
    expect(shapePivotOnPlate(own, brim(own), 1010)).toEqual([expect.closeTo(331, 8), expect.closeTo(187, 8)])
    const world = (frame: number) => shapeWorldAt(own, brim(own), frame)
    const [x, y] = applyToPoint(multiply(world(1030), invert(world(1010))), 331, 187)
    expect(shapePivotOnPlate(own, brim(own), 1030)).toEqual([expect.closeTo(x!, 8), expect.closeTo(y!, 8)])
    const held = withPatches(start, shapePivotSet(start, brim(start), 1001, { trackId: 'sleeve' }, [300, 200]))
    const motion = homographyOf([300 - 2 * 30, 230, 0.06 * 30, 0, 0, 0, 0, 0], 300, 200)
    const [u, v] = applyToPoint(motion, 300, 200)
    expect(shapePivotOnPlate(held, brim(held), 1031)).toEqual([expect.closeTo(u!, 6), expect.closeTo(v!, 6)])
    expect(isConflict(applyBatch(held, testBatch(objectsDeleted(held, ['sleeve']))))).toBe(true)
    const none = withPatches(held, shapePivotSet(held, brim(held), 1001, null, [0, 0]))
    expect(shapePivotOnPlate(none, brim(none), 1001)).toBeNull()
  })
})

describe('outlines of points with different maps', () => {
  const points = roundOutline(6, 60, 300, 200)
  const tilted = multiply(translation(20, 5), Float64Array.of(1, 0.1, 0, -0.1, 1.1, 0, 3e-4, -2e-4, 1))

  it('with one map they are what that map makes of the outline', () => {
    const [mixed, plain] = [
      mixedOutline(points, POINT_STRIDE, new Array(6).fill(tilted)),
      homogeneousOutline(points, POINT_STRIDE, tilted),
    ]
    for (let i = 0; i < 6; i++) {
      for (const t of [0, 0.3, 0.8]) {
        expect(rationalPoint(mixed, i, t)[0]).toBeCloseTo(rationalPoint(plain, i, t)[0], 9)
        expect(rationalPoint(mixed, i, t)[1]).toBeCloseTo(rationalPoint(plain, i, t)[1], 9)
      }
    }
  })

  it('each point lies where its own map puts it, and segments between points of one map are that map’s', () => {
    const still = translation(0, 0)
    const maps = [tilted, tilted, tilted, still, still, still]
    const mixed = mixedOutline(points, POINT_STRIDE, maps)
    for (let i = 0; i < 6; i++) {
      const own = homogeneousOutline(points, POINT_STRIDE, maps[i]!)
      expect(rationalPoint(mixed, i, 0)[0]).toBeCloseTo(rationalPoint(own, i, 0)[0], 9)
      if (maps[i] !== maps[(i + 1) % 6]) continue
      expect(rationalPoint(mixed, i, 0.6)[0]).toBeCloseTo(rationalPoint(own, i, 0.6)[0], 9)
    }
  })
})
