import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { applyToPoint } from '../geometry'
import {
  applyPatches,
  findObject,
  inverted,
  isConflict,
  POSE,
  type Part,
  type RotoDocument,
  channelOf,
  poseKeys,
} from '../document'
import { formChanged } from './change'
import { interpolationSet, keyDeleted } from './keys'
import { keysMoved } from './keyTimes'
import { moverAttached, pinSet } from './movers'
import { outlineAt, patchesForSamples, poseAt, unmeasuredSample, worldAt } from '../evaluation'
import { partReparented } from './reparent'
import { pivotOnPlate, pivotPlaced, poseMoved, poseTurned } from './pose'
import {
  documentOf,
  testPart,
  testShape,
  testShot,
  testSubject,
  testTrack,
  withPatches,
} from '../document/testDocuments'
import { numberBetween } from '../testing/numberBetween'

/** An arm in three pieces: pivots at shoulder, elbow and wrist, each carried by the one before. */
const arm = documentOf([
  testShot,
  testSubject,
  testPart('upper', { pivot: [200, 100] }),
  testPart('lower', { parentId: 'upper', pivot: [200, 180] }),
  testPart('hand', { parentId: 'lower', pivot: [200, 250] }),
  testShape('palm', 'hand', [1001]),
  testTrack('board'),
])
const partOf = (document: RotoDocument, id: string): Part => findObject(document, 'part', id)!
const turned = (document: RotoDocument, id: string, frame: number, angle: number, factor = 1) =>
  withPatches(document, formChanged(partOf(document, id), frame, poseTurned(angle, factor)))

const angle = numberBetween(-3, 3)
const way = numberBetween(-80, 80)

describe('poses of Parts (formulas 4: World_c = World_p . Pose_c)', () => {
  it('a Part turned about its pivot carries its children: the wrist goes round the shoulder', () => {
    const bent = turned(arm, 'upper', 1001, Math.PI / 2)
    // A quarter turn about (200, 100) takes (200, 250) to (50, 100), y pointing down.
    const [x, y] = pivotOnPlate(bent, partOf(bent, 'hand'), 1001)
    expect([x, y]).toEqual([expect.closeTo(50, 9), expect.closeTo(100, 9)])
    expect(pivotOnPlate(bent, partOf(bent, 'upper'), 1040)).toEqual([expect.closeTo(200, 9), expect.closeTo(100, 9)])
  })

  it('limbs keep their lengths at every time between keys, whatever each joint does', () => {
    fc.assert(
      fc.property(angle, angle, angle, numberBetween(0, 30), (a, b, c, t) => {
        let moving = turned(turned(arm, 'upper', 1001, 0), 'lower', 1001, 0)
        moving = turned(turned(moving, 'upper', 1020, a), 'lower', 1031, b)
        moving = turned(moving, 'upper', 1031, c)
        const [shoulder, elbow, wrist] = ['upper', 'lower', 'hand'].map((id) =>
          pivotOnPlate(moving, partOf(moving, id), 1001 + t),
        )
        expect(Math.hypot(elbow![0] - shoulder![0], elbow![1] - shoulder![1])).toBeCloseTo(80, 6)
        expect(Math.hypot(wrist![0] - elbow![0], wrist![1] - elbow![1])).toBeCloseTo(70, 6)
      }),
    )
  })

  it('a turn of more than once round is gone through, not cut short', () => {
    const spun = turned(turned(arm, 'hand', 1001, 0), 'hand', 1021, 5 * Math.PI)
    expect(poseAt(partOf(spun, 'hand'), 1011)[POSE.rotation]).toBeCloseTo(2.5 * Math.PI, 9)
  })

  it('moved by plate pixels under a turned and scaled parent, the pivot goes by just these', () => {
    fc.assert(
      fc.property(angle, way, way, (a, dx, dy) => {
        const bent = turned(arm, 'upper', 1010, a, 1.4)
        const before = pivotOnPlate(bent, partOf(bent, 'lower'), 1010)
        const moved = withPatches(
          bent,
          formChanged(partOf(bent, 'lower'), 1010, poseMoved(bent, partOf(bent, 'lower'), 1010, dx, dy)!),
        )
        const after = pivotOnPlate(moved, partOf(moved, 'lower'), 1010)
        expect(Math.hypot(after[0] - before[0] - dx, after[1] - before[1] - dy)).toBeLessThan(1e-9)
      }),
    )
  })

  it('pinned to its parent, the elbow stays on the joint under any poses, and does not let itself be moved', () => {
    fc.assert(
      fc.property(angle, angle, way, numberBetween(0, 30), (a, b, dx, t) => {
        const pinned = withPatches(arm, pinSet(arm, partOf(arm, 'lower'), 1001, 'parent'))
        let moving = turned(turned(pinned, 'upper', 1001, 0), 'upper', 1031, a)
        moving = withPatches(
          moving,
          formChanged(partOf(moving, 'upper'), 1020, poseMoved(moving, partOf(moving, 'upper'), 1020, dx, 5)!),
        )
        moving = turned(moving, 'lower', 1011, b)
        const lower = partOf(moving, 'lower')
        const joint = applyToPoint(worldAt(moving, partOf(moving, 'upper'), 1001 + t), 200, 180)
        const elbow = pivotOnPlate(moving, lower, 1001 + t)
        expect(Math.hypot(elbow[0] - joint[0]!, elbow[1] - joint[1]!)).toBeLessThan(1e-9)
        expect(poseMoved(moving, lower, 1005, 3, 0)).toBeNull()
      }),
    )
  })

  it('the pivot put elsewhere moves nothing on the keys; the next turn is about it', () => {
    const moving = turned(turned(arm, 'upper', 1001, 0.4), 'upper', 1031, -0.9, 1.2)
    const placed = withPatches(moving, pivotPlaced(moving, partOf(moving, 'upper'), 1031, 260, 140))
    for (const frame of [1001, 1031]) {
      const [a, b] = [moving, placed].map((d) => outlineAt(d, findObject(d, 'shape', 'palm')!, frame))
      expect(Math.max(...a!.map((value, i) => Math.abs(value - b![i]!)))).toBeLessThan(1e-9)
    }
    const again = turned(placed, 'upper', 1031, 0.5)
    expect(pivotOnPlate(again, partOf(again, 'upper'), 1031)).toEqual([expect.closeTo(260, 9), expect.closeTo(140, 9)])
  })

  it('stays on top of a Mover: attached, nothing moves on its frame, and the pose acts within it', () => {
    const samples = [1001, 1002, 1003].map((f) =>
      unmeasuredSample(f, 'tracked', Float64Array.of(1, 0, 10 * (f - 1001), 0, 1, 0, 0, 0, 1)),
    )
    const tracked = withPatches(arm, patchesForSamples(findObject(arm, 'track', 'board')!, samples))
    const bent = turned(tracked, 'upper', 1001, 0.7)
    const carried = withPatches(bent, moverAttached(bent, partOf(bent, 'upper'), 'board', 1001))
    const wrist = (d: RotoDocument, frame: number) => pivotOnPlate(d, partOf(d, 'hand'), frame)
    const [a, b, c] = [wrist(bent, 1001), wrist(carried, 1001), wrist(carried, 1003)]
    expect(Math.hypot(a[0] - b[0], a[1] - b[1])).toBeLessThan(1e-9)
    expect([c[0] - a[0], c[1] - a[1]]).toEqual([expect.closeTo(20, 9), expect.closeTo(0, 9)])
  })

  it('turns in square pixels on an anamorphic plate', () => {
    const wide = { objects: new Map(arm.objects).set('shot', { ...testShot, pixelAspect: 2 }) }
    const bent = turned(wide, 'upper', 1001, Math.PI / 2)
    // 80 pixels down are 40 pixels, each twice as wide, to the left.
    expect(pivotOnPlate(bent, partOf(bent, 'lower'), 1001)).toEqual([expect.closeTo(160, 9), expect.closeTo(100, 9)])
  })
})

describe('another Part carries it', () => {
  it('nothing moves on the frame and the outlines stay on their keys, with all that hangs on it', () => {
    const other = testPart('torso', { pivot: [120, 80] })
    let moving: RotoDocument = { objects: new Map(arm.objects).set('torso', other) }
    moving = turned(turned(moving, 'torso', 1001, 0), 'torso', 1031, 0.8, 1.3)
    moving = turned(moving, 'lower', 1001, 0.3)
    const patches = partReparented(moving, partOf(moving, 'upper'), 'torso', 1021)!
    const carried = withPatches(moving, patches)
    for (const id of ['upper', 'lower', 'hand']) {
      const [a, b] = [moving, carried].map((d) => pivotOnPlate(d, partOf(d, id), 1021))
      expect(Math.hypot(a![0] - b![0], a![1] - b![1])).toBeLessThan(1e-9)
    }
    const palm = (d: RotoDocument, frame: number) => outlineAt(d, findObject(d, 'shape', 'palm')!, frame)
    const far = (frame: number) =>
      Math.max(...palm(moving, frame).map((value, i) => Math.abs(value - palm(carried, frame)[i]!)))
    expect(far(1001)).toBeLessThan(1e-9)
    // From there on it goes with the torso.
    expect(far(1031)).toBeGreaterThan(5)
    const back = withPatches(carried, patches.toReversed().map(inverted))
    expect(partOf(back, 'upper')).toEqual(partOf(moving, 'upper'))
  })

  it('is refused where a Part would carry itself', () => {
    expect(partReparented(arm, partOf(arm, 'upper'), 'hand', 1001)).toBeNull()
    expect(partReparented(arm, partOf(arm, 'upper'), 'upper', 1001)).toBeNull()
  })
})

describe('pose keys', () => {
  it('are moved, changed and deleted like those of shapes, to the last one, and undone', () => {
    const two = turned(turned(arm, 'upper', 1001, 0), 'upper', 1020, 0.5)
    const edits = [
      (part: Part) => keysMoved(documentOf([part]), [{ id: part.id, channel: 'pose', time: 1020 }], () => 1030),
      (part: Part) => interpolationSet(channelOf(part), [1001], 'linear'),
      (part: Part) => keyDeleted(channelOf(part), 1001),
      (part: Part) => keyDeleted(channelOf(part), 1030),
    ]
    let now = two
    const done = edits.map((edit) => {
      const patches = edit(partOf(now, 'upper'))
      expect(patches.length).toBeGreaterThan(0)
      now = withPatches(now, patches)
      return patches
    })
    expect(poseKeys(partOf(now, 'upper'))).toEqual([])
    for (const patches of done.reverse()) now = withPatches(now, patches.toReversed().map(inverted))
    expect(partOf(now, 'upper')).toEqual(partOf(two, 'upper'))
  })

  it('with another number of values are refused', () => {
    const [patch] = formChanged(partOf(arm, 'upper'), 1001, poseTurned(0.1))
    if (patch?.kind !== 'key') throw new Error('a first key was expected')
    const short = { ...patch, after: { ...patch.after!, values: new Float64Array(3) } }
    expect(isConflict(applyPatches(arm, [short]))).toBe(true)
  })
})
