import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { allOf } from '@tender-lasso/core/document'
import { expect, test } from './test'
import { Artist } from './artist'
import { greyPng, handOff } from './mattes'
import { makeOwnShot } from './ownShot'

let folder: string
test.beforeAll(() => void (folder = mkdtempSync(path.join(tmpdir(), 'tender-lasso-reflection-'))))
test.afterAll(() => rmSync(folder, { recursive: true, force: true }))

test('a Part is reflected about a line, follows what it reflects, and is broken off', async ({ page }) => {
  await makeOwnShot(page, 'Reflection', 'reflection', '/', 3)
  const artist = new Artist(page, 1280, 720)
  await artist.settle()
  await artist.step('Shape')
  await artist.key('p')
  for (const [x, y] of [[300, 150], [500, 170], [520, 300], [280, 320]] as const) await artist.click(x, y) // prettier-ignore
  await artist.key('Enter')
  await artist.step('Order')
  await page.locator('[data-part="Part"]').click()
  const before = artist.acts
  await artist.key('Alt+i')
  await page.keyboard.down('Shift')
  await artist.drag(200, 400, 700, 404)
  await page.keyboard.up('Shift')
  console.log(`reflect a Part: ${artist.acts - before} acts`)
  await expect(artist.message()).toContainText('Part reflected follows Part')
  await expect(page.getByLabel('reflection of Part')).toBeVisible()
  const reflected = async () => allOf(await artist.storedDocument(), 'part').find(({ instance }) => instance?.mirror)!
  const line = (await reflected()).instance!.mirror!.line
  expect(line[1]).toBe(line[3])

  // What was drawn lies above the line, its image as far below it.
  const own = (await greyPng((await handOff(artist, 'Part', folder, { motionBlur: false })).get(1002)!)).data
  const image = (await greyPng((await handOff(artist, 'Part reflected', folder, { motionBlur: false })).get(1002)!))
    .data
  const sum = (alpha: Float32Array) => alpha.reduce((total, value) => total + value, 0)
  expect(sum(own)).toBeGreaterThan(20_000)
  expect(Math.abs(sum(image) - sum(own))).toBeLessThan(0.5)
  const at = (alpha: Float32Array, x: number, y: number) => alpha[Math.round(y) * 1280 + x]!
  for (const [x, y] of [[400, 200], [330, 300], [500, 290]] as const) expect([at(own, x, y), at(image, x, 2 * line[1]! - 1 - y)]).toEqual([1, 1]) // prettier-ignore

  // The original is moved, and the image goes along, downwards as the original goes up.
  await artist.step('Shape')
  await page.locator('[data-part="Part"]').click()
  await artist.key('s')
  await artist.drag(400, 230, 430, 210)
  const moved = (await greyPng((await handOff(artist, 'Part reflected', folder, { motionBlur: false })).get(1001)!))
    .data
  expect(Math.abs(middleOf(moved)[0] - middleOf(image)[0] - 30)).toBeLessThan(1.5)
  expect(Math.abs(middleOf(moved)[1] - middleOf(image)[1] - 20)).toBeLessThan(1.5)

  // Broken off it stays where it is, whatever becomes of the original.
  await page.locator('[data-part="Part reflected"]').click()
  await page.getByRole('button', { name: 'Break off' }).click()
  await expect.poll(async () => (await reflected()) === undefined).toBe(true)
  await page.locator('[data-part="Part"]').click()
  await artist.step('Shape')
  await artist.key('s')
  await artist.drag(430, 210, 480, 210)
  const free = (await greyPng((await handOff(artist, 'Part reflected', folder, { motionBlur: false })).get(1001)!)).data
  let largest = 0
  free.forEach((value, i) => (largest = Math.max(largest, Math.abs(value - moved[i]!))))
  expect(largest).toBeLessThan(2e-3)

  // Taken back, it follows again.
  await artist.step('Order')
  await artist.key('Control+z')
  await artist.key('Control+z')
  await expect.poll(async () => (await reflected())?.name).toBe('Part reflected')

  // Shown again: another Part that follows, moved by its own pose.
  await page.locator('[data-part="Part"]').click()
  await artist.key('Alt+Shift+I')
  await expect(artist.message()).toContainText('Part again follows Part')
  await artist.key('s')
  await artist.drag(430, 240, 730, 260)
  const again = (await greyPng((await handOff(artist, 'Part again', folder, { motionBlur: false })).get(1001)!)).data
  expect(Math.abs(sum(again) - sum(own))).toBeLessThan(1)
  expect(at(again, 730, 240)).toBe(1)
  expect(at(again, 430, 240)).toBe(0)
})

test('a whole Subject is shown again, follows, and is moved as one by the Part that carries it', async ({ page }) => {
  await makeOwnShot(page, 'Whole', 'whole', '/', 3)
  const artist = new Artist(page, 1280, 720)
  await artist.settle()
  await artist.step('Shape')
  await artist.key('p')
  for (const [x, y] of [[200, 150], [320, 150], [320, 300], [200, 300]] as const) await artist.click(x, y) // prettier-ignore
  await artist.key('Enter')
  await artist.key('Escape')
  await artist.key('Escape')
  await artist.key('p')
  for (const [x, y] of [[360, 200], [440, 200], [440, 260], [360, 260]] as const) await artist.click(x, y) // prettier-ignore
  await artist.key('Enter')
  const own = [await matteOf(artist, 'Part'), await matteOf(artist, 'Part 2')]
  await page.getByRole('button', { name: 'Show Subject again, as a Subject that follows it' }).click()
  await expect(artist.message()).toContainText('Subject again follows Subject')

  // Taken hold of inside of one of its Parts, it goes as one; the original stays.
  await artist.step('Shape')
  await page.locator('[data-part="Subject again"]').click()
  await artist.key('s')
  await artist.drag(240, 220, 640, 420)
  const again = [await matteOf(artist, 'Part again'), await matteOf(artist, 'Part 2 again')]
  const way = wayBetween(own[0]!, again[0]!)
  expect(way[0]).toBeGreaterThan(380)
  expect(way[1]).toBeGreaterThan(180)
  expect(apart(way, wayBetween(own[1]!, again[1]!))).toBeLessThan(0.01)
  expect(apart([0, 0], wayBetween(own[0]!, await matteOf(artist, 'Part')))).toBe(0)

  // A Part of the original is moved: what follows it goes along, the other one does not.
  await artist.step('Shape')
  await page.locator('[data-part="Part 2"]').click()
  await artist.key('s')
  await artist.drag(400, 230, 430, 210)
  const moved = wayBetween(own[1]!, await matteOf(artist, 'Part 2'))
  expect(moved[0]).toBeGreaterThan(25)
  expect(apart(moved, wayBetween(again[1]!, await matteOf(artist, 'Part 2 again')))).toBeLessThan(0.01)
  expect(apart([0, 0], wayBetween(again[0]!, await matteOf(artist, 'Part again')))).toBe(0)
  await artist.step('Shape')
  await artist.key('Control+z')
  expect(apart([0, 0], wayBetween(again[1]!, await matteOf(artist, 'Part 2 again')))).toBe(0)
})

const matteOf = async (artist: Artist, name: string) =>
  (await greyPng((await handOff(artist, name, folder, { motionBlur: false })).get(1001)!)).data

function middleOf(alpha: Float32Array): [number, number] {
  let [x, y, total] = [0, 0, 0]
  alpha.forEach((value, i) => {
    x += value * (i % 1280)
    y += value * Math.floor(i / 1280)
    total += value
  })
  return [x / total, y / total]
}

/** From the middle of one matte to that of another, pixels. */
function wayBetween(from: Float32Array, to: Float32Array): [number, number] {
  const [a, b] = [middleOf(from), middleOf(to)]
  return [b[0] - a[0], b[1] - a[1]]
}

const apart = (a: readonly number[], b: readonly number[]) => Math.hypot(a[0]! - b[0]!, a[1]! - b[1]!)
