import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { DotLottie } from '@lottiefiles/dotlottie-web'
import { chromium, type Browser } from '@playwright/test'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { constantChannel, POINT, POINT_STRIDE, type Shape } from '@tender-lasso/core/document'
import { documentOf, testPart, testShape, testShot, testSubject } from '@tender-lasso/core/document/testDocuments'
import { sceneAt } from '@tender-lasso/core/evaluation'
import { homogeneousOutline } from '@tender-lasso/core/spline'
import { renderMattes, type LayerOperation, type Scene } from '@tender-lasso/core/raster'
import { writeLottie } from './index'

const [width, height] = [96, 72]
const box = { left: 0, top: 0, right: width, bottom: height }
const ZOOM = 16
const FINE = 32

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

let browser: Browser
beforeAll(async () => {
  browser = await chromium.launch({
    executablePath: '/usr/bin/chromium-headless-shell',
    args: ['--no-sandbox', '--disable-gpu'],
  })
  const player = createRequire(import.meta.url).resolve('@lottiefiles/dotlottie-web')
  const wasm = readFileSync(new URL('./dotlottie-player.wasm', `file://${player}`))
  DotLottie.setWasmUrl(`data:application/wasm;base64,${wasm.toString('base64')}`)
})

afterAll(() => browser.close())

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

/** The same as lottie-web draws them in Chromium, as SVG; whose edges are coarser, so the picture is larger. */
async function drawnInBrowser(text: string, frames: readonly number[]): Promise<Float32Array[]> {
  const page = await browser.newPage({ viewport: { width: width * FINE, height: height * FINE } })
  try {
    await page.setContent('<style>* { margin: 0 } div { width: 100vw; height: 100vh }</style><div></div>')
    await page.addScriptTag({ path: createRequire(import.meta.url).resolve('lottie-web/build/player/lottie_svg.min.js') }) // prettier-ignore
    await page.evaluate((data) => {
      const { lottie } = window as unknown as { lottie: { loadAnimation(options: object): Player } }
      const container = document.querySelector('div')!
      const player = lottie.loadAnimation({ container, renderer: 'svg', autoplay: false, animationData: JSON.parse(data) }) // prettier-ignore
      player.setSubframe(false)
      Object.assign(window, { player })
    }, text)
    const pictures: Float32Array[] = []
    for (const frame of frames) {
      await page.evaluate((at) => (window as unknown as { player: Player }).player.goToAndStop(at, true), frame)
      // So large a picture is painted piece by piece.
      await page.evaluate(() => new Promise((painted) => requestAnimationFrame(() => requestAnimationFrame(painted))))
      const png = await page.screenshot({ omitBackground: true })
      const { data } = await sharp(png).ensureAlpha().extractChannel('alpha').raw().toBuffer({ resolveWithObject: true }) // prettier-ignore
      const alpha = new Float32Array(width * height)
      for (let y = 0; y < height * FINE; y++)
        for (let x = 0; x < width * FINE; x++)
          alpha[Math.floor(y / FINE) * width + Math.floor(x / FINE)]! += data[y * width * FINE + x]! / (255 * FINE * FINE) // prettier-ignore
      pictures.push(alpha)
    }
    return pictures
  } finally {
    await page.close()
  }
}

interface Player {
  setSubframe(on: boolean): void
  goToAndStop(frame: number, isFrame: boolean): void
}

const worst = (a: Float32Array, b: Float32Array) =>
  a.reduce((most, value, i) => Math.max(most, Math.abs(value - b[i]!)), 0)
const matteOf = (scene: Scene) =>
  renderMattes(scene, [{ partId: 'coat', withHoldouts: false }], { box, motionBlur: false })![0]!

const PLAYERS = { 'dotlottie-web': drawn, 'lottie-web': drawnInBrowser }
type Draws = (typeof PLAYERS)[keyof typeof PLAYERS]

async function expectSame(draws: Draws, scenes: readonly Scene[], isLeftOut: (pixel: number) => boolean = () => false) {
  const { text, deviation } = writeLottie(shotOf(scenes))
  expect(deviation).toBeLessThan(0.25)
  const pictures = await draws(text, scenes.map((_, i) => i)) // prettier-ignore
  scenes.forEach((scene, i) => {
    const matte = matteOf(scene)
    expect(matte.reduce((sum, value) => sum + value, 0)).toBeGreaterThan(50)
    expect(worst(pictures[i]!.map((alpha, at) => (isLeftOut(at) ? matte[at]! : alpha)), matte)).toBeLessThan(2 / 255) // prettier-ignore
  })
}

describe.each(Object.entries(PLAYERS))('Lottie drawn by %s against our own matte', (name, draws) => {
  const big = round('big', 40.3, 35.7, 24)
  const small = round('small', 52.6, 30.2, 13)
  const sceneOf = (shapes: readonly Shape[]) => sceneAt(documentWith(shapes), 1001)

  it('an outline, and two that overlap', async () => {
    await expectSame(draws, [sceneOf([big])])
    await expectSame(draws, [sceneOf([big, small])])
  })

  // Of the modes of masks lottie-web does not know the one that differs.
  const operations: LayerOperation[] = ['subtract', 'intersect', ...(name === 'lottie-web' ? [] : ['difference' as const])] // prettier-ignore
  it.each(operations)('a layer that is to %s', async (operation) => {
    const layers = [big, small].map((shape) => matteOf(sceneOf([shape])))
    const isCrossed = (i: number) => layers.every((alpha) => alpha[i]! > 0 && alpha[i]! < 1)
    await expectSame(draws, [sceneOf([big, { ...small, order: 1, operation }])], isCrossed)
  })

  it('a B-spline and a stroke', async () => {
    await expectSame(draws, [sceneOf([{ ...big, curve: 'bspline' }])])
    const stroke = round('stroke', 45, 35, 22, { isClosed: false })
    for (const key of stroke.channels.outline!.keys) for (let at = 0; at < key.values.length; at += POINT_STRIDE) key.values[at + POINT.width] = 7 // prettier-ignore
    await expectSame(draws, [sceneOf([stroke])])
  })

  it('under perspective that grows, so that frames have other numbers of corners', async () => {
    const values = big.channels.outline!.keys[0]!.values
    const scenes = [0, 0.002, 0.006].map((tilt): Scene => {
      const outline = homogeneousOutline(values, POINT_STRIDE, Float64Array.of(1.1, 0.1, -4, 0.05, 1, -2, tilt, -tilt, 0.9 + tilt)) // prettier-ignore
      const edge = { innerFeather: 0, outerFeather: 0, grow: 0, falloff: 'smooth' as const }
      return { parts: [{ id: 'coat', holdsOut: false, groups: [{ edge, opacity: 1, outlinesAt: () => [outline] }] }] }
    })
    await expectSame(draws, scenes)
  })

  it('over time: moving by keys, hidden for a while, another shape joining', async () => {
    const document = documentWith([
      { ...round('big', 34, 35, 20, {}, 2.5), hidden: [[1003, 1003]] },
      { ...small, life: [1002, 1005] },
    ])
    await expectSame(
      draws,
      [1001, 1002, 1003, 1004, 1005].map((frame) => sceneAt(document, frame)),
    )
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
