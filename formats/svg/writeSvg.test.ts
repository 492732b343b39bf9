import { Resvg } from '@resvg/resvg-js'
import { describe, expect, it } from 'vitest'
import { constantChannel, POINT, POINT_STRIDE, type Shape } from '@tender-lasso/core/document'
import { documentOf, testPart, testShape, testShot, testSubject } from '@tender-lasso/core/document/testDocuments'
import { sceneAt } from '@tender-lasso/core/evaluation'
import { homogeneousOutline, rationalPoint } from '@tender-lasso/core/spline'
import { renderMattes, type LayerOperation, type Scene } from '@tender-lasso/core/raster'
import { cubicOutline } from '../outlines'
import { pathData } from './pathData'
import { readSvg, writeSvg } from './index'

const [width, height] = [96, 72]
const box = { left: 0, top: 0, right: width, bottom: height }
const ZOOM = 16

/** A round outline about a place of the small picture. */
function round(id: string, x: number, y: number, radius: number, change: Partial<Shape> = {}): Shape {
  const shape = testShape(id, 'coat', [1001], 8, radius)
  for (const key of shape.channels.outline.keys) {
    for (let p = 0; p < shape.pointIds.length; p++) {
      key.values[p * POINT_STRIDE]! += x - 300
      key.values[p * POINT_STRIDE + 1]! += y - 200
    }
  }
  return { ...shape, ...change }
}

const sceneOf = (shapes: readonly Shape[]) =>
  sceneAt(documentOf([{ ...testShot, width, height }, testSubject, testPart('coat'), ...shapes]), 1001)

const shotOf = (scenes: readonly Scene[]) => ({
  title: 'WS & <010>',
  width,
  height,
  pixelAspect: 1,
  rate: { numerator: 24, denominator: 1 },
  nameOf: (id: string) => ({ name: `"${id}"`, colour: '#ffffff' }),
  frames: scenes.map((scene, i) => ({ frame: 1001 + i, scene })),
})

/** What resvg draws, sixteen times as large and brought down by the mean: its own edges are of sixteen steps. */
function drawn(svg: string): Float32Array {
  const picture = new Resvg(svg, { fitTo: { mode: 'zoom', value: ZOOM } }).render()
  const { pixels } = picture
  const alpha = new Float32Array(width * height)
  for (let y = 0; y < height * ZOOM; y++) {
    for (let x = 0; x < width * ZOOM; x++) {
      alpha[Math.floor(y / ZOOM) * width + Math.floor(x / ZOOM)]! +=
        pixels[4 * (y * width * ZOOM + x) + 3]! / (255 * ZOOM * ZOOM)
    }
  }
  return alpha
}

const worst = (a: Float32Array, b: Float32Array) =>
  a.reduce((most, value, i) => Math.max(most, Math.abs(value - b[i]!)), 0)
const matteOf = (scene: Scene) =>
  renderMattes(scene, [{ partId: 'coat', withHoldouts: false }], { box, motionBlur: false })![0]!

/** @param isLeftOut  pixels of which our own layers are products of coverages, which an area is not */
function expectSame(scene: Scene, isLeftOut: (pixel: number) => boolean = () => false) {
  const { text, deviation } = writeSvg(shotOf([scene]))
  const matte = matteOf(scene)
  expect(matte.reduce((sum, value) => sum + value, 0)).toBeGreaterThan(50)
  const picture = drawn(text).map((alpha, i) => (isLeftOut(i) ? matte[i]! : alpha))
  expect(worst(picture, matte)).toBeLessThan(2.5 / 255)
  expect(deviation).toBeLessThan(0.25)
}

describe('SVG drawn by resvg against our own matte', () => {
  const big = round('big', 40.3, 35.7, 24)
  const small = round('small', 52.6, 30.2, 13)

  it('an outline, and two that overlap, whichever way round each runs', () => {
    expectSame(sceneOf([big]))
    expectSame(sceneOf([big, small]))
    const other = structuredClone(small)
    for (const key of other.channels.outline.keys) {
      // Mirrored, it runs the other way round.
      for (let at = 0; at < key.values.length; at += POINT_STRIDE) {
        key.values[at] = 105 - key.values[at]!
        key.values[at + POINT.inX] = -key.values[at + POINT.inX]!
        key.values[at + POINT.outX] = -key.values[at + POINT.outX]!
      }
    }
    expectSame(sceneOf([big, other]))
  })

  it.each<LayerOperation>(['subtract', 'intersect', 'difference'])('a layer that is to %s', (operation) => {
    const layers = [big, small].map((shape) => matteOf(sceneOf([shape])))
    const isCrossed = (i: number) => layers.every((alpha) => alpha[i]! > 0 && alpha[i]! < 1)
    expect(layers[0]!.filter((_, i) => isCrossed(i)).length).toBeLessThan(30)
    expectSame(sceneOf([big, { ...small, order: 1, operation }]), isCrossed)
  })

  it('a B-spline and a stroke', () => {
    expectSame(sceneOf([{ ...big, curve: 'bspline' }]))
    const stroke = round('stroke', 45, 35, 22, { isClosed: false })
    for (const key of stroke.channels.outline.keys) for (let at = 0; at < key.values.length; at += POINT_STRIDE) key.values[at + POINT.width] = 7 // prettier-ignore
    expectSame(sceneOf([stroke]))
  })

  it('a shape under perspective, by more pieces than it has points', () => {
    const values = big.channels.outline.keys[0]!.values
    const map = Float64Array.of(1.1, 0.1, -4, 0.05, 1, -2, 0.006, -0.004, 0.9)
    const outline = homogeneousOutline(values, POINT_STRIDE, map)
    const scene: Scene = {
      parts: [
        {
          id: 'coat',
          holdsOut: false,
          groups: [{ edge: { innerFeather: 0, outerFeather: 0, grow: 0 }, opacity: 1, outlinesAt: () => [outline] }],
        },
      ],
    }
    expectSame(scene)
    const { corners, deviation } = cubicOutline(outline)
    const data = pathData(corners)
    expect(deviation).toBeLessThan(0.006)
    expect(data.match(/C/g)!.length).toBeGreaterThan(8)
    // Read back, its curve lies on ours.
    const [read] = readSvg(`<svg xmlns="http://www.w3.org/2000/svg"><path d="${data}"/></svg>`)
    for (const { x, y } of read!.points) {
      let least = Infinity
      for (let i = 0; i < 8; i++) for (let t = 0; t < 1; t += 1 / 512) {
        const [px, py] = rationalPoint(outline, i, t)
        least = Math.min(least, Math.hypot(px - x, py - y))
      } // prettier-ignore
      expect(least).toBeLessThan(0.06)
    }
  })
})

describe('what an SVG says', () => {
  it('names and titles are escaped, and what it cannot hold is told', () => {
    const soft = {
      ...round('big', 40, 35, 20),
      channels: { ...round('big', 40, 35, 20).channels, outerFeather: constantChannel(4) },
    }
    const { text, lost } = writeSvg(shotOf([sceneOf([soft])]))
    expect(lost).toEqual(['feather'])
    expect(text).toContain('<title>WS &amp; &lt;010&gt;, 1001</title>')
    expect(text).toContain('id="&quot;coat&quot;"')
  })

  it('frames are the values of an animation, each what that frame is by itself', () => {
    const scenes = [0, 5, 9].map((way) => sceneOf([round('big', 40 + way, 35, 20)]))
    const empty = sceneOf([])
    const { text } = writeSvg(shotOf([...scenes, empty]))
    const values = /values="([^"]*)"/.exec(text)![1]!.split(';')
    const alone = [...scenes].map((scene) => / d="([^"]*)"/.exec(writeSvg(shotOf([scene])).text)![1])
    expect(values).toEqual([...alone, 'M0 0Z'])
    expect(text).toContain(`dur="${4 / 24}s"`)
  })
})
