import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { DotLottie } from '@lottiefiles/dotlottie-web'
import { beforeAll, describe, expect, it } from 'vitest'
import { constantChannel, POINT, POINT_STRIDE, type Shape } from '@tender-lasso/core/document'
import { documentOf, testPart, testShape, testShot, testSubject } from '@tender-lasso/core/document/testDocuments'
import { sceneAt } from '@tender-lasso/core/evaluation'
import { homogeneousOutline } from '@tender-lasso/core/spline'
import { renderMattes, type LayerOperation, type Scene } from '@tender-lasso/core/raster'
import { writeLottie } from './index'

const [width, height] = [96, 72]
const box = { left: 0, top: 0, right: width, bottom: height }
const ZOOM = 16

/** A round outline about a place of the small picture, moving on by `way` each frame. */
function round(id: string, x: number, y: number, radius: number, change: Partial<Shape> = {}, way = 0): Shape {
  const shape = testShape(id, 'coat', way ? [1001, 1005] : [1001], 8, radius)
  shape.channels.outline!.keys.forEach((key, k) => {
    key.interpolation = 'linear'
    for (let p = 0; p < shape.pointIds.length; p++) {
      key.values[p * POINT_STRIDE]! += x - 300 + k * (4 * way - 3)
      key.values[p * POINT_STRIDE + 1]! += y - 200
    }
  })
  return { ...shape, ...change }
}

const documentWith = (shapes: readonly Shape[], change = {}) =>
  documentOf([{ ...testShot, width, height }, testSubject, testPart('coat', change), ...shapes])
const shotOf = (scenes: readonly Scene[]) => ({
  title: 'WS 010',
  width,
  height,
  pixelAspect: 1,
  rate: { numerator: 24, denominator: 1 },
  nameOf: (id: string) => ({ name: id, colour: '#ffffff' }),
  frames: scenes.map((scene, i) => ({ frame: 1001 + i, scene })),
})

beforeAll(() => {
  const player = createRequire(import.meta.url).resolve('@lottiefiles/dotlottie-web')
  const wasm = readFileSync(new URL('./dotlottie-player.wasm', `file://${player}`))
  DotLottie.setWasmUrl(`data:application/wasm;base64,${wasm.toString('base64')}`)
})

/** Frames as an independent player draws them, sixteen times as large and brought down by the mean. */
async function drawn(text: string, frames: readonly number[]): Promise<Float32Array[]> {
  const canvas = { width: width * ZOOM, height: height * ZOOM }
  const player = new DotLottie({ canvas, data: text, autoplay: false, useFrameInterpolation: false })
  await new Promise<void>((resolve, reject) => {
    player.addEventListener('load', () => resolve())
    player.addEventListener('loadError', ({ error }) => reject(error))
  })
  const pictures = frames.map((frame) => {
    player.setFrame(frame)
    const pixels = player.buffer!
    const alpha = new Float32Array(width * height)
    for (let y = 0; y < height * ZOOM; y++) {
      for (let x = 0; x < width * ZOOM; x++) {
        const at = Math.floor(y / ZOOM) * width + Math.floor(x / ZOOM)
        alpha[at]! += pixels[4 * (y * width * ZOOM + x) + 3]! / (255 * ZOOM * ZOOM)
      }
    }
    return alpha
  })
  player.destroy()
  return pictures
}

const worst = (a: Float32Array, b: Float32Array) =>
  a.reduce((most, value, i) => Math.max(most, Math.abs(value - b[i]!)), 0)
const matteOf = (scene: Scene) =>
  renderMattes(scene, [{ partId: 'coat', withHoldouts: false }], { box, motionBlur: false })![0]!

async function expectSame(scenes: readonly Scene[], isLeftOut: (pixel: number) => boolean = () => false) {
  const { text, deviation } = writeLottie(shotOf(scenes))
  expect(deviation).toBeLessThan(0.25)
  const pictures = await drawn(text, scenes.map((_, i) => i)) // prettier-ignore
  scenes.forEach((scene, i) => {
    const matte = matteOf(scene)
    expect(matte.reduce((sum, value) => sum + value, 0)).toBeGreaterThan(50)
    expect(worst(pictures[i]!.map((alpha, at) => (isLeftOut(at) ? matte[at]! : alpha)), matte)).toBeLessThan(2 / 255) // prettier-ignore
  })
}

describe('Lottie drawn by an independent player against our own matte', () => {
  const big = round('big', 40.3, 35.7, 24)
  const small = round('small', 52.6, 30.2, 13)
  const sceneOf = (shapes: readonly Shape[]) => sceneAt(documentWith(shapes), 1001)

  it('an outline, and two that overlap', async () => {
    await expectSame([sceneOf([big])])
    await expectSame([sceneOf([big, small])])
  })

  it.each<LayerOperation>(['subtract', 'intersect', 'difference'])('a layer that is to %s', async (operation) => {
    const layers = [big, small].map((shape) => matteOf(sceneOf([shape])))
    const isCrossed = (i: number) => layers.every((alpha) => alpha[i]! > 0 && alpha[i]! < 1)
    await expectSame([sceneOf([big, { ...small, order: 1, operation }])], isCrossed)
  })

  it('a B-spline and a stroke', async () => {
    await expectSame([sceneOf([{ ...big, curve: 'bspline' }])])
    const stroke = round('stroke', 45, 35, 22, { isClosed: false })
    for (const key of stroke.channels.outline!.keys) for (let at = 0; at < key.values.length; at += POINT_STRIDE) key.values[at + POINT.width] = 7 // prettier-ignore
    await expectSame([sceneOf([stroke])])
  })

  it('under perspective that grows, so that frames have other numbers of corners', async () => {
    const values = big.channels.outline!.keys[0]!.values
    const scenes = [0, 0.002, 0.006].map((tilt): Scene => {
      const outline = homogeneousOutline(values, POINT_STRIDE, Float64Array.of(1.1, 0.1, -4, 0.05, 1, -2, tilt, -tilt, 0.9 + tilt)) // prettier-ignore
      const edge = { innerFeather: 0, outerFeather: 0, grow: 0, falloff: 'smooth' as const }
      return { parts: [{ id: 'coat', holdsOut: false, groups: [{ edge, opacity: 1, outlinesAt: () => [outline] }] }] }
    })
    await expectSame(scenes)
  })

  it('over time: moving by keys, hidden for a while, another shape joining', async () => {
    const document = documentWith([
      { ...round('big', 34, 35, 20, {}, 2.5), hidden: [[1003, 1003]] },
      { ...small, life: [1002, 1005] },
    ])
    await expectSame([1001, 1002, 1003, 1004, 1005].map((frame) => sceneAt(document, frame)))
  })
})

describe('what a Lottie says', () => {
  interface Path {
    a: number
    k: { t: number; h?: number }[]
  }
  const layersOf = (text: string) =>
    (JSON.parse(text) as { layers: { nm: string; ip: number; op: number; shapes: { it: { ks: Path }[] }[] }[] }).layers

  it('has keys where the way between them is straight, and one where nothing moves', () => {
    const moving = documentWith([round('big', 34, 35, 20, {}, 2.5)])
    const scenes = [1001, 1002, 1003, 1004, 1005].map((frame) => sceneAt(moving, frame))
    const [layer] = layersOf(writeLottie(shotOf(scenes)).text)
    expect(layer!.shapes[0]!.it[0]!.ks.k.map(({ t }) => t)).toEqual([0, 4])
    const still = documentWith([round('big', 34, 35, 20)])
    const [other] = layersOf(writeLottie(shotOf([1001, 1002].map((frame) => sceneAt(still, frame)))).text)
    expect(other!.shapes[0]!.it[0]!.ks.a).toBe(0)
  })

  it('tells what it cannot hold: softness, and depth that changes', () => {
    const soft = round('big', 40, 35, 20)
    const scene = sceneAt(documentWith([{ ...soft, channels: { ...soft.channels, outerFeather: constantChannel(4) } }]), 1001) // prettier-ignore
    expect(writeLottie(shotOf([scene])).lost).toEqual(['feather'])
    const [coat] = sceneAt(documentWith([soft]), 1001).parts
    const hat = { ...coat!, id: 'hat' }
    expect(writeLottie(shotOf([{ parts: [coat!, hat] }, { parts: [hat, coat!] }])).lost).toEqual(['changes of depth'])
    // One that joins is no change of depth: its layer is where it stands then.
    const joined = writeLottie(shotOf([{ parts: [coat!] }, { parts: [hat, coat!] }]))
    expect([joined.lost, layersOf(joined.text).map(({ nm }) => nm)]).toEqual([[], ['hat', 'coat']])
    expect(writeLottie(shotOf([{ parts: [coat!, hat] }, { parts: [hat] }])).lost).toEqual([])
  })
})
