import { rationalPoint, SEGMENT_STRIDE } from '../spline'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { rotationAbout, translation } from '../geometry'
import { renderMattes } from '../raster'
import {
  applyBatch,
  findObject,
  isConflict,
  patchesTakenBack,
  sameValue,
  type Patch,
  type RotoDocument,
  type Shape,
  POINT,
  POINT_STRIDE,
  channelOf,
  constantChannel,
  outlineKeys,
  withOutlineKeys,
} from '../document'
import { formChanged } from './change'
import { directionReversed } from './form'
import { controlPlacesAt, outlineAt, patchesForSamples, sceneAt, unmeasuredSample } from '../evaluation'
import { keyAdded } from './keys'
import { movedOnPlate } from './plateSpaceEdits'
import { moverAttached } from './movers'
import { objectsDeleted } from './objects'
import { pointInsertedInto, pointsRemovedFrom, seamBroken, seamTied, sharesWithOwners, stretchOf } from './seams'
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

/** Two boxes side by side, the coat left, the scarf right, in Parts that tracks move differently. */
function scene(coatDepth = 1, scarfDepth = 2): RotoDocument {
  let document = documentOf([
    testShot,
    testSubject,
    testPart('coatPart', { depth: coatDepth }),
    testPart('scarfPart', { depth: scarfDepth }),
    boxShape('coat', 'coatPart', [[40, 40], [120, 40], [124, 80], [120, 120], [40, 120]]),
    boxShape('scarf', 'scarfPart', [[122, 38], [200, 40], [200, 120], [121, 122]]),
    testTrack('board'),
    testTrack('sleeve'),
  ]) // prettier-ignore
  for (const [part, track, map] of [
    ['coatPart', 'board', (f: number) => translation(3.3 * f, 1.7 * f)],
    ['scarfPart', 'sleeve', (f: number) => rotationAbout(0.02 * f, 160, 80)],
  ] as const) {
    const samples = Array.from({ length: 12 }, (_, f) => unmeasuredSample(1001 + f, 'tracked', map(f)))
    document = withPatches(document, patchesForSamples(findObject(document, 'track', track)!, samples))
    document = withPatches(document, moverAttached(document, findObject(document, 'part', part)!, track, 1001))
  }
  return document
}

function boxShape(id: string, partId: string, places: readonly (readonly [number, number])[]): Shape {
  const values = new Float64Array(places.length * POINT_STRIDE)
  places.forEach((place, i) => values.set(place, i * POINT_STRIDE))
  const shape = testShape(id, partId, [1001], places.length)
  return withOutlineKeys({ ...shape, corners: places.map(() => true) }, [{ ...outlineKeys(shape)[0]!, values }])
}

const shapeOf = (document: RotoDocument, id: string) => findObject(document, 'shape', id)!
/** The coat's right side, three points; the scarf's left side, two. */
const tied = (document: RotoDocument) => {
  const [coat, scarf] = [shapeOf(document, 'coat'), shapeOf(document, 'scarf')]
  const owners = stretchOf(coat, new Set(['coat-p1', 'coat-p2', 'coat-p3']))!
  return withPatches(
    document,
    seamTied(document, coat, owners, scarf, stretchOf(scarf, new Set(['scarf-p3', 'scarf-p0']))!, 1001).patches,
  )
}
const seamed = tied(scene())
const seamIn = (document: RotoDocument) => [...document.objects.values()].find((object) => object.kind === 'seam')!

/** Largest distance from the owner's shared line to the borrower's. */
function gap(document: RotoDocument, time: number): number {
  const [coat, scarf] = [shapeOf(document, 'coat'), shapeOf(document, 'scarf')]
  const [a, b] = [coat, scarf].map((shape) => outlineAt(document, shape, time)) as [Float64Array, Float64Array]
  const dense = scarf.pointIds.flatMap((_, i) => Array.from({ length: 100 }, (_, k) => rationalPoint(b, i, k / 100)))
  let worst = 0
  for (const i of [1, 2]) {
    for (let k = 0; k <= 10; k++) {
      const [x, y] = rationalPoint(a, i, k / 10)
      worst = Math.max(worst, Math.min(...dense.map(([u, v]) => Math.hypot(u - x, v - y))))
    }
  }
  return worst
}

/** Largest distance from places along the owner's shared line, wherever its points stand, to the borrower's outline. */
function gapAlong(document: RotoDocument, time: number): number {
  const owner = shapeOf(document, 'coat')
  const ids = ['coat-p1', 'coat-p2', 'coat-p3'].map((id) => owner.pointIds.indexOf(id))
  const outline = outlineAt(document, owner, time)
  const scarf = outlineAt(document, shapeOf(document, 'scarf'), time)
  const dense = Array.from({ length: 500 }, (_, k) => rationalPoint(scarf, Math.floor(k / 100), (k % 100) / 100))
  const shared = ids.filter((i) => ids.includes((i + 1) % owner.pointIds.length))
  const places = shared.flatMap((i) => [0, 0.25, 0.5, 0.75, 1].map((t) => rationalPoint(outline, i, t)))
  return Math.max(...places.map(([x, y]) => Math.min(...dense.map(([u, v]) => Math.hypot(u - x, v - y)))))
}

/** The shape with other feather. */
const withEdge = (shape: Shape, inner: number, outer: number): Shape => ({
  ...shape,
  channels: { ...shape.channels, innerFeather: constantChannel(inner), outerFeather: constantChannel(outer) },
})

/** Out of focus, and softer and more out of focus at every second point. */
function withSoftPoints(shape: Shape, focus: number, extra: number, extraFocus: number): Shape {
  const more: Record<number, number> = {
    [POINT.innerFeather]: extra,
    [POINT.outerFeather]: extra,
    [POINT.focus]: extraFocus,
  }
  const keys = outlineKeys(shape).map((key) => ({
    ...key,
    values: key.values.map((value, i) => value + (more[i % (2 * POINT_STRIDE)] ?? 0)),
  }))
  const softer = withOutlineKeys(shape, keys)
  return { ...softer, channels: { ...softer.channels, focus: constantChannel(focus) } }
}

describe('a Seam', () => {
  it('is one line on every frame, whatever moves each shape, with as many points on both sides', () => {
    expect(shapeOf(seamed, 'scarf').pointIds).toHaveLength(5)
    for (const time of [1001, 1004.3, 1008, 1012]) expect(gap(seamed, time)).toBeLessThan(0.5)
    // The dense samples are 0.4 px apart; the points themselves are exactly the same.
    for (const time of [1001, 1004.3, 1012]) {
      const [coat, scarf] = ['coat', 'scarf'].map((id) => controlPlacesAt(seamed, shapeOf(seamed, id), time))
      const scarfIds = shapeOf(seamed, 'scarf').pointIds
      for (const pair of (seamIn(seamed) as Extract<ReturnType<typeof seamIn>, { kind: 'seam' }>).pairs) {
        const [o, b] = [shapeOf(seamed, 'coat').pointIds.indexOf(pair.owner), scarfIds.indexOf(pair.borrower)]
        expect([scarf![2 * b], scarf![2 * b + 1]]).toEqual([coat![2 * o], coat![2 * o + 1]])
      }
    }
  })

  it('lies in room that was used before just as in room of its own', () => {
    const [coat, scarf] = ['coat', 'scarf'].map((id) => shapeOf(seamed, id)) as [Shape, Shape]
    for (const time of [1001, 1004.3, 1012]) {
      for (const shape of [scarf, coat]) {
        const room = new Float64Array(shape.pointIds.length * SEGMENT_STRIDE).fill(Number.NaN)
        expect(outlineAt(seamed, shape, time, null, undefined, room)).toBe(room)
        expect(room).toEqual(outlineAt(seamed, shape, time))
      }
    }
  })

  it('ties the ends that lie together, whichever way round both outlines run', () => {
    const pairs = (seamIn(seamed) as { pairs: { owner: string; borrower: string }[] }).pairs
    expect(pairs.find(({ borrower }) => borrower === 'scarf-p0')?.owner).toBe('coat-p1')
    expect(pairs.find(({ borrower }) => borrower === 'scarf-p3')?.owner).toBe('coat-p3')
  })

  it('one edit moves both, whichever shape it is made on', () => {
    const scarf = shapeOf(seamed, 'scarf')
    const [{ shape, share }] = sharesWithOwners(seamed, [scarf], 1006, new Set(['scarf-p0']), 0) as [{ shape: Shape; share(id: string): number }] // prettier-ignore
    expect(shape.id).toBe('coat')
    const moved = withPatches(
      seamed,
      formChanged(shape, 1006, movedOnPlate(seamed, shape, 1006, share, translation(9, -5))),
    )
    for (const id of ['coat', 'scarf']) {
      const index = shapeOf(seamed, id).pointIds.indexOf(id === 'coat' ? 'coat-p1' : 'scarf-p0')
      const [p, q] = [seamed, moved].map((document) => controlPlacesAt(document, shapeOf(document, id), 1006))
      expect(q![2 * index]! - p![2 * index]!).toBeCloseTo(9, 6)
      expect(q![2 * index + 1]! - p![2 * index + 1]!).toBeCloseTo(-5, 6)
    }
  })

  it('what is thin is not run through, however soft the one beneath it is', () => {
    const document = tied(scene(2, 1))
    // The scarf is a band 20 px wide in front of a coat that is far out of focus.
    const scarf = shapeOf(document, 'scarf')
    const thin = withOutlineKeys(scarf, outlineKeys(scarf).map((key) => ({ ...key, values: key.values.map((value, i) => (i % POINT_STRIDE === POINT.x && value > 150 ? value - 60 : value)) }))) // prettier-ignore
    const coat = withSoftPoints(shapeOf(document, 'coat'), 3, 0, 3)
    const objects = new Map(document.objects).set('scarf', thin).set('coat', coat)
    const box = { left: 0, top: 0, right: 260, bottom: 170 }
    const [beneath] = renderMattes(sceneAt({ objects }, 1001), [{ partId: 'coatPart', withHoldouts: true }], { box, motionBlur: false })! // prettier-ignore
    const outline = outlineAt({ objects }, thin, 1001)
    const far = Math.max(...Array.from(outline.filter((_, i) => i % 3 === 0)))
    let most = 0
    for (let y = 75; y < 105; y++)
      for (let x = Math.ceil(far) + 2; x < 255; x++) most = Math.max(most, beneath![y * 260 + x]!)
    // Beyond the band nothing but the tail of the blur from its middle on.
    expect(most).toBeLessThan(0.1)
  })

  it('the two mattes add up to one along it at every moment: soft edges, blur, other shutters, either in front', () => {
    const cases = [
      [0, 0, 180, 180, 0, 0],
      [6, 3, 180, 180, 0, 0],
      [4, 2, 360, 90, 0, 0],
      [0, 0, 180, 180, 1.5, 0.8],
      [2, 1, 180, 180, 0, 1.2],
      [0, 0, 180, 180, 0, 0, 1.3],
      [2, 1, 180, 90, 0.5, 0, 1, 5],
      [0, 0, 180, 180, 0, 0, 0.5, 0, 1.5],
      [1, 1, 180, 90, 0.5, 0, 1, 2, 1],
    ] as const
    for (const [inner, outer, coatShutter, scarfShutter, coatBlur, scarfBlur, focus = 0, atPoints = 0, focusAtPoints = 0] of cases) {
      for (const [coatDepth, scarfDepth] of [[1, 2], [2, 1]] as const) {
        let document = tied(scene(coatDepth, scarfDepth))
        const objects = new Map(document.objects)
        for (const [id, angle, blur] of [['coat', coatShutter, coatBlur], ['scarf', scarfShutter, scarfBlur]] as const) {
          const part = findObject(document, 'part', `${id}Part`)!
          objects.set(part.id, { ...part, holdsOut: false, hasOwnShutter: true, channels: { shutterAngle: constantChannel(angle), shutterPhase: constantChannel(-angle / 2), blur: constantChannel(blur) } })
          objects.set(id, withSoftPoints(withEdge(shapeOf(document, id), inner, outer), focus, atPoints, focusAtPoints))
        }
        // Far from the line the coat is much faster than the scarf anywhere: it needs more sub-times.
        const key = outlineKeys(shapeOf({ objects }, 'coat'))[0]!
        const flung = key.values.slice()
        flung[0]! -= 120
        objects.set('coat', withOutlineKeys(objects.get('coat') as Shape, [key, { ...key, time: 1009, values: flung }]))
        document = { objects }
        const box = { left: 0, top: 0, right: 260, bottom: 170 }
        const requests = ['coatPart', 'scarfPart'].map((partId) => ({ partId, withHoldouts: false }))
        // Each by itself, as files are written.
        const [a, b] = requests.map((one) => renderMattes(sceneAt(document, 1005), [one], { box, motionBlur: true })![0]!)
        // Inside the shared line, away from its ends by what is soft there.
        const outline = outlineAt(document, shapeOf(document, 'coat'), 1005)
        const [from, to] = [rationalPoint(outline, 1, 0), rationalPoint(outline, 2, 1)]
        const soft = inner + outer + 2 * atPoints + Math.ceil(3 * coatBlur) + Math.ceil(3 * scarfBlur) + Math.ceil(6 * (focus + focusAtPoints)) + 4
        let worst = 0
        for (let y = Math.ceil(from[1]) + soft; y < to[1] - soft; y++) {
          for (let x = Math.floor(from[0]) - 12; x < from[0] + 16; x++) {
            worst = Math.max(worst, Math.abs(a![y * 260 + x]! + b![y * 260 + x]! - 1))
          }
        }
        expect(worst, `inner ${inner}, coat at ${coatDepth}, shutters ${coatShutter} ${scarfShutter}, blurs ${coatBlur} ${scarfBlur}`).toBeLessThan(1e-5)
      }
    } // prettier-ignore
  })

  it('beneath its neighbour the farther matte stays within it: nothing shows beside the two', () => {
    fc.assert(
      fc.property(numberBetween(0, 10), fc.integer({ min: 1001, max: 1010 }), (inner, frame) => {
        const objects = new Map(seamed.objects)
        objects.set('coat', withEdge(shapeOf(seamed, 'coat'), inner, 0))
        const document = { objects }
        const bare = { objects: new Map([...objects].filter(([, object]) => object.kind !== 'seam')) }
        const box = { left: 0, top: 0, right: 260, bottom: 170 }
        const request = [{ partId: 'scarfPart', withHoldouts: true }]
        const [a, b] = [document, bare].map(
          (one) => renderMattes(sceneAt(one, frame), request, { box, motionBlur: false })![0]!,
        )
        // Left of the coat, above and below both: no more than without the Seam.
        const places = controlPlacesAt(document, shapeOf(document, 'coat'), frame)
        const left = Math.floor(Math.min(...places.filter((_, i) => i % 2 === 0))) - 1
        const top = Math.floor(Math.min(...places.filter((_, i) => i % 2 === 1))) - 4
        let most = 0
        for (let y = 0; y < 170; y++)
          for (let x = 0; x < 260; x++)
            if (x < left || y < top) most = Math.max(most, a![y * 260 + x]! - b![y * 260 + x]!)
        expect(most).toBeLessThan(1e-6)
      }),
      { numRuns: 15 },
    )
  })

  it('nothing runs on beneath a neighbour that is hidden', () => {
    const box = { left: 0, top: 0, right: 260, bottom: 170 }
    const request = [{ partId: 'scarfPart', withHoldouts: true }]
    const areaOf = (document: RotoDocument) =>
      renderMattes(sceneAt(document, 1001), request, { box, motionBlur: false })![0]!.reduce((sum, a) => sum + a, 0)
    const hidden = { objects: new Map(seamed.objects) }
    hidden.objects.set('coatPart', { ...findObject(seamed, 'part', 'coatPart')!, visible: false })
    const broken = withPatches(seamed, seamBroken(seamed, findObject(seamed, 'seam', seamIn(seamed).id)!))
    const alone = { objects: new Map(broken.objects) }
    alone.objects.set('coatPart', { ...findObject(broken, 'part', 'coatPart')!, visible: false })
    expect(Math.abs(areaOf(hidden) - areaOf(alone))).toBeLessThan(1e-3)
    // What the Seam wins where both are seen: of two mattes a and 1 - a in one pixel, cut a (1 - a) is lost, a sixth of a
    // pixel on the mean over all places of the line in it, for each pixel of its length.
    const length = 2 * Math.hypot(4, 40)
    expect((areaOf(seamed) - areaOf(broken)) / (length / 6)).toBeCloseTo(1, 1)
  })

  it('holds when either outline is run through the other way round', () => {
    for (const id of ['coat', 'scarf']) {
      const turned = withPatches(seamed, directionReversed(shapeOf(seamed, id)))
      for (const time of [1001, 1007]) expect(gapAlong(turned, time)).toBeLessThan(0.5)
      const seam = findObject(turned, 'seam', seamIn(turned).id)!
      const broken = withPatches(turned, seamBroken(turned, seam))
      expect(gapAlong(broken, 1001)).toBeLessThan(0.5)
    }
  })

  it('broken, the borrower lies on its keys where it lay, and goes its own way between', () => {
    const keyed = withPatches(seamed, keyAdded(channelOf(shapeOf(seamed, 'scarf')), 1009))
    const seam = findObject(keyed, 'seam', seamIn(keyed).id)!
    const batch = testBatch(seamBroken(keyed, seam))
    const broken = withPatches(keyed, batch.patches)
    for (const time of [1001, 1009]) {
      const [p, q] = [keyed, broken].map((document) => controlPlacesAt(document, shapeOf(document, 'scarf'), time))
      expect(Math.max(...p!.map((value, i) => Math.abs(value - q![i]!)))).toBeLessThan(1e-6)
    }
    expect(gap(broken, 1005)).toBeGreaterThan(0.01)
    expect(sameValue(shapeOf(withPatches(broken, patchesTakenBack(batch)), 'scarf'), shapeOf(keyed, 'scarf'))).toBe(
      true,
    )
  })

  it('a point put in on it is put into both and tied; one taken away lets its pair go', () => {
    const coat = shapeOf(seamed, 'coat')
    const more = withPatches(seamed, pointInsertedInto(seamed, coat, 1, 0.3).patches)
    expect([shapeOf(more, 'coat'), shapeOf(more, 'scarf')].map(({ pointIds }) => pointIds.length)).toEqual([6, 6])
    expect((seamIn(more) as { pairs: unknown[] }).pairs).toHaveLength(4)
    expect(gap(more, 1007)).toBeLessThan(0.5)
    const scarf = shapeOf(seamed, 'scarf')
    const fewer = withPatches(seamed, pointsRemovedFrom(seamed, scarf, new Set([scarf.pointIds[0]!])).patches)
    expect((seamIn(fewer) as { pairs: unknown[] }).pairs).toHaveLength(2)
  })

  it('goes with its shapes, and cannot go round in a circle', () => {
    const without = withPatches(seamed, objectsDeleted(seamed, ['scarf']))
    expect([...without.objects.values()].some((object) => object.kind === 'seam')).toBe(false)
    const [coat, scarf] = [shapeOf(seamed, 'coat'), shapeOf(seamed, 'scarf')]
    const { patches } = seamTied(seamed, scarf, ['scarf-p1', 'scarf-p2'], coat, ['coat-p4', 'coat-p0'], 1001)
    expect(isConflict(applyBatch(seamed, testBatch(patches)))).toBe(true)
    const bare: Patch[] = [
      { kind: 'object', id: 'scarf', before: scarf, after: { ...scarf, pointIds: scarf.pointIds.with(0, 'another') } },
    ]
    expect(isConflict(applyBatch(seamed, testBatch(bare)))).toBe(true)
  })
})
