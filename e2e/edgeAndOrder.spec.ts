import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { expect, test, type Page } from './test'
import { unzipSync } from 'fflate'
import { Artist, truth } from './artist'

const FRAME = 1001

let folder: string
test.beforeAll(() => void (folder = mkdtempSync(path.join(tmpdir(), 'tender-lasso-order-'))))
test.afterAll(() => rmSync(folder, { recursive: true, force: true }))

async function lasso(artist: Artist, page: Page, id: string, outline: readonly number[]) {
  await artist.key('s')
  await artist.key('Escape')
  await artist.key('Escape')
  await artist.key('l')
  await artist.stroke([...outline])
  await artist.key('s')
  await page.locator('[data-part="Part"]').getByText('Part', { exact: true }).dblclick()
  await page.getByLabel('New name').fill(id)
  await page.getByLabel('New name').press('Enter')
}

test('two Parts by Lasso, feathered, reordered by dragging, handed off as one EXR whose visible mattes never exceed one', async ({
  page,
}) => {
  const known = truth()
  const artist = new Artist(page, known.width, known.height)
  await artist.openShot('WS_010 lamplighter')
  await artist.step('Shape')
  for (const id of ['scarf', 'coat']) {
    await lasso(artist, page, id, known.parts.find((part) => part.id === id)!.outlines[FRAME - 1001]!)
  }
  await artist.step('Edge')
  await artist.type('Feather out', '8/2')
  await artist.type('Feather in', 2)
  await expect(page.getByLabel('Feather out', { exact: true })).toHaveValue('4.0 px')
  await artist.saved()

  // The coat was drawn last and stands in front; drag it behind the scarf.
  await artist.step('Order')
  await page.getByTitle('Depth', { exact: true }).click()
  const rows = page.locator('[data-part]')
  await expect(rows.first()).toHaveAttribute('data-part', 'coat')
  const [from, to] = [
    await page.getByLabel('Drag coat nearer or farther').boundingBox(),
    await rows.nth(1).boundingBox(),
  ]
  await page.mouse.move(from!.x + 5, from!.y + 6)
  await page.mouse.down()
  await page.mouse.move(from!.x + 5, from!.y + 16, { steps: 3 })
  await page.mouse.move(from!.x + 5, to!.y + to!.height - 3, { steps: 6 })
  await page.mouse.up()
  await expect(rows.first()).toHaveAttribute('data-part', 'scarf')
  await artist.saved()

  await artist.step('Handoff')
  await page.getByTitle('Tree').click()
  await artist.key('Escape')
  await artist.key('Escape')
  await page.locator('[data-output="Channels"]').click()
  await artist.type('Last frame', FRAME + 1)
  await page.getByRole('button', { name: /^Write 2 mattes$/ }).click()
  await expect(page.getByRole('button', { name: 'Files' }).first()).toBeVisible({ timeout: 60_000 })
  const download = page.waitForEvent('download')
  await page.getByRole('link', { name: 'Download ZIP' }).first().click()
  const zip = path.join(folder, 'mattes.zip')
  await (await download).saveAs(zip)
  const entries = unzipSync(readFileSync(zip))
  const name = Object.keys(entries).find((entry) => entry.endsWith(`${FRAME}.exr`))!
  const file = path.join(folder, 'mattes.exr')
  writeFileSync(file, entries[name]!)
  const header = execFileSync('exrheader', [file], { encoding: 'utf8' })
  for (const part of ['coat', 'scarf']) expect(header).toMatch(new RegExp(`_${part}\\.A, 16-bit floating-point`))
  // Added up, what is seen of both covers no pixel more than once (within half-float rounding).
  const channels = [...header.matchAll(/(\S+\.A), 16-bit/g)].map((match) => match[1]!)
  const stats = execFileSync(
    'oiiotool',
    [file, '--ch', channels[0]!, file, '--ch', channels[1]!, '--add', '--printstats'],
    { encoding: 'utf8' },
  )
  const most = Number(/Max: ([\d.]+)/.exec(stats)![1])
  expect(most).toBeGreaterThan(0.99)
  expect(most).toBeLessThan(1.002)
})
