import { describe, expect, it } from 'vitest'
import { applyToPoint, reflectionAbout } from '../geometry'
import { renderMattes } from '../raster'
import { allOf, constantChannel, findObject, type Part, type Patch, type RotoDocument, type Shape } from '../document'
import {
  documentOf,
  testPart,
  testShape,
  testShot,
  testSubject,
  testTrack,
  withPatches,
} from '../document/testDocuments'
import {
  areasAt,
  partsByDepth,
  patchesForSamples,
  sceneAt,
  shownShapesOf,
  unmeasuredSample,
  worldAt,
} from '../evaluation'
import { formChanged } from './change'
import { brokenOff, instanceMade, mirrorSet, subjectInstanced } from './instances'
import { moverAttached } from './movers'
import { objectsDeleted } from './objects'
import { movedOnPlate } from './plateSpaceEdits'
import { partReparented } from './reparent'
import { poseChanged, poseMoved } from './pose'
import { translation } from '../geometry'

const SIZE = { width: 640, height: 400 }
const box = { left: 0, top: 0, right: SIZE.width, bottom: SIZE.height }

/** A shape about (300, 200), keyed twice. */
const shape = testShape('outline', 'coat', [1001, 1021], 7, 40)
const plain = documentOf([testShot, testSubject, testPart('coat', { depth: 1, pivot: [300, 200] }), shape])
const coat = (of: RotoDocument) => findObject(of, 'part', 'coat')!

function withInstance(document: RotoDocument, mirror: Parameters<typeof instanceMade>[3] = null, name = 'again') {
  const { part, patches } = instanceMade(document, coat(document), name, mirror, 1001)
  return { document: withPatches(document, patches), id: part.id }
}
const partOf = (document: RotoDocument, id: string) => findObject(document, 'part', id)!

/** Corners of what a Part shows, x0, y0, x1, y1 ... */
function placesOf(document: RotoDocument, part: Part, time: number): number[] {
  const { shapes, mapAt } = shownShapesOf(document, part)
  return shapes.flatMap((one: Shape) =>
    areasAt(document, one, time, mapAt?.(time)).flatMap(
      (outline) =>
      Array.from({ length: outline.length / 3 }, (_, i) => [outline[3 * i]! / outline[3 * i + 2]!, outline[3 * i + 1]! / outline[3 * i + 2]!]).flat(), // prettier-ignore
    ),
  )
}

const moved = (document: RotoDocument, part: Part, frame: number, dx: number, dy: number) =>
  poseChanged(document, part, frame, poseMoved(document, part, frame, dx, dy)!)

const worst = (a: readonly number[], b: readonly number[]) =>
  a.reduce((most, value, i) => Math.max(most, Math.abs(value - b[i]!)), a.length === b.length ? 0 : Infinity)

const matteOf = (document: RotoDocument, partId: string, frame = 1011) =>
  renderMattes(sceneAt(document, frame), [{ partId, withHoldouts: false }], { box, motionBlur: true })![0]!

describe('an instance', () => {
  it('of some shapes shows these alone, and broken off keeps these', () => {
    const sleeve = testShape('sleeve', 'coat', [1001], 5, 25)
    const two = withPatches(plain, [{ kind: 'object', id: 'sleeve', before: null, after: { ...sleeve, order: 1 } }])
    const { part, patches } = instanceMade(two, coat(two), 'sleeve again', null, 1001, ['sleeve'])
    const document = withPatches(two, patches)
    const shown = (of: RotoDocument) => shownShapesOf(of, partOf(of, part.id)).shapes.map(({ name }) => name)
    expect(shown(document)).toEqual(['sleeve'])
    // What is drawn later is none of them.
    const more = withPatches(document, [{ kind: 'object', id: 'cuff', before: null, after: testShape('cuff', 'coat', [1001]) }]) // prettier-ignore
    expect(shown(more)).toEqual(['sleeve'])
    const free = withPatches(more, brokenOff(more, partOf(more, part.id), [1001, 1021]))
    expect(shown(free)).toEqual(['sleeve'])
    expect(worst(placesOf(free, partOf(free, part.id), 1005), placesOf(more, partOf(more, part.id), 1005))).toBeLessThan(1e-6) // prettier-ignore
    // Deleted, it shows nothing, and says so with an empty matte.
    const gone = withPatches(document, objectsDeleted(document, ['sleeve']))
    expect(shown(gone)).toEqual([])
    expect(matteOf(gone, part.id).every((alpha) => alpha === 0)).toBe(true)
  })

  it('shows what it follows, and follows each edit and its undoing', () => {
    const { document, id } = withInstance(plain)
    expect(placesOf(document, partOf(document, id), 1011)).toEqual(placesOf(document, coat(document), 1011))
    const edited = withPatches(document, formChanged(shape, 1011, movedOnPlate(document, shape, 1011, () => 1, translation(7, -3)))) // prettier-ignore
    expect(placesOf(edited, partOf(edited, id), 1011)).toEqual(placesOf(edited, coat(edited), 1011))
    expect(worst(placesOf(edited, partOf(edited, id), 1011), placesOf(document, coat(document), 1011))).toBeGreaterThan(
      2,
    )
    // Undone, the original is as it was, and so is what follows it.
    const undone = withPatches(edited, [{ kind: 'object', id: 'outline', before: findObject(edited, 'shape', 'outline')!, after: shape }]) // prettier-ignore
    expect(placesOf(undone, partOf(undone, id), 1011)).toEqual(placesOf(document, coat(document), 1011))
    expect(matteOf(document, id)).toEqual(matteOf(document, 'coat'))
  })

  it('has a pose, a life, a blur and a Mover of its own', () => {
    const { document, id } = withInstance(plain)
    const posed = withPatches(document, moved(document, partOf(document, id), 1011, 25, 10))
    const [from, to] = [placesOf(posed, coat(posed), 1011), placesOf(posed, partOf(posed, id), 1011)]
    to.forEach((value, i) => expect(value - from[i]!).toBeCloseTo(i % 2 ? 10 : 25, 6))
    // Moved by a track it no longer goes where the original goes, but keeps its form.
    const track = testTrack('track')
    const samples = Array.from({ length: 21 }, (_, i) => unmeasuredSample(1001 + i, 'tracked', translation(4 * i, i)))
    let ridden = documentOf([...document.objects.values(), track])
    ridden = withPatches(ridden, patchesForSamples(track, samples))
    ridden = withPatches(ridden, moverAttached(ridden, partOf(ridden, id), 'track', 1001))
    expect(worst(placesOf(ridden, partOf(ridden, id), 1001), placesOf(ridden, coat(ridden), 1001))).toBeLessThan(1e-9)
    const [own, its] = [placesOf(ridden, coat(ridden), 1011), placesOf(ridden, partOf(ridden, id), 1011)]
    its.forEach((value, i) => expect(value - own[i]!).toBeCloseTo(i % 2 ? 10 : 40, 6))
    const short = { ...partOf(document, id), life: [1001, 1005] as [number, number], channels: { blur: constantChannel(3) } } // prettier-ignore
    const lived = withPatches(document, [{ kind: 'object', id, before: partOf(document, id), after: short }])
    expect(sceneAt(lived, 1011).parts.map((part) => part.id)).toEqual(['coat'])
    expect(sceneAt(lived, 1003).parts.find((part) => part.id === id)!.finish!.blur).toBe(3)
  })

  it('may follow another instance, never itself', () => {
    const first = withInstance(plain)
    const { part, patches } = instanceMade(first.document, partOf(first.document, first.id), 'third', null, 1001)
    const document = withPatches(first.document, patches)
    expect(placesOf(document, partOf(document, part.id), 1011)).toEqual(placesOf(document, coat(document), 1011))
    const follow = (id: string, of: string): Patch => ({ kind: 'object', id, before: partOf(document, id), after: { ...partOf(document, id), instance: { of, shapeIds: null, withParent: false, mirror: null } } }) // prettier-ignore
    expect(() => withPatches(document, [follow('coat', part.id)])).toThrow(/follow itself/)
    expect(() => withPatches(document, [follow(first.id, first.id)])).toThrow(/follow itself/)
    // Carried by what follows it: the same circle by another way.
    expect(() => withPatches(document, [{ kind: 'object', id: 'coat', before: coat(document), after: { ...coat(document), parentId: part.id } }])).toThrow(/follow itself/) // prettier-ignore
  })

  it('goes with what it follows when that is deleted', () => {
    const { document, id } = withInstance(plain)
    const without = withPatches(document, objectsDeleted(document, ['coat']))
    expect(without.objects.has(id)).toBe(false)
  })
})

describe('a Subject that is shown again', () => {
  const sleeve = testShape('sleeve', 'arm', [1001, 1021], 5, 25)
  const two = documentOf([
    testShot,
    testSubject,
    testPart('coat', { depth: 1, pivot: [300, 200] }),
    // In front of the coat until 1011, behind it from then on.
    testPart('arm', {
      pivot: [280, 180],
      channels: {
        depth: {
          keys: [
            { time: 1001, interpolation: 'hold', values: Float64Array.of(0) },
            { time: 1011, interpolation: 'hold', values: Float64Array.of(2) },
          ],
        },
      },
    }),
    { ...testSubject, id: 'other' },
    testPart('wall', { depth: 3, subjectId: 'other' }),
    shape,
    sleeve,
  ])
  const made = (document: RotoDocument) => {
    const subject = findObject(document, 'subject', testSubject.id)
    const { carrier, patches } = subjectInstanced(
      document,
      subject!,
      { ...subject!, id: 'again', name: 'again' },
      ({ name }) => `${name} again`,
      1005,
    )!
    const after = withPatches(document, patches)
    const follower = (of: string) =>
      allOf(after, 'part').find((part) => part.subjectId === 'again' && part.instance?.of === of)!
    return { document: after, carrierId: carrier.id, armId: follower('arm').id, coatId: follower('coat').id }
  }

  it('follows each Part where it is, behind them all and in their order on every frame', () => {
    const { document, armId, coatId, carrierId } = made(two)
    for (let frame = 1001; frame <= 1021; frame += 2.5) {
      expect(placesOf(document, partOf(document, armId), frame)).toEqual(
        placesOf(document, partOf(document, 'arm'), frame),
      )
      const order = partsByDepth(document, frame).map(({ id }) => id).filter((id) => id !== carrierId) // prettier-ignore
      const own = partsByDepth(two, frame).map(({ id }) => id)
      const [arm, coat] = [own.indexOf('arm'), own.indexOf('coat')]
      expect(order.indexOf(armId) < order.indexOf(coatId)).toBe(arm < coat)
      expect(Math.min(order.indexOf(armId), order.indexOf(coatId))).toBeGreaterThan(Math.max(order.indexOf('arm'), order.indexOf('coat'))) // prettier-ignore
      expect(order.at(-1)).toBe('wall')
    }
  })

  it('is placed, moved by a track and turned as one by the Part that carries it, and each Part still by itself', () => {
    const track = testTrack('track')
    const samples = Array.from({ length: 21 }, (_, i) => unmeasuredSample(1001 + i, 'tracked', translation(4 * i, i)))
    const start = made(two)
    let document = documentOf([...start.document.objects.values(), track])
    document = withPatches(document, patchesForSamples(track, samples))
    document = withPatches(document, moverAttached(document, partOf(document, start.carrierId), 'track', 1001))
    document = withPatches(document, moved(document, partOf(document, start.carrierId), 1001, 100, -20))
    document = withPatches(document, moved(document, partOf(document, start.armId), 1001, 3, 0))
    for (const [id, of, dx] of [[start.coatId, 'coat', 140], [start.armId, 'arm', 143]] as const) {
      const from = placesOf(document, partOf(document, of), 1011)
      placesOf(document, partOf(document, id), 1011).forEach((value, i) => expect(value - from[i]!).toBeCloseTo(i % 2 ? -10 : dx, 6))
    } // prettier-ignore
    // Broken off it stays where it was, and no longer follows.
    const free = withPatches(document, brokenOff(document, partOf(document, start.armId), [1001, 1021]))
    for (let frame = 1001; frame <= 1021; frame += 4)
      expect(worst(placesOf(free, partOf(free, start.armId), frame), placesOf(document, partOf(document, start.armId), frame))).toBeLessThan(1e-6) // prettier-ignore
    // Taken off its carrier it lies where what it follows is, and its pivot with it.
    const loose = withPatches(document, partReparented(document, partOf(document, start.coatId), null, 1011)!)
    expect(placesOf(loose, partOf(loose, start.coatId), 1011)).toEqual(placesOf(loose, coat(loose), 1011))
    expect(partOf(loose, start.coatId).pivot).toEqual(partOf(document, start.coatId).pivot)
  })

  it('needs Parts, and goes when those go that it follows', () => {
    const bare = documentOf([testShot, testSubject])
    expect(subjectInstanced(bare, testSubject, { ...testSubject, id: 'again' }, ({ name }) => name, 1001)).toBeNull()
    const { document, armId, coatId, carrierId } = made(two)
    const without = withPatches(document, objectsDeleted(document, ['arm']))
    expect([armId, coatId, carrierId].map((id) => without.objects.has(id))).toEqual([false, true, true])
    // A circle through what carries it is refused as any other.
    expect(() => withPatches(document, [{ kind: 'object', id: 'coat', before: coat(document), after: { ...coat(document), parentId: carrierId, instance: { of: coatId, shapeIds: null, withParent: true, mirror: null } } }])).toThrow(/follow itself/) // prettier-ignore
  })
})

describe('a mirror image', () => {
  const upright = { line: Float64Array.of(320, 0, 320, 100), referenceFrame: 1001, trackId: null }

  it('about an upright line is the matte turned round, pixel by pixel, motion blur and all', () => {
    const { document, id } = withInstance(plain, upright)
    const [own, its] = [matteOf(document, 'coat'), matteOf(document, id)]
    let largest = 0
    for (let y = 0; y < SIZE.height; y++) {
      for (let x = 0; x < SIZE.width; x++) {
        largest = Math.max(largest, Math.abs(its[y * SIZE.width + x]! - own[y * SIZE.width + 639 - x]!))
      }
    }
    expect(largest).toBeLessThan(2e-6)
    expect(own.reduce((a, b) => a + b, 0)).toBeGreaterThan(1000)
  })

  it('lies on the other side, as far away, straight across: on an anamorphic plate in square pixels', () => {
    for (const aspect of [1, 2]) {
      const line = [100, 50, 300, 250]
      const reflection = reflectionAbout(line, aspect)
      for (const [x, y] of [[120, 200], [0, 0], [333, 17]] as const) {
        const [rx, ry] = applyToPoint(reflection, x, y)
        const square = (px: number, py: number) => [px * aspect, py] as const
        const [a, b, p, q] = [square(line[0]!, line[1]!), square(line[2]!, line[3]!), square(x, y), square(rx!, ry!)]
        const along = [b[0] - a[0], b[1] - a[1]]
        // The way to the image is at right angles to the line, and its middle lies on the line.
        expect((q[0] - p[0]) * along[0]! + (q[1] - p[1]) * along[1]!).toBeCloseTo(0, 6)
        const [mx, my] = [(p[0] + q[0]) / 2 - a[0], (p[1] + q[1]) / 2 - a[1]]
        expect(mx * along[1]! - my * along[0]!).toBeCloseTo(0, 6)
        const [bx, by] = applyToPoint(reflection, rx!, ry!)
        expect([bx, by]).toEqual([expect.closeTo(x, 9), expect.closeTo(y, 9)])
      } // prettier-ignore
    }
  })

  it('its line goes along with a track, and can be laid elsewhere', () => {
    const track = testTrack('plane')
    const samples = Array.from({ length: 21 }, (_, i) => unmeasuredSample(1001 + i, 'tracked', translation(3 * i, 0)))
    let document = documentOf([...plain.objects.values(), track])
    document = withPatches(document, patchesForSamples(track, samples))
    const { document: reflected, id } = withInstance(document, { ...upright, trackId: 'plane' })
    const [own, its] = [placesOf(reflected, coat(reflected), 1011), placesOf(reflected, partOf(reflected, id), 1011)]
    // The line stands at 320 + 30 there.
    own.forEach((value, i) => expect(its[i]).toBeCloseTo(i % 2 ? value : 700 - value, 6))
    const laid = withPatches(reflected, mirrorSet(partOf(reflected, id), { ...upright, line: Float64Array.of(0, 250, 10, 250) })) // prettier-ignore
    const below = placesOf(laid, partOf(laid, id), 1011)
    placesOf(laid, coat(laid), 1011).forEach((value, i) => expect(below[i]).toBeCloseTo(i % 2 ? 500 - value : value, 6)) // prettier-ignore
  })
})

describe('broken off', () => {
  it.each([['an instance', null], ['a reflection', { line: Float64Array.of(280, 40, 330, 260), referenceFrame: 1001, trackId: null }]] as const)(
    '%s stays where it was on every frame, and no longer follows',
    (_, mirror) => {
      const made = withInstance(plain, mirror)
      // Posed on two frames, of an original that is posed itself.
      let document = withPatches(made.document, moved(made.document, coat(made.document), 1001, 5, 0))
      document = withPatches(document, moved(document, coat(document), 1015, 30, -12))
      document = withPatches(document, moved(document, partOf(document, made.id), 1001, 0, 4))
      document = withPatches(document, moved(document, partOf(document, made.id), 1021, 14, 9))
      const free = withPatches(document, brokenOff(document, partOf(document, made.id), [1001, 1021]))
      const own = partOf(free, made.id)
      expect(own.instance).toBeNull()
      for (let frame = 1001; frame <= 1021; frame++) {
        const [before, after] = [placesOf(document, partOf(document, made.id), frame), placesOf(free, own, frame)]
        expect(worst(before, after)).toBeLessThan(1e-6)
      }
      const edited = withPatches(free, moved(free, coat(free), 1011, 50, 50))
      expect(placesOf(edited, partOf(edited, made.id), 1011)).toEqual(placesOf(free, own, 1011))
      expect(Number.isFinite(worldAt(free, own, 1010.5)[0]!)).toBe(true)
    },
  ) // prettier-ignore
})
