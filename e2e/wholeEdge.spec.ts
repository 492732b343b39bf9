import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { allOf } from '@tender-lasso/core/document'
import { edgeOn, shotShutter } from '@tender-lasso/core/evaluation'
import { edgeSpread } from '@tender-lasso/core/measures'
import { expect, test } from './test'
import type { Artist } from './artist'
import { greyPng, handOff } from './mattes'
import { openOwnPlate } from './ownPlate'

const [WIDTH, HEIGHT] = [480, 320]
const FRAMES = 9
/** Pixels that the sign goes a frame, degrees of the shutter, and sigma of the picture's softness. */
const [SPEED, SHUTTER, SIGMA] = [24, 180, 1.2]
const SIGN = { left: 40, top: 50, right: 110, bottom: 150 }
const HOLE = { left: 60, top: 75, right: 85, bottom: 115 }
/** It hides the sign wholly on two frames. */
const POST = { left: 168, right: 292 }
const HIDDEN = [1007, 1008]

let folder: string
test.beforeAll(() => void (folder = mkdtempSync(path.join(tmpdir(), 'tender-lasso-edge-'))))
test.afterAll(() => rmSync(folder, { recursive: true, force: true }))

/** What the sign covers of a pixel, in closed form: soft, swept while the shutter is open, with its hole. */
function truthAt(frame: number, x: number, y: number): number {
  const shift = SPEED * (frame - 1001)
  const sweep = (SPEED * SHUTTER) / 360
  const inside = ({ left, top, right, bottom }: typeof SIGN) =>
    (edgeSpread(x + 0.5 - left - shift, SIGMA, sweep)[0] - edgeSpread(x + 0.5 - right - shift, SIGMA, sweep)[0]) *
    (edgeSpread(y + 0.5 - top, SIGMA, 0)[0] - edgeSpread(y + 0.5 - bottom, SIGMA, 0)[0])
  return inside(SIGN) - inside(HOLE)
}

/** The sign, light on a dark ground, behind a grey post. */
function lightAt(frame: number, x: number, y: number): number {
  const post = edgeSpread(x + 0.5 - POST.left, SIGMA, 0)[0] - edgeSpread(x + 0.5 - POST.right, SIGMA, 0)[0]
  return (0.05 + 0.6 * truthAt(frame, x, y)) * (1 - post) + 0.2 * post
}

async function pen(artist: Artist, { left, top, right, bottom }: typeof SIGN) {
  for (const [x, y] of [[left, top], [right, top], [right, bottom], [left, bottom]] as const) await artist.click(x, y) // prettier-ignore
  await artist.key('Enter')
}

test('a sign that passes behind a post: cut with its hole, hidden there, softened by hand and as the plate is, reflected, and handed off as the truth', async ({
  page,
}) => {
  const plate = { name: 'Edge', width: WIDTH, height: HEIGHT, frames: FRAMES, lightAt }
  const artist = await openOwnPlate(page, plate, folder)
  const shape = async () => allOf(await artist.storedDocument(), 'shape')[0]!

  // Drawn with its hole, moved by one key, and hidden where the post stands before it.
  await artist.step('Shape')
  await artist.key('p')
  await pen(artist, SIGN)
  await artist.key('p')
  await artist.key('Shift+A')
  await pen(artist, HOLE)
  await artist.key('s')
  await page.locator('[data-part="Part"]').click()
  await artist.goTo(1000 + FRAMES)
  await artist.drag(50, 140, 50 + SPEED * (FRAMES - 1), 140)
  await artist.goTo(1001)
  await artist.mark(HIDDEN[0]!, HIDDEN[1]!, FRAMES)
  await artist.key('Shift+D')
  await expect(artist.message()).toContainText('hidden on 1007 to 1008')

  // Its outer side softened by hand, and keyed.
  await artist.step('Edge')
  await page.locator('[data-shape="outline"]').click()
  await artist.key('Alt+f')
  await artist.drag(SIGN.right, 100, SIGN.right + 9, 100)
  expect(Math.abs(edgeOn(await shape(), 1001).edge.outerFeather - 9)).toBeLessThan(1)
  await page.getByTitle(/^Key of Feather out/i).click()
  await expect.poll(async () => (await shape()).channels.outerFeather!.keys.length).toBe(1)

  // As the plate is, of both outlines, where all of the sign is seen: the shutter, then the softness.
  await artist.key('s')
  // Before its first key it rests, so that half of the blur of that frame is not its own.
  await artist.mark(1002, 1005, FRAMES)
  await page.locator('[data-part="Part"]').click()
  await artist.type('Shutter angle', 40)
  await page.getByRole('button', { name: 'Find the shutter' }).click()
  const found = page.getByTestId('plate-shutter')
  await expect(found).toContainText('degrees')
  await page.getByRole('button', { name: 'Take over' }).click()
  await expect(found).toBeHidden()
  expect(Math.abs(shotShutter(await artist.storedDocument(), 1003).angle - SHUTTER)).toBeLessThan(15)
  await page.getByText('Span', { exact: true }).last().click()
  await page.getByRole('button', { name: /^Measure on \d frames$/ }).click()
  const softness = page.getByTestId('softness')
  await expect(softness).toContainText('places are clear')
  await page.getByText('Focus blur', { exact: true }).last().click()
  await page.getByRole('button', { name: 'Take over' }).click()
  await expect(softness).toBeHidden()

  // Reflected in the ground.
  await artist.step('Order')
  await page.locator('[data-part="Part"]').click()
  await artist.key('Alt+i')
  await page.keyboard.down('Shift')
  await artist.drag(30, 160, 430, 160)
  await page.keyboard.up('Shift')
  await expect(artist.message()).toContainText('Part reflected follows Part')
  const document = await artist.storedDocument()
  const line = allOf(document, 'part').find(({ instance }) => instance?.mirror)!.instance!.mirror!.line[1]!

  const [own, image] = [await handOff(artist, 'Part', folder), await handOff(artist, 'Part reflected', folder)]
  for (const frame of [1003, 1005, 1006]) {
    const [cut, reflected] = [await greyPng(own.get(frame)!), await greyPng(image.get(frame)!)]
    let [off, about, worst] = [0, 0, 0]
    for (let y = 30; y < 158; y++) {
      for (let x = 0; x < WIDTH; x++) {
        const truth = truthAt(frame, x, y)
        const error = Math.abs(cut.data[y * WIDTH + x]! - truth)
        worst = Math.max(worst, error)
        if (truth < 0.002 || truth > 0.998) continue
        off += error
        about++
      }
    }
    console.log(`${frame}: alpha off by ${(off / about).toFixed(4)} in between, at most ${worst.toFixed(3)}`)
    // A pointer stands on whole pixels of the screen: the line is off by up to half of one.
    expect(off / about).toBeLessThan(0.03)
    // What lies above the line, as far below it.
    const below = 2 * line - 1
    for (const [x, y] of [[52, 100], [72, 95], [100, 140]] as const) {
      const at = x + SPEED * (frame - 1001)
      expect(Math.abs(reflected.data[Math.round(below - y) * WIDTH + at]! - cut.data[y * WIDTH + at]!)).toBeLessThan(0.02)
    } // prettier-ignore
  }
  for (const frame of HIDDEN) expect((await greyPng(own.get(frame)!)).data.every((alpha) => alpha === 0)).toBe(true)
})
