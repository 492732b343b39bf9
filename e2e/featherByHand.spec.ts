import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import path from 'node:path'
import type { Page } from '@playwright/test'
import { allOf } from '@tender-lasso/core/document'
import { edgeBars, edgeOn, outlineAt, pointFocusAt } from '@tender-lasso/core/evaluation'
import { edgeSpread } from '@tender-lasso/core/measures'
import { expect, test } from './test'
import { Artist } from './artist'
import { greyPng, handOff } from './mattes'
import { makeOwnShot } from './ownShot'

let folder: string
test.beforeAll(() => void (folder = mkdtempSync(path.join(tmpdir(), 'tender-lasso-feather-'))))
test.afterAll(() => rmSync(folder, { recursive: true, force: true }))

const RECTANGLE = [[200, 150], [600, 150], [600, 450], [200, 450]] as const // prettier-ignore

/** A new shot of that name with one shape through places of the plate, at the step Edge. */
async function artistWithShape(page: Page, name: string, places: readonly (readonly [number, number])[]) {
  await makeOwnShot(page, name, name.toLowerCase(), '/', 3)
  const artist = new Artist(page, 1280, 720)
  await artist.settle()
  await artist.step('Shape')
  await artist.key('p')
  for (const [x, y] of places) await artist.click(x, y)
  await artist.key('Enter')
  await artist.step('Edge')
  return artist
}

test('an edge is softened by dragging it, both sides with Alt, keyed, and handed off as the ramp that was drawn', async ({
  page,
}) => {
  const artist = await artistWithShape(page, 'Feather', RECTANGLE)
  const before = artist.acts
  await artist.key('Alt+f')
  await artist.drag(600, 300, 620, 300)
  console.log(`soften a side by hand: ${artist.acts - before} acts`)
  const shape = async () => allOf(await artist.storedDocument(), 'shape')[0]!
  const first = edgeOn(await shape(), 1001).edge
  expect(Math.abs(first.outerFeather - 20)).toBeLessThan(1.5)
  expect(first.innerFeather).toBe(0)

  // The other side of the same edge, then both by as much.
  await artist.drag(600, 300, 592, 300)
  const second = edgeOn(await shape(), 1001).edge
  expect(Math.abs(second.innerFeather - 8)).toBeLessThan(1.5)
  await page.keyboard.down('Alt')
  await artist.drag(600 + second.outerFeather, 300, 600 + second.outerFeather + 6, 300)
  await page.keyboard.up('Alt')
  const third = edgeOn(await shape(), 1001).edge
  expect(Math.abs(third.outerFeather - second.outerFeather - 6)).toBeLessThan(1.5)
  expect(third.outerFeather - second.outerFeather).toBeCloseTo(third.innerFeather - second.innerFeather, 6)

  // Handed off it is the smooth step between the two contours, averaged over the pixel.
  const files = await handOff(artist, 'Part', folder, { motionBlur: false })
  const { data } = await greyPng(files.get(1001)!)
  const side = Math.max(...Array.from(outlineAt(await artist.storedDocument(), await shape(), 1001).filter((_, i) => i % 9 === 0))) // prettier-ignore
  const { innerFeather, outerFeather } = third
  for (let x = 580; x < 640; x++) {
    let mean = 0
    for (let i = 0; i < 16; i++) {
      const s = Math.min(1, Math.max(0, (side + outerFeather - x - (i + 0.5) / 16) / (innerFeather + outerFeather)))
      mean += (s * s * (3 - 2 * s)) / 16
    }
    expect(Math.abs(data[300 * 1280 + x]! - mean)).toBeLessThan(1 / 255)
  }

  // Keyed, a drag on another frame makes a key there.
  await artist.step('Edge')
  await page.locator('[data-part="Part"]').click()
  await page.getByTitle(/^Key of Feather out/i).click()
  await artist.goTo(1003)
  await artist.key('Alt+f')
  await artist.drag(600 + outerFeather, 300, 600 + outerFeather - 10, 300)
  const keyed = await shape()
  expect(keyed.channels.outerFeather!.keys.map(({ time }) => time)).toEqual([1001, 1003])
  expect(edgeOn(keyed, 1001).edge.outerFeather).toBe(outerFeather)
  expect(Math.abs(edgeOn(keyed, 1003).edge.outerFeather - outerFeather + 10)).toBeLessThan(1.5)
})

test('a point is softened by its bar, several by the selection, and by a number', async ({ page }) => {
  const artist = await artistWithShape(page, 'Points', [
    [200, 150],
    [400, 150],
    [600, 150],
    [600, 450],
    [200, 450],
  ])
  await artist.key('Alt+f')
  const bars = async () => {
    const document = await artist.storedDocument()
    return edgeBars(document, allOf(document, 'shape')[0]!, 1001, 'feather')
  }
  // The point in the middle of the upper side, upwards.
  await artist.drag(400, 150, 400, 120)
  const first = await bars()
  const pulled = first.findIndex(({ outer }) => outer > 0)
  expect(Math.abs(first[pulled]!.outer - 30)).toBeLessThan(1.5)
  expect(first.filter(({ outer, inner }) => outer + inner > 0)).toHaveLength(1)

  // Handed off it is 30 px soft there and hard at the corners, straight in between.
  const files = await handOff(artist, 'Part', folder, { motionBlur: false })
  const { data } = await greyPng(files.get(1001)!)
  const soft = (x: number) => {
    let rows = 0
    for (let y = 60; y < 150; y++) if (data[y * 1280 + x]! > 0.01 && data[y * 1280 + x]! < 0.99) rows++
    return rows
  }
  expect(soft(400)).toBeGreaterThan(22)
  expect(soft(205)).toBeLessThan(4)
  expect(soft(300)).toBeGreaterThan(soft(230))
  expect(soft(400)).toBeGreaterThan(soft(300))

  // Both upper corners, selected by their bars, in one drag; then by a number, then as the shape again.
  await artist.step('Edge')
  await artist.key('Alt+f')
  await artist.click(200, 150)
  await page.keyboard.down('Shift')
  await artist.click(600, 150)
  await page.keyboard.up('Shift')
  const field = page.getByLabel('Feather out at the points')
  await expect(field).toBeVisible()
  await artist.type('Feather out at the points', 7)
  const typed = await bars()
  expect(typed.filter(({ outer }) => Math.abs(outer - 7) < 1e-6)).toHaveLength(2)
  await page.getByRole('button', { name: 'As the shape' }).click()
  await expect.poll(async () => (await bars()).filter(({ outer }) => outer > 0).length).toBe(1)

  // The edge there on the frames before and after.
  await page.getByRole('tab', { name: 'Edges' }).click()
  await expect(page.getByRole('button', { name: '1002' })).toBeVisible()

  // A growth that leaves nothing says so.
  await artist.type('Grow', -160)
  await expect(page.getByRole('alert').filter({ hasText: 'Nothing is left' })).toBeHidden()
  await page.getByRole('tab', { name: 'Threads' }).click()
})

test('an edge goes out of focus by hand, and more so at a point', async ({ page }) => {
  const artist = await artistWithShape(page, 'Blurred', RECTANGLE)
  await artist.key('Alt+b')
  // The contours are drawn two sigmas to both sides.
  await artist.drag(400, 150, 400, 142)
  const shape = async () => allOf(await artist.storedDocument(), 'shape')[0]!
  const whole = await shape()
  expect(Math.abs(edgeOn(whole, 1001).focus - 4)).toBeLessThan(0.8)
  // The bar of the lower right corner, outwards along its middle line.
  const away = (2 * edgeOn(whole, 1001).focus) / Math.SQRT2
  await artist.drag(600 + away, 450 + away, 600 + away + 8, 450 + away + 8)
  const varied = await shape()
  const sigmas = pointFocusAt(varied, 1001, edgeOn(varied, 1001).focus)
  const softest = sigmas.indexOf(Math.max(...sigmas))
  expect(Math.abs(sigmas[softest]! - sigmas[0]! - (8 * Math.SQRT2) / 2)).toBeLessThan(1)
  expect(Array.from(sigmas).filter((sigma) => sigma === sigmas[softest]!)).toHaveLength(1)

  // Handed off it is the step blurred by that sigma, from one corner to the other evenly more.
  const files = await handOff(artist, 'Part', folder, { motionBlur: false })
  const { data } = await greyPng(files.get(1001)!)
  const outline = outlineAt(await artist.storedDocument(), varied, 1001)
  const bottom = Math.max(...Array.from(outline.filter((_, i) => i % 9 === 1)))
  for (const x of [300, 400, 500]) {
    const sigma = sigmas[0]! + ((sigmas[softest]! - sigmas[0]!) * (x + 0.5 - 200)) / 400
    let worst = 0
    for (let y = 410; y < 490; y++)
      worst = Math.max(worst, Math.abs(data[y * 1280 + x]! - 1 + edgeSpread(y + 0.5 - bottom, sigma, 0)[0]))
    expect(worst).toBeLessThan(0.03)
  }
  // The output and its settings are edits as well: those are undone first.
  await expect(async () => {
    await page.getByRole('button', { name: 'Undo' }).click()
    expect(Math.max(...pointFocusAt(await shape(), 1001, 0))).toBe(0)
  }).toPass()
})
