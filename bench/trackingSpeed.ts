import { DEFAULT_PREPROCESSING, newId } from '@tender-lasso/core/document'
import { objectAdded } from '@tender-lasso/core/edits'
import { testTrack } from '@tender-lasso/core/document/testDocuments'
import { squareRound } from '@tender-lasso/core/geometry'
import { goodFeatures } from '@tender-lasso/core/tracking'
import type { LumaImage } from '@tender-lasso/core/image'
import sharp from 'sharp'
import { shotOf, submit, workspace } from './application'
import { median, type Benchmark } from './benchmark'
import { planeFrames, PLANE_FRAMES, planeRegion } from './photographedPlane'

const WIDTH = 2048
const HEIGHT = 1152
const RUNS = 5
/** The frames are made without motion blur. */
const SHARP = { preprocessing: { ...DEFAULT_PREPROCESSING, motionBlur: false } }

/** A frame of the plane in the middle of a grey plate. */
async function plate({ left, top, width, height, data }: LumaImage): Promise<Buffer> {
  const pixels = Buffer.alloc(WIDTH * HEIGHT, 90)
  for (let y = 0; y < height; y++) {
    const start = (top + y) * WIDTH + left
    for (let x = 0; x < width; x++) pixels[start + x] = Math.round(255 * data[y * width + x]!)
  }
  return sharp(pixels, { raw: { width: WIDTH, height: HEIGHT, channels: 1 } })
    .png()
    .toBuffer()
}

let frames: Promise<LumaImage[]> | null = null

/** The photographed plane without the bar, made once. */
const planes = () => (frames ??= planeFrames(null))

let shot: Promise<string> | null = null

/** The shot of it, made once. */
async function planeShot(): Promise<string> {
  shot ??= (async () => {
    await (await workspace()).close()
    return shotOf('plane', await Promise.all((await planes()).map(plate)))
  })()
  return shot
}

/**
 * Frames a second of a run through the interface, from the key press to the word that it has ended: fetching and
 * inflating of the pictures, and drawing while it runs, included. Each run begins on a page just opened, which has fetched
 * the first dozen frames while the artist looked at what was chosen.
 */
async function framesPerSecond(shotId: string, names: readonly string[]): Promise<number[]> {
  const rates: number[] = []
  for (let i = 0; i < RUNS; i++) {
    const page = await workspace(shotId)
    await page.getByRole('button', { name: 'Track', exact: true }).click()
    await page.locator(`[data-track="${names[0]!}"]`).click()
    if (names.length > 1) {
      await page.getByRole('grid', { name: 'Tracks' }).evaluate((list) => list.scrollTo(0, list.scrollHeight))
      await page.locator(`[data-track="${names.at(-1)!}"]`).click({ modifiers: ['Shift'] })
    }
    // As long as an artist looks at the pattern before tracking it.
    await page.waitForTimeout(1500)
    // A look now and then at one element: watching every frame would cost a tenth of what is measured.
    await page.evaluate(`void (window.__ended = new Promise((resolve) => {
      let stop = null
      const look = () => {
        stop ??= [...document.querySelectorAll('button')].find((button) => button.textContent === 'Stop') ?? null
        if (stop && !stop.isConnected) resolve(performance.now())
        else setTimeout(look, 10)
      }
      window.addEventListener('keydown', () => { window.__began = performance.now(); look() }, { once: true, capture: true })
    }))`)
    await page.keyboard.press('e')
    const milliseconds = Number(await page.evaluate('window.__ended.then((now) => now - window.__began)'))
    rates.push((1000 * (PLANE_FRAMES - 1)) / milliseconds)
    await page.keyboard.press('Control+z')
    await page.waitForTimeout(1500)
    await page.close()
  }
  return rates
}

export const planarSpeed: Benchmark = {
  name: 'planar-speed',
  goal: 24,
  better: 'more',
  async run() {
    const shotId = await planeShot()
    const track = {
      ...testTrack(newId()),
      ...SHARP,
      name: 'Plane',
      outlines: [Float64Array.from(planeRegion(500, 350))],
    }
    await submit(shotId, 'a region', [objectAdded(track)])
    const rates = await framesPerSecond(shotId, [track.name])
    return {
      value: median(rates),
      unit: 'frames/s',
      notes: `500 x 350 px of a 2048 x 1152 plate, perspective, one worker, through the interface; ${rates.map((r) => r.toFixed(1)).join(', ')}`,
    }
  },
}

export const pointsSpeed: Benchmark = {
  name: 'points-speed',
  goal: 30,
  better: 'more',
  async run() {
    const shotId = await planeShot()
    const [first] = await planes()
    const tracks = goodFeatures(first!, [planeRegion(500, 350)], [], 22, 100).map(({ x, y }, i) => ({
      ...testTrack(newId()),
      ...SHARP,
      name: `Point ${i + 1}`,
      order: 1 + i,
      surface: 'point' as const,
      model: 'similarity' as const,
      search: [-20, -20, 20, 20] as [number, number, number, number],
      outlines: [Float64Array.from(squareRound(x, y, 9))],
      pivot: [x, y] as [number, number],
      minimumMatch: 0.8,
      mostReturnError: 0.7,
    }))
    await submit(shotId, 'points', tracks.map(objectAdded))
    const rates = await framesPerSecond(shotId, [tracks[0]!.name, tracks.at(-1)!.name])
    return {
      value: median(rates),
      unit: 'frames/s',
      notes: `${tracks.length} points, rotation and scale, tracked back too, two workers, through the interface; ${rates.map((r) => r.toFixed(1)).join(', ')}`,
    }
  },
}
