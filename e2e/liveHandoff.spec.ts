import { spawn, type ChildProcess } from 'node:child_process'
import { mkdtempSync, readdirSync, readFileSync, rmSync, statSync } from 'node:fs'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { programFile } from '../bin/programs'
import { Artist, truth } from './artist'
import { greyPng } from './mattes'
import { makeOwnShot, rectangle } from './ownShot'
import { expect, test } from './test'

const folder = mkdtempSync(path.join(tmpdir(), 'tender-lasso-live-'))
let watcher: ChildProcess | null = null
test.afterAll(() => {
  watcher?.kill('SIGTERM')
  rmSync(folder, { recursive: true, force: true })
})

/** The stand-in for a compositing program, and the lines that it has written. */
function watch(address: string, ...more: string[]): string[] {
  const lines: string[] = []
  watcher = spawn(process.execPath, [programFile('bin/watch.ts'), address, folder, ...more], {
    cwd: path.resolve(import.meta.dirname, '..'),
  })
  const said = (chunk: Buffer) => lines.push(...chunk.toString().split('\n').filter(Boolean))
  watcher.stdout!.on('data', said)
  watcher.stderr!.on('data', said)
  return lines
}

const filesIn = () => readdirSync(folder).filter((name) => !name.startsWith('.'))
const sumOf = async (name: string) => (await greyPng(readFileSync(path.join(folder, name)))).data.reduce((sum, alpha) => sum + alpha, 0) // prettier-ignore

test('live: a reader is let in, its folder follows each edit frame by frame, and it is shut out', async ({ page }) => {
  const known = truth()
  const artist = new Artist(page, known.width, known.height)
  await makeOwnShot(page, 'Live', 'LIVE_010')
  await artist.settle()
  await rectangle(artist, 'sign', [200, 200, 500, 420])

  await artist.step('Handoff')
  await page.getByRole('radiogroup', { name: 'How it is given' }).getByText('Live', { exact: true }).click()
  await expect(page.getByText('Nobody is let in.')).toBeVisible()
  await page.getByLabel('Who reads').fill('Comp desk')
  await page.getByLabel('Who reads').press('Enter')
  const address = await page.getByRole('status').getByText('?token=').textContent()
  const readers = page.getByRole('list', { name: 'Readers' })
  await expect(readers).toContainText('Comp desk')
  await expect(readers).toContainText('has not read yet')

  // Without its token nobody reads.
  const bare = address!.split('?')[0]!
  expect((await page.request.get(`${bare}/manifest.json`)).status()).toBe(401)
  expect((await page.request.get(`${bare}/manifest.json?token=tl_wrong`)).status()).toBe(403)

  const lines = watch(address!, '--as', 'png')
  await expect.poll(() => lines.join('\n'), { timeout: 60_000 }).toContain('the same as edit')
  expect(filesIn()).toEqual([1001, 1002, 1003].map((frame) => `LIVE_010_Mattes.${frame}.png`))
  const [first, , last] = filesIn() as [string, string, string]
  const before = await sumOf(first)
  expect(Math.abs(before - 300 * 220)).toBeLessThan(800)

  // One point moved: every frame is another one, and comes by itself.
  lines.length = 0
  await artist.step('Shape')
  await artist.fit()
  await page.locator('[data-part="sign"]').click()
  await artist.click(500, 420)
  await artist.drag(500, 420, 540, 460)
  await artist.saved()
  await expect.poll(() => lines.join('\n'), { timeout: 20_000 }).toContain('the same as edit')
  await expect.poll(() => sumOf(first)).toBeGreaterThan(before * 1.05)

  // Taken back, the files are those of before.
  const when = statSync(path.join(folder, last)).mtimeMs
  lines.length = 0
  await artist.key('ControlOrMeta+z')
  await artist.saved()
  await expect.poll(() => lines.join('\n'), { timeout: 20_000 }).toContain('the same as edit')
  await expect.poll(() => sumOf(first)).toBe(before)
  expect(statSync(path.join(folder, last)).mtimeMs).toBeGreaterThan(when)

  // A frame that is had already costs nothing.
  const token = new URL(address!).searchParams.get('token')
  const headers = { Authorization: `Bearer ${token}` }
  const frame = await page.request.get(`${bare}/1001.exr`, { headers })
  expect(frame.headers()['content-type']).toBe('image/x-exr')
  const etag = frame.headers().etag!
  expect((await page.request.get(`${bare}/1001.exr`, { headers: { ...headers, 'If-None-Match': etag } })).status()).toBe(304) // prettier-ignore
  expect((await page.request.get(`${bare}/1004.exr`, { headers })).status()).toBe(404)

  await artist.step('Handoff')
  await page.getByRole('radiogroup', { name: 'How it is given' }).getByText('Live', { exact: true }).click()
  await expect(readers).toContainText('read ')
  await page.getByRole('button', { name: 'Revoke Comp desk' }).click()
  await expect(page.getByText('Nobody is let in.')).toBeVisible()
  expect((await page.request.get(`${bare}/1001.exr`, { headers })).status()).toBe(403)
  await expect.poll(() => lines.join('\n'), { timeout: 40_000 }).toContain('The address is refused (403)')
})
