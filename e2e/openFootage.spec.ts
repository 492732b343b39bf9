import { execFileSync } from 'node:child_process'
import { mkdirSync, mkdtempSync, readFileSync, rmSync, truncateSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { expect, test, type Page } from './test'
import { sampleAt } from '@tender-lasso/core/evaluation'
import { type Track } from '@tender-lasso/core/document'
import sharp from 'sharp'
import { Artist } from './artist'

let folder: string
test.beforeAll(() => void (folder = mkdtempSync(path.join(tmpdir(), 'tender-lasso-footage-'))))
test.afterAll(() => rmSync(folder, { recursive: true, force: true }))

async function picture(name: string, width = 64, height = 48): Promise<string> {
  const file = path.join(folder, name)
  mkdirSync(path.dirname(file), { recursive: true })
  const data = Buffer.alloc(width * height * 3, 90)
  await sharp(data, { raw: { width, height, channels: 3 } }).toFile(file)
  return file
}

async function offer(page: Page, files: string[]) {
  await page.goto('/')
  await page.getByLabel('Files for Wick Street').setInputFiles(files)
}

const refusal = (page: Page) => page.getByRole('dialog').getByRole('alert')

test('says which file is odd and keeps nothing', async ({ page }) => {
  const [a1, a2, a4] = [await picture('a.0001.png'), await picture('a.0002.png'), await picture('a.0004.png')]
  await offer(page, [a1, a2, a4])
  await expect(refusal(page)).toContainText('Frame 3 is missing: a.0002.png is followed by a.0004.png')

  await offer(page, [a1, await picture('a.0002.tif', 80, 48)])
  await expect(refusal(page)).toContainText('a.0002.tif is 80 x 48, but a.0001.png is 64 x 48')

  const empty = path.join(folder, 'b.0001.png')
  writeFileSync(empty, '')
  await offer(page, [empty])
  await expect(refusal(page)).toContainText('b.0001.png is empty (0 bytes)')

  const text = path.join(folder, 'notes.txt')
  writeFileSync(text, 'not a picture')
  await offer(page, [text])
  await expect(refusal(page)).toContainText('notes.txt is of a type that cannot be opened')

  const disguised = path.join(folder, 'c.0001.png')
  writeFileSync(disguised, 'not a picture')
  await offer(page, [disguised])
  await expect(refusal(page)).toContainText('c.0001.png cannot be read')

  // Only the header of this PNG is needed to see that it is too large: 20000 x 20.
  const huge = path.join(folder, 'd.0001.png')
  writeFileSync(huge, readFileSync(await picture('d-wide.png', 20000, 20)))
  await offer(page, [huge])
  await expect(refusal(page)).toContainText('d.0001.png is 20000 x 20 pixels')

  await page.goto('/')
  await expect(page.locator('[data-shot^="a"]')).toHaveCount(0)
})

test('a frame that is damaged inside fails with its name, leaves no frames, and can be taken off the board', async ({
  page,
}) => {
  const files = [await picture('e.0001.jpg', 256, 256), await picture('e.0002.jpg', 256, 256)]
  truncateSync(files[1]!, 400)
  await offer(page, files)
  await page.getByRole('button', { name: 'Make the shot' }).click()
  const card = page.locator('[data-shot="e"]')
  await expect(card).toContainText('e.0002.jpg is damaged', { timeout: 30_000 })
  await card.getByRole('button', { name: 'Delete e' }).click()
  await page.getByRole('button', { name: 'Delete', exact: true }).click()
  await expect(card).toHaveCount(0)
})

test('a movie opens with its rate and its frames', async ({ page }) => {
  const movie = path.join(folder, 'pan.mov')
  execFileSync('ffmpeg', ['-v', 'error', '-f', 'lavfi', '-i', 'testsrc2=size=320x180:rate=30000/1001', '-frames:v', '12', '-c:v', 'ffv1', path.join(folder, 'pan.mkv')]) // prettier-ignore
  execFileSync('ffmpeg', ['-v', 'error', '-i', path.join(folder, 'pan.mkv'), '-c:v', 'prores_ks', movie])
  await offer(page, [movie])
  await expect(page.getByText('Movie of about 12 frames, 320 x 180')).toBeVisible()
  await expect(page.getByText('29.97')).toBeVisible()
  await page.getByRole('button', { name: 'Make the shot' }).click()
  await page.getByRole('link', { name: 'Open pan' }).click()
  await expect(page.getByText('1001-1012 · 29.97 fps')).toBeVisible()
})

test('the value under the pointer is the one of the plate, to four digits of sixteen bits', async ({ page }) => {
  const file = path.join(folder, 'deep.0001.png')
  const data = Uint16Array.from({ length: 64 * 48 * 3 }, (_, i) => [20000, 20001, 40000][i % 3]!)
  await sharp(data, { raw: { width: 64, height: 48, channels: 3 } })
    .toColourspace('rgb16')
    .toFile(file)
  await offer(page, [file])
  await page.getByRole('button', { name: 'Make the shot' }).click()
  await page.getByRole('link', { name: 'Open deep' }).click()
  await expect(page.getByTestId('frame')).toBeVisible()
  await page.getByTestId('viewer').hover()
  await expect(page.getByLabel('Place and values under the pointer')).toContainText('0.3052 0.3052 0.6104')
})

test('an upload that breaks off goes on where it was', async ({ page, request }) => {
  const bytes = readFileSync(await picture('f.0001.png', 400, 300))
  const half = bytes.length >> 1
  const tus = { 'Tus-Resumable': '1.0.0' }
  const patch = (place: string, from: number, data: Buffer) =>
    request.patch(place, {
      headers: { ...tus, 'Upload-Offset': String(from), 'Content-Type': 'application/offset+octet-stream' },
      data,
    })
  const made = await request.post('/api/uploads', { headers: { ...tus, 'Upload-Length': String(bytes.length) } })
  const place = made.headers().location!
  expect((await patch(place, 0, bytes.subarray(0, half))).status()).toBe(204)
  // Whoever comes back asks how far it got; bytes of another place are refused.
  expect((await request.head(place, { headers: tus })).headers()['upload-offset']).toBe(String(half))
  expect((await patch(place, half + 1, bytes.subarray(half + 1))).status()).toBe(409)
  const last = await patch(place, half, bytes.subarray(half))
  expect(last.headers()['upload-offset']).toBe(String(bytes.length))

  // The same in the page: the connection is cut in the first try of each file.
  const cut = new Set<string>()
  await page.route('**/api/uploads/*', (route) => {
    const address = route.request().url()
    if (route.request().method() !== 'PATCH' || cut.has(address)) return route.continue()
    cut.add(address)
    return route.abort('connectionreset')
  })
  await offer(page, [await picture('g.0001.png'), await picture('g.0002.png')])
  await expect(page.getByText('2 pictures, g.0001.png to g.0002.png')).toBeVisible()
  await page.getByRole('button', { name: 'Make the shot' }).click()
  await expect(page.getByRole('link', { name: 'Open g' })).toBeVisible({ timeout: 30_000 })
  expect(cut.size).toBe(2)
})

test('a shot opens while it is read: what is missing is shown so, and a track waits for its frames', async ({
  page,
}) => {
  const movie = path.join(folder, 'long.mkv')
  // A patch that slides to the right by a pixel a frame over grey, for long enough to be caught reading: a window slides over one picture.
  const patch = "nullsrc=s=1920x720:r=24:d=0.04,format=gray,geq=lum='if(between(X-640,150,310)*between(Y,280,440),128+100*sin((X-640)/9)*cos(Y/7),90)',loop=639:1,crop=1280:720:640-n:0" // prettier-ignore
  execFileSync('ffmpeg', ['-v', 'error', '-f', 'lavfi', '-i', patch, '-c:v', 'libx264', '-preset', 'ultrafast', '-qp', '4', movie]) // prettier-ignore
  await offer(page, [movie])
  await page.getByRole('button', { name: 'Make the shot' }).click()
  const card = page.locator('[data-shot="long"]')
  await expect(card).toContainText('frames read', { timeout: 30_000 })
  await card.getByRole('link', { name: 'Open long' }).click()
  const artist = new Artist(page, 1280, 720)
  await artist.settle()
  // The last frame is not there yet, and the page says so in place of another picture.
  await artist.key('End')
  await expect(page.getByTestId('missing-frame')).toContainText('Frame 1640 is not read yet')
  await artist.key('Home')
  await expect(page.getByTestId('missing-frame')).toBeHidden()
  await artist.step('Track')
  await artist.key('t')
  for (const [x, y] of [[160, 290], [300, 290], [300, 430], [160, 430]] as const) await artist.click(x, y) // prettier-ignore
  await artist.key('Enter')
  await artist.key('e')
  // On a slow machine it waits often and shortly: looked at in every frame of the page.
  await page.getByText('waits for the plate').waitFor({ timeout: 60_000 })
  await expect(artist.message()).toContainText('640 frames', { timeout: 240_000 })
  await expect(page.getByTestId('missing-frame')).toBeHidden()
  // What is told as done may still be on its way into the log.
  const wayOnLast = async () => {
    const track = [...(await artist.storedDocument()).objects.values()].find(({ kind }) => kind === 'track') as Track
    return sampleAt(track, 1640)?.matrix[2]
  }
  await expect.poll(wayOnLast).toBeGreaterThan(638)
  expect(await wayOnLast()).toBeLessThan(640)
})
