import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import path from 'node:path'
import sharp from 'sharp'
import { allOf } from '@tender-lasso/core/document'
import { edgeOn } from '@tender-lasso/core/evaluation'
import { edgeSpread, RAMP_PER_SIGMA } from '@tender-lasso/core/measures'
import { expect, test } from './test'
import { Artist } from './artist'

const [WIDTH, HEIGHT] = [320, 240]
const SIGMA = 2

let folder: string
test.beforeAll(() => void (folder = mkdtempSync(path.join(tmpdir(), 'tender-lasso-softness-'))))
test.afterAll(() => rmSync(folder, { recursive: true, force: true }))

/** A light rectangle on a dark ground, blurred in linear light and encoded as sRGB (IEC 61966-2-1), as 16-bit PNG. */
async function plate(): Promise<string[]> {
  const across = (at: number, from: number, to: number) =>
    edgeSpread(at - from, SIGMA, 0)[0] - edgeSpread(at - to, SIGMA, 0)[0]
  const pixels = new Uint16Array(3 * WIDTH * HEIGHT)
  for (let y = 0; y < HEIGHT; y++) {
    for (let x = 0; x < WIDTH; x++) {
      const light = 0.05 + 0.6 * across(x + 0.5, 80, 240) * across(y + 0.5, 60, 180)
      const encoded = light <= 0.0031308 ? 12.92 * light : 1.055 * light ** (1 / 2.4) - 0.055
      pixels.fill(Math.round(65535 * encoded), 3 * (y * WIDTH + x), 3 * (y * WIDTH + x) + 3)
    }
  }
  const files = [1001, 1002].map((frame) => path.join(folder, `soft.${frame}.png`))
  for (const file of files) {
    await sharp(pixels, { raw: { width: WIDTH, height: HEIGHT, channels: 3 } })
      .toColourspace('rgb16')
      .png()
      .toFile(file)
  }
  return files
}

test('the softness of the plate is measured along a drawn outline, shown with its chart, and taken over', async ({
  page,
}) => {
  await page.goto('/')
  await page.getByRole('button', { name: 'New project' }).click()
  await page.getByLabel('Name of the project').fill('Softness')
  await page.getByRole('button', { name: 'Make it' }).click()
  await page.getByLabel('Files for Softness').setInputFiles(await plate())
  await page.getByLabel('Shot', { exact: true }).fill('soft')
  await page.getByRole('button', { name: 'Make the shot' }).click()
  await page.getByRole('link', { name: 'Open soft' }).click()
  const artist = new Artist(page, WIDTH, HEIGHT)
  await artist.settle()
  await artist.step('Shape')
  await artist.key('p')
  for (const [x, y] of [[80, 60], [240, 60], [240, 180], [80, 180]] as const) await artist.click(x, y) // prettier-ignore
  await artist.key('Enter')
  await artist.step('Edge')
  const before = artist.acts
  await page.getByRole('button', { name: 'Measure on this frame' }).click()
  const words = page.getByTestId('softness')
  await expect(words).toContainText('places are clear')
  const [sigma, clear, all] = /Sigma ([\d.]+) px.*; (\d+) of (\d+)/.exec((await words.textContent())!)!.slice(1).map(Number) // prettier-ignore
  expect(Math.abs(sigma! - SIGMA)).toBeLessThan(0.25)
  expect(clear! / all!).toBeGreaterThan(0.6)
  await expect(page.getByRole('img', { name: 'Profiles across the edge, from inside to outside' })).toBeVisible()
  await page.getByRole('button', { name: 'Take over' }).click()
  console.log(`soften an edge as the plate is: ${artist.acts - before + 2} acts`)
  await expect(words).toBeHidden()
  const { edge } = edgeOn(allOf(await artist.storedDocument(), 'shape')[0]!, 1001)
  expect(Math.abs(edge.innerFeather + edge.outerFeather - RAMP_PER_SIGMA * SIGMA)).toBeLessThan(1.1)
  // A pointer stands on whole pixels of the screen: the drawn line is off by up to half of one.
  expect(Math.abs(edge.outerFeather - edge.innerFeather)).toBeLessThan(0.8)

  // Of another shape, or on another frame, nothing is said.
  await page.getByRole('button', { name: 'Measure on this frame' }).click()
  await expect(words).toBeVisible()
  await artist.key('ArrowRight')
  await expect(words).toBeHidden()
})
