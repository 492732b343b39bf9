import { rationalPoint } from '../spline'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { applyToPoint, invert, translation } from '../geometry'
import { formChanged, HERE, KEY_HERE, reachWeight, type Keying, type Reach } from './change'
import { controlPlacesAt, patchesForSamples, outlineAt, shapePointsAt, unmeasuredSample, worldAt } from '../evaluation'
import {
  findObject,
  patchesTakenBack,
  POINT_STRIDE,
  sameValue,
  withPatchesApplied,
  type Patch,
  type RotoDocument,
  type Shape,
  channelOf,
  outlineKeys,
  withOutlineKeys,
} from '../document'
import { interpolationSet, keyAdded } from './keys'
import { keysCarried, keysDeleted, keysMoved, keysPutDown, keysReversed } from './keyTimes'
import { movedOnPlate, tangentPutAt } from './plateSpaceEdits'
import { moverAttached } from './movers'
import { pointInserted } from './points'
import {
  documentOf,
  testBatch,
  testPart,
  testShape,
  testShot,
  testSubject,
  testTrack,
  withPatches,
} from '../document/testDocuments'
import { numberBetween } from '../testing/numberBetween'

const TIMES = [1001, 1011, 1021, 1041, 1061]
/** A coat that a track turns and pushes, with five keys of its own. */
const moved = movedCoat()

function movedCoat(): RotoDocument {
  let document = documentOf([
    testShot,
    testSubject,
    testPart('coat'),
    testShape('outline', 'coat', TIMES),
    testTrack('board'),
  ])
  const samples = Array.from({ length: 72 }, (_, f) => {
    const [c, s] = [Math.cos(0.01 * f), Math.sin(0.01 * f)]
    return unmeasuredSample(1001 + f, 'tracked', Float64Array.of(c, -s, 2 * f, s, c, f, 0, 1e-5 * f, 1))
  })
  document = withPatches(document, patchesForSamples(findObject(document, 'track', 'board')!, samples))
  return withPatches(document, moverAttached(document, findObject(document, 'part', 'coat')!, 'board', 1001))
}

const shapeOf = (document: RotoDocument): Shape => findObject(document, 'shape', 'outline')!
const how = (reach: Reach, rest: Partial<Keying> = {}): Keying => ({ ...KEY_HERE, reach, ...rest })
const reaches: Reach[] = [
  HERE,
  { kind: 'onward' },
  { kind: 'back' },
  { kind: 'everywhere' },
  { kind: 'span', from: 1011, to: 1030, falloff: 15, ends: [] },
]

/** Where the stored points went, per key time, in moved space. */
function ways(before: RotoDocument, after: RotoDocument) {
  return TIMES.map((time) => {
    const [a, b] = [shapePointsAt(shapeOf(before), time), shapePointsAt(shapeOf(after), time)]
    return Array.from(b, (value, i) => value - a[i]!)
  })
}

describe('Reach', () => {
  it('one move on the plate: on its frame just that, on other keys the same move in moved space, by its share', () => {
    const number = (low: number, high: number) => numberBetween(low, high)
    fc.assert(
      fc.property(fc.constantFrom(...reaches), fc.integer({ min: 1001, max: 1072 }), number(-40, 40), number(-40, 40),
        (reach, frame, dx, dy) => {
          const shape = shapeOf(moved)
          const map = translation(dx, dy)
          const change = movedOnPlate(moved, shape, frame, () => 1, map)
          const after = withPatches(moved, formChanged(shape, frame, change, how(reach)))
          const [p, q] = [moved, after].map((document) => controlPlacesAt(document, shapeOf(document), frame))
          const off = p!.map((value, i) => Math.abs(q![i]! - value - (i % 2 ? dy : dx)))
          expect(Math.max(...off)).toBeLessThan(1e-3)
          // What the move is in the space of the coat, taken at each key from where its points are.
          const world = worldAt(moved, findObject(moved, 'part', 'coat')!, frame)
          let worst = 0
          for (const time of TIMES) {
            if (reach.kind === 'here' || time === frame) continue
            const [a, b] = [shapePointsAt(shape, time), shapePointsAt(shapeOf(after), time)]
            const weight = reachWeight(reach, frame, time)
            for (let at = 0; at < a.length; at += POINT_STRIDE) {
              const onPlate = applyToPoint(world, a[at]!, a[at + 1]!)
              const full = applyToPoint(invert(world), onPlate[0]! + dx, onPlate[1]! + dy)
              for (const axis of [0, 1]) {
                const expected = a[at + axis]! + weight * (full[axis]! - a[at + axis]!)
                worst = Math.max(worst, Math.abs(b[at + axis]! - expected))
              }
            }
          }
          expect(worst).toBeLessThan(1e-7)
        }),
    ) // prettier-ignore
  })

  it('Here leaves every other key, and a change Everywhere needs no new key', () => {
    const shape = shapeOf(moved)
    const change = movedOnPlate(moved, shape, 1015, () => 1, translation(9, 4))
    const here = withPatches(moved, formChanged(shape, 1015, change))
    expect(outlineKeys(shapeOf(here)).map((key) => key.time)).toEqual([1001, 1011, 1015, 1021, 1041, 1061])
    expect(
      ways(moved, here)
        .flat()
        .every((way) => way === 0),
    ).toBe(true)
    const all = withPatches(moved, formChanged(shape, 1015, change, how({ kind: 'everywhere' })))
    expect(outlineKeys(shapeOf(all)).map((key) => key.time)).toEqual(TIMES)
  })

  it('a Span fades over its falloff, without a step', () => {
    const span: Reach = { kind: 'span', from: 1010, to: 1020, falloff: 9, ends: [] }
    const weights = [1000, 1001, 1005, 1009, 1010, 1020, 1025, 1029, 1030].map((time) => reachWeight(span, 1015, time))
    expect(weights[0]).toBe(0)
    expect(weights.slice(4, 6)).toEqual([1, 1])
    expect(weights[2]).toBeCloseTo(0.5, 12)
    for (const [a, b] of [[0, 1], [1, 2], [2, 3], [3, 4]] as const) expect(weights[a]!).toBeLessThan(weights[b]!) // prettier-ignore
  })

  it('is one undo step, and taken back it leaves the identical document', () => {
    const shape = shapeOf(moved)
    for (const reach of reaches) {
      const change = movedOnPlate(moved, shape, 1031, (id) => (id.endsWith('p1') ? 1 : 0), translation(3, 8))
      const batch = testBatch(formChanged(shape, 1031, change, how(reach)))
      const after = withPatches(moved, batch.patches)
      const back = withPatches(after, patchesTakenBack(batch))
      expect(sameValue(shapeOf(back), shape), reach.kind).toBe(true)
    }
  })

  it('a tangent turns the other one along on every key it reaches, unless it is to stay or to be its mirror', () => {
    const shape = shapeOf(moved)
    const kink = (document: RotoDocument, time: number) => {
      const v = shapePointsAt(shapeOf(document), time)
      return v[2]! * v[5]! - v[3]! * v[4]!
    }
    for (const other of ['as the point is', 'stays', 'mirrored'] as const) {
      const change = tangentPutAt(moved, shape, 1021, 0, 'out', [400, 300], other)
      const after = withPatches(moved, formChanged(shape, 1021, change, how({ kind: 'everywhere' })))
      for (const time of TIMES) {
        if (other === 'stays') expect(Math.abs(kink(after, time))).toBeGreaterThan(1)
        else expect(kink(after, time)).toBeCloseTo(0, 6)
        const v = shapePointsAt(shapeOf(after), time)
        if (other === 'mirrored') expect([v[2], v[3]]).toEqual([-v[4]!, -v[5]!])
      }
    }
  })

  it('without new keys a frame between keys stays as it is, unless keys in reach carry the change', () => {
    const shape = shapeOf(moved)
    const change = movedOnPlate(moved, shape, 1015, () => 1, translation(9, 4))
    expect(formChanged(shape, 1015, change, how(HERE, { makesKeys: false }))).toEqual([])
    const [onward] = formChanged(shape, 1015, change, how({ kind: 'onward' }, { makesKeys: false }))
    expect(onward).toMatchObject({ kind: 'values', times: [1021, 1041, 1061] })
  })
})

describe('keys that hold only the points touched', () => {
  const linear = withPatches(moved, interpolationSet(channelOf(shapeOf(moved)), TIMES, 'linear'))
  const shape = shapeOf(linear)
  const only = (id: string) => (id === 'outline-p2' ? 1 : 0)
  const partial = withPatches(
    linear,
    formChanged(
      shape,
      1015,
      movedOnPlate(linear, shape, 1015, only, translation(12, -7)),
      how(HERE, { onlyTouched: true }),
    ),
  )

  it('the point is where it was put; all others run on as if there were no key', () => {
    expect(outlineKeys(shapeOf(partial)).find((key) => key.time === 1015)?.touched).toEqual(['outline-p2'])
    for (const time of [1012, 1015, 1019.5, 1030]) {
      const [a, b] = [shapePointsAt(shape, time), shapePointsAt(shapeOf(partial), time)]
      for (let i = 0; i < 6; i++) {
        const isSame = sameValue(
          a.slice(POINT_STRIDE * i, POINT_STRIDE * (i + 1)),
          b.slice(POINT_STRIDE * i, POINT_STRIDE * (i + 1)),
        )
        expect(isSame, `point ${i} at ${time}`).toBe(i !== 2 || time > 1021)
      }
    }
    const [p, q] = [linear, partial].map((document) => controlPlacesAt(document, shapeOf(document), 1015))
    expect([q![4]! - p![4]!, q![5]! - p![5]!]).toEqual([expect.closeTo(12, 6), expect.closeTo(-7, 6)])
  })

  it('a key made whole, and one that another point is moved on, hold what they should', () => {
    const whole = withPatches(partial, keyAdded(channelOf(shapeOf(partial)), 1015))
    expect(outlineKeys(shapeOf(whole)).find((key) => key.time === 1015)?.touched).toBeUndefined()
    expect(sameValue(shapePointsAt(shapeOf(whole), 1015), shapePointsAt(shapeOf(partial), 1015))).toBe(true)
    const other = (id: string) => (id === 'outline-p4' ? 1 : 0)
    const change = movedOnPlate(partial, shapeOf(partial), 1015, other, translation(5, 5))
    const two = withPatches(partial, formChanged(shapeOf(partial), 1015, change))
    expect(outlineKeys(shapeOf(two)).find((key) => key.time === 1015)?.touched).toEqual(['outline-p2', 'outline-p4'])
  })

  it('a point put in beside them keeps the outline on every key', () => {
    const after = withPatches(partial, pointInserted(shapeOf(partial), 2, 0.4).patches)
    let worst = 0
    for (const time of [...TIMES, 1015]) {
      const [a, b] = [outlineAt(partial, shapeOf(partial), time), outlineAt(after, shapeOf(after), time)]
      for (let k = 0; k <= 10; k++) {
        const u = k / 10
        const p = rationalPoint(a, 2, u)
        const q = u <= 0.4 ? rationalPoint(b, 2, u / 0.4) : rationalPoint(b, 3, (u - 0.4) / 0.6)
        worst = Math.max(worst, Math.hypot(p[0] - q[0], p[1] - q[1]))
      }
    }
    expect(worst).toBeLessThan(1e-6)
  })
})

describe('keys chosen in the timeline', () => {
  const chosen = [1011, 1021, 1041].map((time) => ({ id: 'outline', channel: 'outline', time }))
  const times = (document: RotoDocument) => outlineKeys(shapeOf(document)).map((key) => key.time)
  const after = (patches: Patch[]) => withPatches(moved, patches)

  it('move and stretch, in place of what stands there', () => {
    expect(times(after(keysMoved(moved, chosen, (t) => t + 20)))).toEqual([1001, 1031, 1041, 1061])
    expect(times(after(keysMoved(moved, chosen, (t) => 1021 + (t - 1021) * 0.5)))).toEqual([
      1001, 1016, 1021, 1031, 1061,
    ])
    const onto = after(keysMoved(moved, chosen, (t) => t + 20))
    expect(sameValue(outlineKeys(shapeOf(onto))[3]!.values, outlineKeys(shapeOf(moved))[3]!.values)).toBe(true)
  })

  it('reverse twice to what they were, and are deleted but for one of a shape', () => {
    const once = after(keysReversed(moved, chosen))
    expect(times(once)).toEqual([1001, 1011, 1031, 1041, 1061])
    const again = [1011, 1031, 1041].map((time) => ({ id: 'outline', channel: 'outline', time }))
    expect(sameValue(shapeOf(withPatches(once, keysReversed(once, again))), shapeOf(moved))).toBe(true)
    expect(times(after(keysDeleted(moved, TIMES.map((time) => ({ id: 'outline', channel: 'outline', time })))))).toEqual([1001]) // prettier-ignore
  })

  it('are put down elsewhere, one after the other, with the outlines they had', () => {
    const carried = keysCarried(moved, chosen.slice(0, 2))
    const twice = after(keysPutDown(moved, carried, 1045, (id) => id, 2))
    expect(times(twice)).toEqual([1001, 1011, 1021, 1041, 1045, 1055, 1056, 1061, 1066])
    expect(sameValue(outlineKeys(shapeOf(twice))[6]!.values, outlineKeys(shapeOf(moved))[1]!.values)).toBe(true)
    const batch = testBatch(keysPutDown(moved, carried, 1045, (id) => id, 2))
    expect(sameValue(shapeOf(withPatches(twice, patchesTakenBack(batch))), shapeOf(moved))).toBe(true)
  })
})

describe('a Span', () => {
  it('gets keys at its ends: what lies inside goes whole, and beyond its ends every key and the straight way to it stay', () => {
    const plain = testShape('s', 'a', [1001, 1031, 1061], 4)
    const straight = outlineKeys(plain).map((key) => ({ ...key, interpolation: 'linear' as const }))
    const shape = withOutlineKeys(plain, straight)
    const document = documentOf([testShot, testSubject, testPart('a'), shape])
    const reach: Reach = { kind: 'span', from: 1010, to: 1020, falloff: 2, ends: [1007, 1010, 1020, 1023] }
    const change = (values: Float64Array, out: Float64Array) =>
      out.forEach((_, n) => (out[n] = values[n]! + (n % POINT_STRIDE === 0 ? 8 : 0)))
    const how: Keying = { reach, makesKeys: true, onlyTouched: false }
    const after = findObject(withPatchesApplied(document, formChanged(shape, 1015, change, how)), 'shape', 's')!
    expect(outlineKeys(after).map(({ time }) => time)).toEqual([1001, 1007, 1010, 1015, 1020, 1023, 1031, 1061])
    const went = (time: number) => shapePointsAt(after, time)[0]! - shapePointsAt(shape, time)[0]!
    for (const time of [1010, 1015, 1020]) expect(went(time)).toBeCloseTo(8, 9)
    for (const time of [1001, 1007, 1023, 1031, 1050, 1061]) expect(went(time)).toBeCloseTo(0, 9)
    // Without making keys, there is none in the stretch, and nothing changes.
    expect(formChanged(shape, 1015, change, { ...how, makesKeys: false })).toEqual([])
  })
})

describe('on the way of a gesture', () => {
  it('what is looked at is as it will be, whatever the Reach, the shape and the times of its keys', () => {
    const reaches: Reach[] = [HERE, { kind: 'onward' }, { kind: 'back' }, { kind: 'everywhere' }, { kind: 'span', from: 1010, to: 1020, falloff: 3, ends: [1006, 1010, 1020, 1024] }] // prettier-ignore
    const times = fc.uniqueArray(fc.integer({ min: 1001, max: 1040 }), { minLength: 1, maxLength: 12 })
    const kinds = fc.constantFrom('linear', 'smooth', 'ease', 'hold')
    fc.assert(
      fc.property(
        times,
        fc.integer({ min: 1001, max: 1040 }),
        fc.constantFrom(...reaches),
        kinds,
        fc.boolean(),
        fc.boolean(),
        (unsorted, frame, reach, interpolation, isPartial, turns) => {
          const plain = testShape('s', 'a', unsorted.sort((a, b) => a - b), 4) // prettier-ignore
          const keys = outlineKeys(plain).map((key, i) => ({
            ...key,
            interpolation,
            values: key.values.map((value, n) => value + ((i * 7 + n) % 5)),
            ...(isPartial && i % 2 === 1 && { touched: [plain.pointIds[i % 4]!] }),
          }))
          const shape: Shape = { ...withOutlineKeys(plain, keys), interpolateBy: turns ? 'turning' : 'coordinates' }
          const document = documentOf([testShot, testSubject, testPart('a'), shape])
          const how: Keying = { reach, makesKeys: true, onlyTouched: false }
          const change = (values: Float64Array, out: Float64Array) => out.forEach((_, n) => (out[n] = values[n]! + 3))
          const shapeAfter = (how: Keying) => findObject(withPatchesApplied(document, formChanged(shape, frame, change, how)), 'shape', 's')! // prettier-ignore
          const [onTheWay, inTheEnd] = [shapeAfter({ ...how, seen: [frame - 2, frame + 2] }), shapeAfter(how)]
          for (let time = frame - 2; time <= frame + 2; time += 0.25) {
            expect(shapePointsAt(onTheWay, time)).toEqual(shapePointsAt(inTheEnd, time))
          }
        },
      ),
    )
  })
})
