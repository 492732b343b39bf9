import { spawn } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { expect, test, type Page } from './test'
import sharp from 'sharp'
import { applyToPoint, homographyFromPoints, invert, movedPolygon } from '@tender-lasso/core/geometry'
import { BLOCK_FRAMES, SAMPLE_STRIDE } from '@tender-lasso/core/document'
import { matteError } from '@tender-lasso/core/proof'
import { meanCoverage } from '../demo/scanline'
import { Artist } from './artist'
import { drawPlane, greyPng, handOff, meanError, words } from './mattes'

/**
 * Real input: a photograph of Debian's package opencv-doc, moved by a known smooth homography path, with grain, encoded by
 * ffmpeg. The truth is the path; our demo renderer has no part in it.
 */
const PHOTOGRAPHS = process.env.TENDER_LASSO_PHOTOGRAPHS ?? '/usr/share/doc/opencv-doc/examples/data'
const [WIDTH, HEIGHT, FRAMES] = [640, 480, 24]
const CORNERS = [0, 0, WIDTH, 0, WIDTH, HEIGHT, 0, HEIGHT]

/** What is said of a run, not of the plate that was read. */
const TRACKED = new RegExp(`^(?!The plate).*\\b${FRAMES} frames`)

const pathAt = (i: number) =>
  homographyFromPoints(
    CORNERS,
    CORNERS.map((value, k) => value + (k % 2 ? 1.2 : 2.1) * i + 7 * Math.sin(i / 5 + k) - 7 * Math.sin(k)),
  )

let folder: string
test.beforeAll(() => void (folder = mkdtempSync(path.join(tmpdir(), 'tender-lasso-photograph-'))))
test.afterAll(() => rmSync(folder, { recursive: true, force: true }))

async function photographMovie(name: string): Promise<string> {
  const { data, info } = await sharp(path.join(PHOTOGRAPHS, `${name}.jpg`))
    .removeAlpha()
    .toColourspace('srgb')
    .raw()
    .toBuffer({ resolveWithObject: true })
  const movie = path.join(folder, `${name}.mp4`)
  const encoder = spawn('ffmpeg', ['-v', 'error', '-f', 'rawvideo', '-pix_fmt', 'rgb24', '-s', `${WIDTH}x${HEIGHT}`, '-r', '25', '-i', '-', '-c:v', 'libx264', '-crf', '12', '-pix_fmt', 'yuv420p', movie]) // prettier-ignore
  const done = new Promise((resolve) => encoder.once('exit', resolve))
  let state = 99
  const uniform = () => (state = (state * 16807) % 2147483647) / 2147483647
  const [offsetX, offsetY] = [(info.width - WIDTH) / 2, (info.height - HEIGHT) / 2]
  for (let i = 0; i < FRAMES; i++) {
    const back = invert(pathAt(i))
    const frame = Buffer.alloc(WIDTH * HEIGHT * 3)
    const p = [0, 0]
    for (let y = 0; y < HEIGHT; y++) {
      for (let x = 0; x < WIDTH; x++) {
        applyToPoint(back, x + 0.5, y + 0.5, p)
        const u = Math.min(info.width - 2, Math.max(0, p[0]! + offsetX - 0.5))
        const v = Math.min(info.height - 2, Math.max(0, p[1]! + offsetY - 0.5))
        const [j, k] = [Math.floor(u), Math.floor(v)]
        const [fu, fv] = [u - j, v - k]
        const grain = (uniform() + uniform() + uniform() - 1.5) * 4
        for (let c = 0; c < 3; c++) {
          const at = (row: number, column: number) => data[(row * info.width + column) * info.channels + c]!
          const value = (1 - fv) * ((1 - fu) * at(k, j) + fu * at(k, j + 1)) + fv * ((1 - fu) * at(k + 1, j) + fu * at(k + 1, j + 1)) // prettier-ignore
          frame[(y * WIDTH + x) * 3 + c] = Math.min(255, Math.max(0, value + grain))
        }
      }
    }
    if (!encoder.stdin.write(frame)) await new Promise((resolve) => encoder.stdin.once('drain', resolve))
  }
  encoder.stdin.end()
  await done
  return movie
}

async function openMovie(page: Page, name: string): Promise<Artist> {
  await page.goto('/')
  await page.getByLabel('Files for Wick Street').setInputFiles([await photographMovie(name)])
  await page.getByRole('button', { name: 'Make the shot' }).click()
  await expect(page.getByRole('link', { name: `Open ${name}` })).toBeVisible({ timeout: 60_000 })
  const artist = new Artist(page, WIDTH, HEIGHT)
  await artist.openShot(name)
  return artist
}

test('a photograph moved along a known path is tracked to the truth, in compressed film with grain', async ({
  page,
}) => {
  const artist = await openMovie(page, 'building')
  await artist.step('Track')
  await artist.key('t')
  await artist.drag(180, 140, 440, 340)
  await page.getByRole('button', { name: 'Track forward' }).click()
  await expect(artist.message()).toHaveText(TRACKED, { timeout: 60_000 })
  await artist.saved()
  // Read the track back from the shot's log, as any client would.
  const shotId = page.url().split('/').at(-1)!
  const measured = new Map<number, number[]>()
  const readLog = async () => {
    const log = (await (await page.request.get(`/api/shots/${shotId}/edits?since=0`)).json()) as {
      batch: { patches: { kind: string; index: number; after: number[] }[] }
    }[]
    for (const patch of log.flatMap((entry) => entry.batch.patches).filter((p) => p.kind === 'block')) {
      for (let k = 0; k < BLOCK_FRAMES; k++) {
        const sample = patch.after.slice(k * SAMPLE_STRIDE, (k + 1) * SAMPLE_STRIDE)
        if (sample[0] !== 0) measured.set(patch.index * BLOCK_FRAMES + k, sample.slice(1, 10))
      }
    }
    return measured.size
  }
  // On a slow machine what is said of the frames that were read is still to be seen when the track begins.
  await expect.poll(readLog, { timeout: 60_000 }).toBe(FRAMES)
  const errors: number[] = []
  for (const [frame, matrix] of measured) {
    const found = Float64Array.from(matrix)
    const expected = pathAt(frame - 1001)
    for (const [x, y] of [
      [180, 140],
      [440, 140],
      [440, 340],
      [180, 340],
    ] as const) {
      const p = applyToPoint(found, x, y)
      const q = applyToPoint(expected, x, y)
      errors.push(Math.hypot(p[0]! - q[0]!, p[1]! - q[1]!))
    }
  }
  errors.sort((a, b) => a - b)
  const middle = errors[errors.length >> 1]!
  console.log(`photograph: corner error median ${middle.toFixed(3)} px, worst ${errors.at(-1)!.toFixed(3)} px`)
  expect(errors.length).toBe(FRAMES * 4)
  expect(middle).toBeLessThan(0.1)
  expect(errors.at(-1)!).toBeLessThan(0.3)
})

test('the whole job on film of a photograph: tracked, drawn once, moved by the track, handed off, compared with the truth', async ({
  page,
}) => {
  const artist = await openMovie(page, 'board')
  await artist.step('Track')
  await artist.key('t')
  await artist.drag(150, 110, 490, 370)
  await page.getByRole('button', { name: 'Track forward' }).click()
  await expect(artist.message()).toHaveText(TRACKED, { timeout: 60_000 })
  await artist.saved()

  await artist.goTo(1001)
  const corners = [200, 140, 440, 155, 425, 340, 190, 325]
  await drawPlane(artist, corners, 'plane')

  // The film is a row of still pictures: its shutter was open for no time at all.
  const frames = await handOff(artist, 'plane', folder, { motionBlur: false })
  expect(frames.size).toBe(FRAMES)
  const errors = []
  for (const [frame, bytes] of frames) {
    const data = meanCoverage([movedPolygon(corners, pathAt(frame - 1001))], WIDTH, HEIGHT, 16)
    errors.push(matteError(await greyPng(bytes), { width: WIDTH, height: HEIGHT, data }))
  }
  const error = meanError(errors)
  console.log(`plane on board.jpg, one key: ${words(error)}`)
  expect(error.boundaryDistance).toBeLessThanOrEqual(0.3)
  expect(Math.abs(error.biasX)).toBeLessThanOrEqual(0.05)
  expect(Math.abs(error.biasY)).toBeLessThanOrEqual(0.05)
  expect(error.regionOverlap).toBeGreaterThanOrEqual(0.985)
})
