import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import path from 'node:path'
import type { Page } from '@playwright/test'
import { allOf } from '@tender-lasso/core/document'
import { edgeOn, shotShutter } from '@tender-lasso/core/evaluation'
import { edgeSpread, RAMP_PER_SIGMA } from '@tender-lasso/core/measures'
import { expect, test } from './test'
import type { Artist } from './artist'
import { openOwnPlate } from './ownPlate'

const [WIDTH, HEIGHT] = [320, 240]
const SIGMA = 2

let folder: string
test.beforeAll(() => void (folder = mkdtempSync(path.join(tmpdir(), 'tender-lasso-softness-'))))
test.afterAll(() => rmSync(folder, { recursive: true, force: true }))

interface Picture {
  /** Frames, and how soft each of them is. */
  sigmas: readonly number[]
  /** Pixels that the rectangle goes to the right a frame, and degrees of the shutter. */
  speed?: number
  shutter?: number
}

/** A new shot of a light rectangle on a dark ground, blurred in linear light. */
const openPlate = (page: Page, name: string, { sigmas, speed = 0, shutter = 0 }: Picture): Promise<Artist> =>
  openOwnPlate(
    page,
    {
      name,
      width: WIDTH,
      height: HEIGHT,
      frames: sigmas.length,
      lightAt(frame, x, y) {
        const n = frame - 1001
        const across = (at: number, from: number, to: number, box: number) =>
          edgeSpread(at - from, sigmas[n]!, box)[0] - edgeSpread(at - to, sigmas[n]!, box)[0]
        const left = 80 + speed * n
        return 0.05 + 0.6 * across(x + 0.5, left, left + 160 - 8 * speed, (speed * shutter) / 360) * across(y + 0.5, 60, 180, 0) // prettier-ignore
      },
    },
    folder,
  )

async function drawRectangle(artist: Artist, left: number, right: number) {
  await artist.step('Shape')
  await artist.key('p')
  for (const [x, y] of [[left, 60], [right, 60], [right, 180], [left, 180]] as const) await artist.click(x, y) // prettier-ignore
  await artist.key('Enter')
}

test('the softness of the plate is measured along a drawn outline, shown with its chart, and taken over', async ({
  page,
}) => {
  const artist = await openPlate(page, 'soft', { sigmas: [SIGMA, SIGMA] })
  await drawRectangle(artist, 80, 240)
  await artist.step('Edge')
  const before = artist.acts
  await page.getByRole('button', { name: 'Measure on this frame' }).click()
  const words = page.getByTestId('softness')
  await expect(words).toContainText('places are clear')
  const [sigma, clear, all] = /Sigma ([\d.]+) px.*; (\d+) of (\d+)/.exec((await words.textContent())!)!.slice(1).map(Number) // prettier-ignore
  expect(Math.abs(sigma! - SIGMA)).toBeLessThan(0.25)
  expect(clear! / all!).toBeGreaterThan(0.6)
  await expect(page.getByRole('img', { name: 'Profiles across the edge, from inside to outside' })).toBeVisible()
  // Nobody has to look for what was measured.
  await expect(page.getByRole('button', { name: 'Take over' })).toBeInViewport({ ratio: 1 })
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

  // As focus blur it is the sigma itself, and the feather goes.
  await page.getByRole('button', { name: 'Measure on this frame' }).click()
  await expect(words).toBeVisible()
  await page.getByText('Focus blur', { exact: true }).last().click()
  await page.getByRole('button', { name: 'Take over' }).click()
  await expect(words).toBeHidden()
  const blurred = edgeOn(allOf(await artist.storedDocument(), 'shape')[0]!, 1001)
  expect(Math.abs(blurred.focus - SIGMA)).toBeLessThan(0.25)
  expect([blurred.edge.innerFeather, blurred.edge.outerFeather]).toEqual([0, 0])
})

test('softness that changes is measured over the shot and keyed, and the shutter is taken from the plate', async ({
  page,
}) => {
  const sigmas = [1, 1.4, 1.8, 2.2, 2.6, 3]
  const artist = await openPlate(page, 'focus', { sigmas })
  await drawRectangle(artist, 80, 240)
  await artist.step('Edge')
  const before = artist.acts
  await page.getByText('Span', { exact: true }).last().click()
  await page.getByRole('button', { name: 'Measure on 6 frames' }).click()
  await expect(page.getByTestId('softness')).toContainText('on 6 of 6 frames')
  await expect(page.getByRole('img', { name: 'Softness over the frames' })).toBeVisible()
  await expect(page.getByRole('button', { name: 'Take over' })).toBeInViewport({ ratio: 1 })
  await page.getByRole('button', { name: 'Take over' }).click()
  console.log(`soften an edge as the plate is, over the shot: ${artist.acts - before + 3} acts`)
  const shape = async () => allOf(await artist.storedDocument(), 'shape')[0]!
  await expect.poll(async () => (await shape()).channels.outerFeather?.keys.length ?? 0).toBeGreaterThan(1)
  const keyed = await shape()
  expect(keyed.channels.outerFeather!.keys.length).toBeLessThanOrEqual(4)
  sigmas.forEach((sigma, n) => {
    const { edge } = edgeOn(keyed, 1001 + n)
    expect(Math.abs(edge.innerFeather + edge.outerFeather - RAMP_PER_SIGMA * sigma)).toBeLessThan(RAMP_PER_SIGMA * Math.max(0.25, 0.12 * sigma) + 0.4) // prettier-ignore
  })
  await page.getByText('Here', { exact: true }).last().click()
})

test('the shutter of the plate is found along a moving edge, shown, and taken over', async ({ page }) => {
  const speed = 10
  const artist = await openPlate(page, 'fast', { sigmas: new Array<number>(6).fill(0.8), speed, shutter: 180 })
  await drawRectangle(artist, 80, 160)
  await artist.key('i')
  // Moved along: a key on the last frame.
  await artist.goTo(1006)
  await artist.key('s')
  await artist.drag(120, 120, 120 + 5 * speed, 120)
  await page.locator('[data-part="Part"]').click()
  await artist.step('Edge')
  await artist.type('Shutter angle', 40)
  await page.getByRole('button', { name: 'Find the shutter' }).click()
  const words = page.getByTestId('plate-shutter')
  await expect(words).toContainText('degrees')
  const [angle] = /(\d+) degrees/
    .exec((await words.textContent())!)!
    .slice(1)
    .map(Number)
  expect(Math.abs(angle! - 180)).toBeLessThan(15)
  await page.getByRole('button', { name: 'Take over' }).click()
  await expect(words).toBeHidden()
  const document = await artist.storedDocument()
  expect(shotShutter(document, 1003)).toEqual({ angle, phase: -angle! / 2 })
})
