import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import path from 'node:path'
import type { Page } from '@playwright/test'
import { allOf } from '@tender-lasso/core/document'
import { Artist, truth } from './artist'
import { downloaded, greyPng } from './mattes'
import { makeOwnShot, rectangle } from './ownShot'
import { expect, test } from './test'

let folder: string
test.beforeAll(() => void (folder = mkdtempSync(path.join(tmpdir(), 'tender-lasso-outputs-'))))
test.afterAll(() => rmSync(folder, { recursive: true, force: true }))

const row = (page: Page, name: string) => page.locator(`[data-output="${name}"]`)

const chosen = (page: Page, label: string) =>
  page.locator('.ant-select').filter({ has: page.getByLabel(label, { exact: true }) })

async function choose(page: Page, label: string, option: string) {
  await page.getByLabel(label, { exact: true }).click()
  await page.locator('.ant-select-dropdown:visible .ant-select-item-option', { hasText: option }).click()
}

test('outputs: made, written, behind after a point moved, written again; object ids, a range of one frame, undo', async ({
  page,
}) => {
  const known = truth()
  const artist = new Artist(page, known.width, known.height)
  await makeOwnShot(page, 'Outputs', 'OUT_010')
  await artist.settle()
  await rectangle(artist, 'Bänk / links', [200, 200, 500, 420])
  await rectangle(artist, 'pole', [420, 120, 640, 560])

  await artist.step('Handoff')
  // A new shot has outputs, and the step shows them.
  await expect(page.getByRole('tab', { name: 'Outputs' })).toHaveAttribute('aria-selected', 'true')
  for (const name of ['Mattes', 'Channels', 'Object ids']) await expect(row(page, name)).toContainText('never written')
  await artist.key('Escape')
  await artist.key('Escape')
  await page.getByRole('button', { name: 'Write all' }).click()
  for (const name of ['Mattes', 'Channels', 'Object ids']) {
    await expect(row(page, name)).toContainText('v001, up to date', { timeout: 60_000 })
  }
  const before = await downloaded(page, path.join(folder, 'mattes.zip'))
  expect(
    before.map(({ path: name }) => name.replace(/\d{4}\.png$/, '')).filter((name, i, all) => all.indexOf(name) === i),
  ).toEqual(
    // Nearest first; accents and slashes are no part of a file's name.
    ['pole', 'Bank_links'].map((part) =>
      expect.stringMatching(new RegExp(`^(.*_)?${part}/OUT_010_(.*_)?${part}_v001\\.$`)),
    ),
  )
  expect(before).toHaveLength(6)

  // One Part is moved: what shows it is behind, by one edit of that Part.
  await artist.step('Shape')
  await artist.fit()
  await page.locator('[data-part="pole"]').click()
  await artist.click(640, 560)
  await artist.drag(640, 560, 660, 580)
  await artist.saved()
  await artist.step('Handoff')
  for (const name of ['Mattes', 'Channels', 'Object ids'])
    await expect(row(page, name)).toContainText('v001, 1 edit behind: pole')
  await row(page, 'Mattes').click()
  await page.getByRole('button', { name: /^Write 2 mattes$/ }).click()
  await expect(row(page, 'Mattes')).toContainText('v002, up to date', { timeout: 60_000 })
  await expect(row(page, 'Channels')).toContainText('1 edit behind')
  const after = await downloaded(page, path.join(folder, 'after.zip'))
  const sum = async (files: typeof before, part: string) => {
    const file = files.find(({ path: name, frame }) => name.includes(`${part}/`) && frame === files[0]!.frame)!
    return (await greyPng(file.bytes)).data.reduce((total, alpha) => total + alpha, 0)
  }
  expect(await sum(after, 'pole')).toBeGreaterThan((await sum(before, 'pole')) + 100)
  expect(after[0]!.path).toContain('_v002.')
  // Looked at in the viewer, against the mattes as they are now: the second is theirs, the first is not where the point was moved.
  const shown = page.getByTestId('delivered-matte')
  const deliveries = page.getByLabel('Hand-offs').getByRole('listitem')
  await deliveries.nth(0).getByRole('button', { name: 'Show' }).click()
  await expect(shown).toHaveText('alike')
  await deliveries.nth(1).getByRole('button', { name: 'Show' }).click()
  await expect(shown).toHaveText(/^[1-9]\d* pixels differ, by 1\.00 at most$/)
  const different = await artist.viewer.screenshot()
  await artist.key('Control+z')
  await expect(shown).toHaveText('alike')
  await expect.poll(async () => different.equals(await artist.viewer.screenshot())).toBe(false)
  await artist.key('Control+Shift+z')
  await expect(shown).toHaveText(/pixels differ/)
  await artist.key('ArrowRight')
  await expect(shown).toHaveText(/pixels differ/)
  await page.getByText('As delivered', { exact: true }).click()
  await expect(shown).toHaveText(/pole$/)
  await deliveries.nth(1).getByRole('button', { name: 'Hide' }).click()
  await expect(shown).toBeHidden()
  await artist.key('ArrowLeft')
  // The first delivery made again is the first delivery, bit for bit.
  await page.getByLabel('Hand-offs').getByRole('button', { name: 'Again' }).last().click()
  await expect(page.getByLabel('Hand-offs').getByRole('link', { name: 'Download ZIP' })).toHaveCount(3, {
    timeout: 60_000,
  })
  const again = await downloaded(page, path.join(folder, 'again.zip'))
  expect(again.map(({ path: name }) => name)).toEqual(before.map(({ path: name }) => name))
  again.forEach(({ bytes }, i) => expect(Buffer.from(bytes).equals(Buffer.from(before[i]!.bytes))).toBe(true))

  // An output of one Part, as a data window of EXR floats, of one frame.
  await page.locator('[data-part="pole"]').click()
  await page.getByRole('button', { name: 'New output' }).click()
  await expect(row(page, 'pole')).toHaveAttribute('aria-selected', 'true')
  await choose(page, 'Layout', 'All as channels')
  await expect(row(page, 'pole')).toContainText('EXR half, channels')
  await choose(page, 'Format', 'EXR float')
  await page.getByRole('switch', { name: 'Data window' }).click()
  await artist.type('Last frame', 1001)
  await expect(row(page, 'pole')).toContainText('EXR float, channels')
  await choose(page, 'Primaries', 'ACES AP1')
  const notes = page.getByLabel('Notes in the files')
  await notes.fill('type = matte')
  await expect(page.getByText('files have something of their own by the name of that note')).toBeVisible()
  await notes.fill('show = Wick Street')
  await notes.blur()
  await page.getByRole('button', { name: /^Write 1 matte$/ }).click()
  await expect(row(page, 'pole')).toContainText('v001, up to date', { timeout: 60_000 })
  const [exr, ...others] = await downloaded(page, path.join(folder, 'pole.zip'))
  expect(others).toEqual([])
  writeFileSync(path.join(folder, 'pole.exr'), exr!.bytes)
  execFileSync('exrinfo', ['-s', path.join(folder, 'pole.exr')])
  const header = execFileSync('exrheader', [path.join(folder, 'pole.exr')], { encoding: 'utf8' })
  expect(header).toMatch(/pole\.A, 32-bit floating-point/)
  expect(header).toMatch(/show \(type string\): "Wick Street"/)
  expect(header).toMatch(/red +\(0\.713 0\.293\)/)
  const [, left, top, right, bottom] = /dataWindow \(type box2i\): \((\d+) (\d+)\) - \((\d+) (\d+)\)/
    .exec(header)!
    .map(Number)
  expect(
    [Math.abs(left! - 420), Math.abs(top! - 120), Math.abs(right! - 660), Math.abs(bottom! - 580)].every(
      (off) => off <= 3,
    ),
  ).toBe(true)

  // A pattern that names nothing is said and not stored; settings are undone like any edit.
  const pattern = page.getByLabel('Name pattern')
  await pattern.fill('{hat}.{frame}')
  await expect(page.getByText('{hat} stands for nothing')).toBeVisible()
  await pattern.press('Enter')
  await expect(pattern).not.toHaveValue('{hat}.{frame}')
  await page.getByTestId('viewer').hover()
  // Notes, primaries, range.
  for (let i = 0; i < 3; i++) await artist.key('Control+z')
  await expect(row(page, 'pole')).toContainText('1001-1003')
  expect(allOf(await artist.storedDocument(), 'output').find(({ name }) => name === 'pole')).toMatchObject({
    range: null,
    window: 'data',
  })
})

test('a movie to look at: the mattes in colour over the plate, and a lossless one of the same output', async ({
  page,
}) => {
  const known = truth()
  const artist = new Artist(page, known.width, known.height)
  await makeOwnShot(page, 'Movies', 'MOVIE_010')
  await artist.settle()
  await rectangle(artist, 'sign', [200, 200, 500, 420])
  await artist.step('Handoff')
  await choose(page, 'Format', 'Movie to look at (H.264)')
  await expect(chosen(page, 'Layout')).toContainText('In colour over the plate')
  await expect(row(page, 'Mattes')).toContainText('H.264, over the plate')
  const written = async (version: string, name: string) => {
    await page.getByRole('button', { name: /^Write 1 matte$/ }).click()
    await expect(row(page, 'Mattes')).toContainText(`${version}, up to date`, { timeout: 60_000 })
    const [movie, ...others] = await downloaded(page, path.join(folder, 'movies.zip'))
    expect(others).toEqual([])
    const file = path.join(folder, name)
    writeFileSync(file, movie!.bytes)
    const probed = execFileSync('ffprobe', ['-v', 'error', '-of', 'json', '-count_frames', '-show_streams', file])
    return { path: movie!.path, file, ...(JSON.parse(probed.toString()) as { streams: object[] }).streams[0] }
  }
  const shown = await written('v001', 'shown.mp4')
  expect(shown).toMatchObject({ codec_name: 'h264', width: 1280, height: 720, nb_read_frames: '3' })
  // Inside of the sign the plate's colours are half those of its Part; beside it they are the plate's.
  const rgb = execFileSync('ffmpeg', ['-v', 'error', '-i', shown.file, '-frames:v', '1', '-pix_fmt', 'rgb24', '-f', 'rawvideo', '-'], { maxBuffer: 2 ** 24 }) // prettier-ignore
  const mean = (left: number, top: number) => {
    let blue = 0
    for (let y = top; y < top + 20; y++) for (let x = left; x < left + 20; x++) blue += rgb[3 * (y * 1280 + x) + 2]!
    return blue / 400
  }
  expect(mean(220, 390)).toBeGreaterThan(mean(170, 390) + 40)

  await choose(page, 'Format', 'Movie, lossless (FFV1)')
  await expect(chosen(page, 'Layout')).toContainText('One matte a picture')
  const lossless = await written('v002', 'matte.mkv')
  expect(lossless).toMatchObject({ codec_name: 'ffv1', pix_fmt: 'gray16le', nb_read_frames: '3' })
})

test('a delivery is cancelled and gone on with; one of nothing is refused in words', async ({ page }) => {
  const known = truth()
  const artist = new Artist(page, known.width, known.height)
  await makeOwnShot(page, 'Long', 'LONG_010', '/', 40)
  await artist.settle()
  await artist.step('Handoff')
  await expect(page.getByText('There is no matte to hand off yet')).toBeVisible()
  await expect(page.getByRole('button', { name: /^Write 0 mattes$/ })).toBeDisabled()
  await page.getByRole('button', { name: 'Write all' }).click()
  await expect(page.getByText(/holds no matte/).first()).toBeVisible()
  await rectangle(artist, 'pole', [420, 120, 640, 560])
  await artist.step('Handoff')
  // What takes longest, so that it is still under way.
  await row(page, 'Object ids').click()
  await page.getByRole('button', { name: /^Write 1 matte$/ }).click()
  await page.getByLabel('Hand-offs').getByRole('button', { name: 'Cancel' }).click()
  await expect(page.getByLabel('Hand-offs')).toContainText('cancelled')
  await page.getByLabel('Hand-offs').getByRole('button', { name: 'Resume' }).click()
  await expect(row(page, 'Object ids')).toContainText('v001, up to date', { timeout: 60_000 })
  expect(await downloaded(page, path.join(folder, 'long.zip'))).toHaveLength(40)
})

test('shot data: saved, read into a new shot of the same plate, where the mattes are the same bit for bit', async ({
  page,
}) => {
  const known = truth()
  const artist = new Artist(page, known.width, known.height)
  await makeOwnShot(page, 'Here', 'MOVED_010')
  await artist.settle()
  await rectangle(artist, 'bench', [200, 200, 500, 420])
  await artist.step('Edge')
  await artist.type('Feather out', 6)
  await rectangle(artist, 'pole', [420, 120, 640, 560])
  // It goes along, so that its matte has motion blur.
  await artist.goTo(1003)
  await artist.drag(560, 300, 590, 310)
  await artist.saved()
  const written = async (name: string) => {
    await artist.step('Handoff')
    await artist.key('Escape')
    await artist.key('Escape')
    await row(page, 'Mattes').click()
    await page.getByRole('button', { name: /^Write 2 mattes$/ }).click()
    await expect(row(page, 'Mattes')).toContainText('v001, up to date', { timeout: 60_000 })
    return downloaded(page, path.join(folder, `${name}.zip`))
  }
  const here = await written('here')
  await page.getByRole('button', { name: 'Shot data' }).click()
  const download = page.waitForEvent('download')
  await page.getByRole('button', { name: 'Save shot data' }).click()
  const file = path.join(folder, 'moved.json')
  await (await download).saveAs(file)
  // Its outlines as SVG: paths by name, frame by frame, and words on what SVG does not hold.
  const drawing = page.waitForEvent('download')
  await page.getByRole('button', { name: 'SVG, animated' }).click()
  await (await drawing).saveAs(path.join(folder, 'moved.svg'))
  await expect(page.getByText(/Outlines are within 0\.00\d px of ours; without feather/)).toBeVisible()
  const svg = readFileSync(path.join(folder, 'moved.svg'), 'utf8')
  for (const name of ['bench', 'pole']) expect(svg).toContain(`<g id="${name}"`)
  expect(/values="([^"]*)"/.exec(svg)![1]!.split(';')).toHaveLength(3)
  const lottie = page.waitForEvent('download')
  await page.getByRole('button', { name: 'Lottie', exact: true }).click()
  await (await lottie).saveAs(path.join(folder, 'moved.json.lottie'))
  const animation = JSON.parse(readFileSync(path.join(folder, 'moved.json.lottie'), 'utf8')) as { op: number; layers: { nm: string }[] } // prettier-ignore
  expect(animation.op).toBe(3)
  expect(animation.layers.map(({ nm }) => nm)).toEqual(['pole', 'bench'])
  // Read back, its layers are Parts of a Subject of their own; undone, the shot is as before.
  await page.getByLabel('Lottie file').setInputFiles(path.join(folder, 'moved.json.lottie'))
  await expect(page.getByText('2 Parts read from MOVED_010')).toBeVisible()
  await expect(page.locator('[data-part="pole"]')).toHaveCount(2)
  await page.getByTestId('viewer').hover()
  await artist.key('Control+z')
  await expect(page.locator('[data-part="pole"]')).toHaveCount(1)

  await makeOwnShot(page, 'There', 'THERE_010')
  await artist.settle()
  await artist.step('Handoff')
  await page.getByRole('button', { name: 'Shot data' }).click()
  // What is no shot data changes nothing.
  const hostile = path.join(folder, 'hostile.json')
  writeFileSync(
    hostile,
    JSON.stringify({
      format: 'tender-lasso-shot',
      version: 1,
      schemaVersion: 1,
      name: 'x',
      whole: true,
      objects: [{ kind: 'part' }],
    }),
  )
  await page.getByLabel('Shot data file').setInputFiles(hostile)
  await expect(page.getByText(/cannot be read: object 1/)).toBeVisible()
  await page.getByLabel('Shot data file').setInputFiles(file)
  await expect(page.getByText('2 Parts read from MOVED_010')).toBeVisible()
  await expect(page.locator('[data-part]')).toHaveCount(2)
  await artist.saved()
  const there = await written('there')
  expect(there.map(({ path: name }) => name.replace('THERE', 'MOVED'))).toEqual(here.map(({ path: name }) => name))
  there.forEach(({ bytes }, i) => expect(Buffer.from(bytes).equals(Buffer.from(here[i]!.bytes))).toBe(true))
  // As one edit: undone, nothing of it is there.
  await page.getByTestId('viewer').hover()
  await artist.key('Control+z')
  await expect(page.locator('[data-part]')).toHaveCount(0)
})
