import { describe, expect, it } from 'vitest'
import { type Shape } from '@tender-lasso/core/document'
import { documentOf, testPart, testShape, testShot, testSubject } from '@tender-lasso/core/document/testDocuments'
import { sceneAt } from '@tender-lasso/core/evaluation'
import { SEGMENT, SEGMENT_STRIDE, type HomogeneousOutline } from '@tender-lasso/core/spline'
import { eased } from './keyframes'
import { LOTTIE_POINT_STRIDE, readLottie, writeLottie, type ReadOutline } from './index'

const square = { c: true, v: [[10, 20], [30, 20], [30, 40], [10, 40]], i: [[0, 0], [0, 0], [0, 0], [0, 0]], o: [[5, 0], [0, 0], [0, 0], [0, 0]] } // prettier-ignore
const still = (k: unknown) => ({ a: 0, k })
const shapeLayer = (change: object = {}) => ({ ty: 4, nm: 'coat', ip: 0, op: 10, ks: {}, shapes: [{ ty: 'gr', it: [{ ty: 'sh', nm: 'outline', ks: still(square) }, { ty: 'fl' }] }], ...change }) // prettier-ignore
const file = (...layers: object[]) => JSON.stringify({ v: '5.7.0', nm: 'trial', fr: 24, ip: 0, op: 10, w: 96, h: 72, layers }) // prettier-ignore
const onlyOutline = (text: string): ReadOutline => readLottie(text).layers[0]!.outlines[0]!
const placesOf = ({ keys }: ReadOutline, n = 0) =>
  Array.from({ length: keys[n]!.values.length / LOTTIE_POINT_STRIDE }, (_, i) => keys[n]!.values.slice(i * LOTTIE_POINT_STRIDE, i * LOTTIE_POINT_STRIDE + 2)) // prettier-ignore

describe('a Lottie file', () => {
  it('gives back what we wrote, on every frame', () => {
    const moving = testShape('a', 'coat', [1001, 1006], 6, 20)
    const [key] = moving.channels.outline!.keys
    key!.interpolation = 'linear'
    const hole: Shape = { ...testShape('b', 'coat', [1001], 5, 8), order: 1, operation: 'subtract', life: [1003, 1008] }
    const document = documentOf([testShot, testSubject, testPart('coat'), moving, hole])
    const frames = Array.from({ length: 10 }, (_, i) => ({ frame: 1001 + i, scene: sceneAt(document, 1001 + i) }))
    const { width, height, pixelAspect, rate } = testShot
    const { text, deviation } = writeLottie({ title: 'WS', width, height, pixelAspect, rate, frames, nameOf: (name) => ({ name, colour: '#ffffff' }) }) // prettier-ignore
    const read = readLottie(text)
    expect(read).toMatchObject({ name: 'WS', framesPerSecond: 24, frames: 10, lost: [] })
    // The layer that is there before the hole, the one with it, and the one after.
    expect(read.layers.map(({ outlines }) => outlines.map(({ operation, life }) => [operation, ...life]))).toEqual([[['add', 0, 1]], [['add', 2, 7], ['subtract', 2, 7]], [['add', 8, 9]]]) // prettier-ignore
    for (const { frame, scene } of frames) {
      const there = read.layers.flatMap(({ outlines }) => outlines).filter(({ life: [from, to] }) => from <= frame - 1001 && frame - 1001 <= to) // prettier-ignore
      const ours = scene.parts[0]!.groups.flatMap(({ outlinesAt }) => outlinesAt(0.5))
      expect(there).toHaveLength(ours.length)
      there.forEach((outline, n) => expect(farthest(outline, frame - 1001, ours[n]!)).toBeLessThan(deviation + 1e-3))
    }
  })

  it('has keys of its own, holds, and ways of our kinds; other ways become frames', () => {
    const to = { ...square, v: square.v.map(([x, y]) => [x! + 9, y]) }
    const keyed = (easing: object) => shapeLayer({ shapes: [{ ty: 'sh', ks: { a: 1, k: [{ t: 0, s: [square], ...easing }, { t: 9, s: [to] }] } }] }) // prettier-ignore
    const kinds = (easing: object) => onlyOutline(file(keyed(easing))).keys.map(({ frame, interpolation }) => [frame, interpolation]) // prettier-ignore
    expect(kinds({ h: 1 })).toEqual([[0, 'hold'], [9, 'linear']]) // prettier-ignore
    expect(kinds({})).toEqual([[0, 'linear'], [9, 'linear']]) // prettier-ignore
    expect(kinds({ o: { x: [0.333], y: [0] }, i: { x: [0.667], y: [1] } })).toEqual([[0, 'ease'], [9, 'linear']]) // prettier-ignore
    const odd = onlyOutline(file(keyed({ o: { x: 0.8, y: 0 }, i: { x: 0.9, y: 0.4 } })))
    expect(odd.keys.length).toBeGreaterThan(5)
    for (const { frame, values } of odd.keys) expect(values[0]).toBeCloseTo(10 + 9 * eased([0.8, 0, 0.9, 0.4], frame / 9), 6) // prettier-ignore
    // CSS Easing Functions: ease-in-out is half way at half of the time, and its curve through it has a known slope.
    expect(eased([0.42, 0, 0.58, 1], 0.5)).toBeCloseTo(0.5, 9)
    expect(eased([0.25, 0.25, 0.75, 0.75], 0.3)).toBeCloseTo(0.3, 9)
  })

  it('is where its transforms put it, in still ones by its keys, in moving ones frame by frame', () => {
    const ks = { a: still([10, 20, 0]), p: still([100, 50, 0]), s: still([200, 100, 100]), r: still(90) }
    // About (10, 20): twice as wide, turned by a quarter, to (100, 50).
    const turned = onlyOutline(file(shapeLayer({ ks })))
    expect(placesOf(turned).map((one) => one.map((value) => Number(value.toFixed(6)) + 0))).toEqual([[100, 50], [100, 90], [80, 90], [80, 50]]) // prettier-ignore
    expect(turned.keys[0]!.values.slice(4, 6).map((value) => Number(value.toFixed(6)) + 0)).toEqual([0, 10])
    const group = {
      ty: 'gr',
      it: [
        { ty: 'sh', ks: still(square) },
        { ty: 'tr', p: still([3, 4]) },
      ],
    }
    const inner = onlyOutline(file(shapeLayer({ ks: { p: still([100, 0]) }, shapes: [group] })))
    expect(placesOf(inner)[0]).toEqual([113, 24])
    const going = {
      p: {
        s: true,
        x: {
          a: 1,
          k: [
            { t: 0, s: [0] },
            { t: 9, s: [90] },
          ],
        },
        y: still(7),
      },
    }
    const moved = onlyOutline(file(shapeLayer({ ks: going })))
    expect(moved.keys.map(({ frame }) => frame)).toEqual([0, 9])
    expect(placesOf(moved, 1)[0]).toEqual([100, 27])
  })

  it('has masks in place of shapes, with what they do, opacity and life', () => {
    const masks = ['a', 's', 'i', 'f', 'n'].map((mode) => ({ mode, pt: still(square), o: still(40), nm: mode }))
    const { layers, lost } = readLottie(file(shapeLayer({ ip: 2, op: 5, masksProperties: [...masks, { mode: 'a', inv: true, pt: still(square) }] }))) // prettier-ignore
    expect(layers[0]!.outlines.map(({ operation }) => operation)).toEqual(['add', 'subtract', 'intersect', 'difference']) // prettier-ignore
    expect(layers[0]!.outlines[0]).toMatchObject({ life: [2, 4], opacity: [{ frame: 2, value: 0.4 }] })
    expect(lost).toEqual(['inverted masks'])
  })

  it('tells what it passes over', () => {
    const parts = [{ ty: 'rc' }, { ty: 'tm' }, { ty: 'xx' }, { ty: 'sh', ks: still(square) }, { ty: 'sh', hd: true }]
    const { lost } = readLottie(file({ ty: 2, ip: 0, op: 1 }, shapeLayer({ parent: 3, shapes: parts })))
    expect(lost).toEqual(['layers that are no shapes', 'parents of layers', 'rectangles', 'trimmed paths', 'shapes of kind xx']) // prettier-ignore
  })

  it('that is none, or hostile, is refused with the first thing that is wrong', () => {
    const refused = (text: string) => {
      try {
        readLottie(text)
      } catch (error) {
        return (error as Error).message
      }
      return 'read'
    }
    expect(refused('{')).toContain('its JSON is broken')
    expect(refused('[]')).toContain('no Lottie file')
    expect(refused(file())).toContain('no path')
    expect(refused(file(shapeLayer({ ip: 'x' })))).toContain('layers.0.ip')
    expect(refused(file(shapeLayer({ shapes: [{ ty: 'sh', ks: still({ ...square, o: [] }) }] })))).toContain('tangents for each') // prettier-ignore
    expect(refused(file(shapeLayer({ shapes: [{ ty: 'sh', ks: { k: [{ t: 5, s: [square] }, { t: 1, s: [square] }] } }] })))).toContain('comes before') // prettier-ignore
    expect(refused(file(shapeLayer({ shapes: [{ ty: 'sh', ks: still({ ...square, v: [[1e300, 0], [0, 0], [0, 0], [0, 0]] }) }] })))).toContain('coat') // prettier-ignore
    let deep: object = { ty: 'sh', ks: still(square) }
    for (let n = 0; n < 40; n++) deep = { ty: 'gr', it: [deep] }
    expect(refused(file(shapeLayer({ shapes: [deep] })))).toContain('nested more than 16 deep')
    expect(refused(JSON.stringify({ fr: 24, ip: 0, op: 1e6, layers: [] }))).toContain('frames')
  })
})

/** Largest distance of read corners, on a frame, from the nearest of ours. */
function farthest({ keys }: ReadOutline, frame: number, outline: HomogeneousOutline): number {
  let n = 0
  while (n + 1 < keys.length && keys[n + 1]!.frame <= frame) n++
  const [from, to] = [keys[n]!, keys[n + 1]]
  const share = to && frame > from.frame ? (frame - from.frame) / (to.frame - from.frame) : 0
  const values = from.values.map((value, i) => value + ((to?.values[i] ?? value) - value) * share)
  let most = 0
  for (let i = 0; i < values.length; i += LOTTIE_POINT_STRIDE) {
    let least = Infinity
    for (let s = 0; s < outline.length; s += SEGMENT_STRIDE) {
      const [x, y, w] = outline.slice(s + SEGMENT.anchor, s + SEGMENT.anchor + 3)
      least = Math.min(least, Math.hypot(values[i]! - x! / w!, values[i + 1]! - y! / w!))
    }
    most = Math.max(most, least)
  }
  return most
}
