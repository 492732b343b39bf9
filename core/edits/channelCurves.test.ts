import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { freeValueAt, TANGENT_STRIDE } from '../animation'
import { formChanged } from './change'
import { findObject, POSE, type Part, type RotoDocument, channelOf, poseKeys } from '../document'
import { poseAt } from '../evaluation'
import { poseChanged, poseKeyAdded, poseTurned } from './pose'
import { keyPlaced, tangentSet, tangentsFlattened, tangentsFreed, tangentsOf } from './channelCurves'
import { documentOf, testPart, testShape, testShot, testSubject, withPatches } from '../document/testDocuments'
import { numberBetween } from '../testing/numberBetween'

const partOf = (document: RotoDocument): Part => findObject(document, 'part', 'arm')!
const bare = documentOf([
  testShot,
  testSubject,
  testPart('arm', { pivot: [100, 100] }),
  testShape('sleeve', 'arm', [1010]),
])
const keyed = [[1001, 0], [1021, 0.8], [1041, -0.4], [1061, 1.2]].reduce(
  (document, [time, angle]) => {
    const now = poseAt(partOf(document), time!)[POSE.rotation]!
    return withPatches(document, formChanged(partOf(document), time!, poseTurned(angle! - now)))
  },
  bare,
) // prettier-ignore
const rotation = (document: RotoDocument, time: number) => poseAt(partOf(document), time)[POSE.rotation]!

describe('tangents of free length', () => {
  it('a third of the stretch long they make the cubic Hermite curve of their slopes', () => {
    fc.assert(
      fc.property(numberBetween(1, 60), numberBetween(-50, 50), numberBetween(-50, 50), numberBetween(-9, 9), numberBetween(-9, 9), numberBetween(0, 1),
        (span, from, to, m0, m1, u) => {
          const third = span / 3
          const stretch = { span, from, to, leavingTime: third, leavingValue: m0 * third, arrivingTime: third, arrivingValue: m1 * third }
          // Hermite basis, as in formulas of any textbook: time is linear in the parameter when both tangents are a third long.
          const hermite = (1 + 2 * u) * (1 - u) ** 2 * from + u * (1 - u) ** 2 * span * m0 + u * u * (3 - 2 * u) * to + u * u * (u - 1) * span * m1
          expect(freeValueAt(stretch, u * span)).toBeCloseTo(hermite, 6)
        }),
    ) // prettier-ignore
  })

  it('however long, they leave one value for every time and meet both keys', () => {
    fc.assert(
      fc.property(
        numberBetween(0, 200),
        numberBetween(0, 200),
        numberBetween(-80, 80),
        numberBetween(-80, 80),
        (a, b, va, vb) => {
          const stretch = {
            span: 20,
            from: 3,
            to: 7,
            leavingTime: a,
            leavingValue: va,
            arrivingTime: b,
            arrivingValue: vb,
          }
          expect([freeValueAt(stretch, 0), freeValueAt(stretch, 20)]).toEqual([
            expect.closeTo(3, 5),
            expect.closeTo(7, 5),
          ])
          const values = Array.from({ length: 200 }, (_, i) => freeValueAt(stretch, i / 10))
          expect(values.every(Number.isFinite)).toBe(true)
        },
      ),
    )
  })
})

describe('curves of a pose', () => {
  it('tangents as they act are those of the smooth curve: set by hand, nothing changes', () => {
    const key = poseKeys(partOf(keyed))[1]!
    const [, , frames, value] = tangentsOf(channelOf(partOf(keyed)), key, POSE.rotation).subarray(
      POSE.rotation * TANGENT_STRIDE,
    )
    const patches = tangentSet(
      channelOf(partOf(keyed)),
      1021,
      POSE.rotation,
      'out',
      { frames: frames!, value: value! },
      false,
    )
    const same = withPatches(keyed, patches)
    for (const time of [1005, 1015, 1025, 1033, 1050])
      expect(rotation(same, time)).toBeCloseTo(rotation(keyed, time), 3)
  })

  it('a tangent turns the other one along, on one line, unless it is dragged alone', () => {
    for (const isAlone of [false, true]) {
      const patches = tangentSet(channelOf(partOf(keyed)), 1021, POSE.rotation, 'out', { frames: 8, value: 2 }, isAlone)
      const bent = withPatches(keyed, patches)
      const [inTime, inValue, outTime, outValue] = poseKeys(partOf(bent))[1]!.tangents!.subarray(
        POSE.rotation * TANGENT_STRIDE,
      )
      const isOnLine = Math.abs(inValue! / inTime! - outValue! / outTime!) < 1e-9
      expect(isOnLine).toBe(!isAlone)
      // The other channels keep theirs, and so do the other keys.
      expect(poseAt(partOf(bent), 1021)[POSE.rotation]).toBeCloseTo(0.8, 9)
      expect(poseAt(partOf(bent), 1010)[POSE.x]).toBe(0)
    }
  })

  it('laid level the value rests at the key; given up, the curve is as it was', () => {
    const level = withPatches(keyed, tangentsFlattened(channelOf(partOf(keyed)), [1021, 1041], POSE.rotation))
    for (const time of [1021, 1041]) {
      expect((rotation(level, time + 0.01) - rotation(level, time)) / 0.01).toBeCloseTo(0, 2)
    }
    const freed = withPatches(level, tangentsFreed(channelOf(partOf(level)), [1021, 1041], POSE.rotation))
    expect(partOf(freed)).toEqual(partOf(keyed))
  })

  it('a key goes to another frame and value, in place of one that stands there', () => {
    const moved = withPatches(
      keyed,
      keyPlaced(channelOf(partOf(keyed)), 1021, POSE.rotation, { time: 1041, value: 0.5 }),
    )
    expect(poseKeys(partOf(moved)).map((key) => key.time)).toEqual([1001, 1041, 1061])
    expect(rotation(moved, 1041)).toBe(0.5)
  })
})

describe('the first pose of a Part', () => {
  it('leaves the Part where it is on the frame its shapes were drawn on', () => {
    const posed = withPatches(bare, poseChanged(bare, partOf(bare), 1030, poseTurned(0.6)))
    expect(poseKeys(partOf(posed)).map((key) => key.time)).toEqual([1010, 1030])
    expect([rotation(posed, 1010), rotation(posed, 1030)]).toEqual([0, 0.6])
  })

  it('made as it is brings one there as well; with keys there is none to bring', () => {
    const first = withPatches(bare, poseKeyAdded(bare, partOf(bare), 1040))
    expect(poseKeys(partOf(first)).map(({ time }) => time)).toEqual([1010, 1040])
    const next = withPatches(first, poseKeyAdded(first, partOf(first), 1050))
    expect(poseKeys(partOf(next)).map(({ time }) => time)).toEqual([1010, 1040, 1050])
    expect(poseKeys(partOf(withPatches(bare, poseKeyAdded(bare, partOf(bare), 1010))))).toHaveLength(1)
  })

  it('is one key on that very frame, or when it is to act there as well', () => {
    const there = withPatches(bare, poseChanged(bare, partOf(bare), 1010, poseTurned(0.6)))
    expect(poseKeys(partOf(there)).map((key) => key.time)).toEqual([1010])
    const everywhere = { reach: { kind: 'everywhere' }, makesKeys: true, onlyTouched: false } as const
    const all = withPatches(bare, poseChanged(bare, partOf(bare), 1030, poseTurned(0.6), everywhere))
    expect([rotation(all, 1001), rotation(all, 1010)]).toEqual([0.6, 0.6])
  })
})
