import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { allOf } from '@tender-lasso/core/document'
import { expect, test } from './test'
import { Artist } from './artist'
import { greyPng, handOff } from './mattes'
import { makeOwnShot } from './ownShot'

let folder: string
test.beforeAll(() => void (folder = mkdtempSync(path.join(tmpdir(), 'tender-lasso-layers-'))))
test.afterAll(() => rmSync(folder, { recursive: true, force: true }))

test('a hole is one key away while drawing, goes below by dragging, and a Part is hidden on a marked stretch', async ({
  page,
}) => {
  await makeOwnShot(page, 'Layers', 'layers', '/', 6)
  const artist = new Artist(page, 1280, 720)
  await artist.settle()
  await artist.step('Shape')
  const outline = async (left: number, top: number, right: number, bottom: number) => {
    await artist.key('p')
    for (const [x, y] of [[left, top], [right, top], [right, bottom], [left, bottom]] as const) await artist.click(x, y) // prettier-ignore
    await artist.key('Enter')
  }
  await outline(200, 150, 600, 450)
  await artist.key('p')
  await artist.key('Shift+A')
  await expect(artist.message()).toContainText('The next shape is a hole')
  await outline(300, 220, 420, 320)
  await artist.key('s')
  const sign = page.getByRole('button', { name: /^hole 2: / })
  await expect(sign).toHaveText('−')

  await page.locator('[data-part="Part"]').click()
  await artist.mark(1003, 1004, 6)
  await artist.key('Shift+D')
  await expect(artist.message()).toContainText('hidden on 1003 to 1004')
  expect(allOf(await artist.storedDocument(), 'part')[0]!.hidden).toEqual([[1003, 1004]])

  const alphaAt = async (files: Map<number, Uint8Array>, frame: number) => (await greyPng(files.get(frame)!)).data
  const at = (x: number, y: number) => y * 1280 + x
  const mattes = await handOff(artist, 'Part', folder, { motionBlur: false })
  const first = await alphaAt(mattes, 1001)
  expect([first[at(250, 250)], first[at(360, 270)], first[at(150, 250)]]).toEqual([1, 0, 0])
  for (const frame of [1003, 1004]) expect((await alphaAt(mattes, frame)).every((alpha) => alpha === 0)).toBe(true)
  expect((await alphaAt(mattes, 1005)).every((alpha, i) => alpha === first[i])).toBe(true)

  // What takes away from nothing takes nothing away.
  const [grip, below] = [
    (await page.getByLabel('Drag hole 2 above or below').boundingBox())!,
    (await page.locator('[data-shape="outline"]').boundingBox())!,
  ]
  await page.mouse.move(grip.x + 5, grip.y + 6)
  await page.mouse.down()
  await page.mouse.move(grip.x + 5, grip.y + 16, { steps: 3 })
  await page.mouse.move(grip.x + 5, below.y + below.height - 3, { steps: 6 })
  await page.mouse.up()
  await expect(page.locator('[data-shape]').first()).toHaveAttribute('data-shape', 'outline')
  const whole = await alphaAt(await handOff(artist, 'Part', folder, { motionBlur: false }), 1001)
  expect(whole[at(360, 270)]).toBe(1)

  // Undone, then made to intersect by its sign: two clicks on from Subtract would be Difference.
  await page.keyboard.press('Control+z')
  await expect(page.locator('[data-shape]').first()).toHaveAttribute('data-shape', 'hole 2')
  await sign.click()
  await expect(page.getByRole('button', { name: /^hole 2: / })).toHaveText('∩')
  const within = await alphaAt(await handOff(artist, 'Part', folder, { motionBlur: false }), 1001)
  expect([within[at(250, 250)], within[at(360, 270)]]).toEqual([0, 1])

  // The whole matte blurred: half of its side is left on the line itself.
  await artist.step('Edge')
  await artist.type('Blur of the matte', 6)
  const soft = await alphaAt(await handOff(artist, 'Part', folder, { motionBlur: false }), 1001)
  expect(soft[at(360, 270)]).toBeGreaterThan(0.999)
  const across = Array.from({ length: 80 }, (_, i) => soft[at(260 + i, 270)]!)
  expect(across.every((alpha, i) => i === 0 || alpha >= across[i - 1]! - 1 / 65535)).toBe(true)
  // 10 % to 90 % of a Gaussian's step lie 2.563 sigma apart.
  const wide = across.filter((alpha) => alpha > 0.1 && alpha < 0.9).length
  expect(Math.abs(wide - 2.563 * 6)).toBeLessThanOrEqual(1)

  await page.locator('[data-part="Part"]').click()
  await artist.key('Shift+D')
  await expect(artist.message()).toContainText('shown on 1003 to 1004')
  expect(allOf(await artist.storedDocument(), 'part')[0]!.hidden).toEqual([])
})
