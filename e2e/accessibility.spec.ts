import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { expect, test, type Page } from './test'
import { Artist } from './artist'
import { makeOwnShot } from './ownShot'

/** axe-core (Deque) on every main screen: no serious and no critical finding. */
const axe = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8')

interface Finding {
  id: string
  impact: string
  nodes: { target: string[]; html: string }[]
}

async function expectNoFinding(page: Page, screen: string) {
  // What fades in is judged when it is there.
  await page.evaluate(() => Promise.allSettled(document.getAnimations().map(({ finished }) => finished)))
  await page.evaluate(axe)
  const findings = (await page.evaluate('window.axe.run().then((result) => result.violations)')) as Finding[]
  const told = findings
    .filter(({ impact }) => impact === 'serious' || impact === 'critical')
    .flatMap(({ id, impact, nodes }) => nodes.map(({ html }) => `${screen}: ${impact} ${id}: ${html.slice(0, 160)}`))
  expect(told).toEqual([])
}

const STEPS = ['Study', 'Track', 'Shape', 'Edge', 'Order', 'Check', 'Handoff']

test('no main screen has a serious fault for those who use other senses or other devices', async ({ page }) => {
  await page.goto('/')
  await expect(page.getByRole('heading', { name: 'Wick Street' })).toBeVisible()
  await expectNoFinding(page, 'Shot board')
  await page.getByRole('button', { name: 'New project' }).click()
  await page.getByLabel('Name of the project').fill('Trial')
  await expectNoFinding(page, 'new project')
  await page.keyboard.press('Escape')

  const artist = new Artist(page, 1280, 720)
  await makeOwnShot(page, 'For all senses', 'senses')
  await artist.settle()
  // Two Parts, a track with its region, all three faces of Subjects.
  for (const x of [300, 620]) {
    await page.getByRole('button', { name: 'Part', exact: true }).click()
    await artist.key('p')
    for (const [dx, dy] of [[0, 0], [160, 0], [160, 160], [0, 160]] as const) await artist.click(x + dx, 220 + dy) // prettier-ignore
    await artist.key('Enter')
    await artist.key('Escape')
    await artist.key('Escape')
  }
  await artist.key('t')
  for (const [x, y] of [[440, 380], [560, 380], [560, 470], [440, 470]] as const) await artist.click(x, y) // prettier-ignore
  await artist.key('Enter')
  for (const step of STEPS) {
    await page.getByRole('button', { name: step, exact: true }).first().click()
    // It comes a moment after the pointer, and is judged with the screen.
    await expect(page.getByRole('tooltip').filter({ visible: true })).toHaveCount(1)
    await expectNoFinding(page, step)
  }
  for (const face of ['Tree', 'Depth', 'Tracks']) {
    await page.getByText(face, { exact: true }).click()
    await expectNoFinding(page, face)
  }
  await page.getByText('Tree', { exact: true }).click()
  await page.locator('[data-part]').first().click()
  await expectNoFinding(page, 'a Part selected')
  // With two shapes they lie open in the tree.
  await artist.key('p')
  await artist.key('Shift+A')
  for (const [x, y] of [[340, 260], [400, 260], [370, 320]] as const) await artist.click(x, y) // prettier-ignore
  await artist.key('Enter')
  await artist.key('s')
  await expect(page.locator('[data-shape]').first()).toBeVisible()
  await page.getByRole('button', { name: 'Edge', exact: true }).first().click()
  await expectNoFinding(page, 'shapes of a Part')
  await page.getByLabel('Falloff of the feather').click({ force: true })
  await page.getByTitle('A curve of your own: drag the ends of its tangents').last().click()
  await expect(page.getByRole('slider', { name: 'Slope where it is full' })).toBeVisible()
  await page.getByRole('tab', { name: 'Edges' }).click()
  await expectNoFinding(page, 'a falloff of its own, and Edges')
  await page.getByRole('tab', { name: 'Threads' }).click()
  await artist.key('?')
  await expect(page.getByLabel('Find an act')).toBeVisible()
  await expectNoFinding(page, 'sheet of keys')
  await artist.key('Escape')
  await expect(page.getByLabel('Find an act')).toBeHidden()
  await artist.key('Shift+H')
  await expect(page.getByLabel('Edits, newest first')).toBeVisible()
  await expectNoFinding(page, 'History')
  await page.getByTitle('Versions', { exact: true }).click()
  await expectNoFinding(page, 'Versions')
  await artist.key('Shift+H')
})

test('arrow keys walk through tree and lists, and choose what they reach; over the picture they stay its own', async ({
  page,
}) => {
  const artist = new Artist(page, 1280, 720)
  await artist.openShot('senses')
  const tree = page.getByRole('treegrid')
  const rows = tree.getByRole('row')
  await rows.first().focus()
  await page.keyboard.press('ArrowDown')
  await expect(rows.nth(1)).toBeFocused()
  await expect(rows.nth(1)).toHaveAttribute('aria-selected', 'true')
  await page.keyboard.press('End')
  await expect(rows.last()).toHaveAttribute('aria-selected', 'true')
  await page.keyboard.press('ArrowLeft')
  await expect(rows.last()).not.toBeFocused()
  await page.keyboard.press('Home')
  await expect(rows.first()).toBeFocused()
  await page.keyboard.press('ArrowRight')
  await expect(rows.nth(1)).toBeFocused()
  const frame = await page.getByTestId('frame').textContent()
  await page.getByText('Depth', { exact: true }).click()
  await page.getByRole('grid', { name: 'Parts by depth' }).getByRole('row').first().focus()
  await page.keyboard.press('ArrowDown')
  await expect(page.getByRole('grid', { name: 'Parts by depth' }).getByRole('row').nth(1)).toBeFocused()
  expect(await page.getByTestId('frame').textContent()).toBe(frame)
  // A click gives the keys back to the picture.
  await page.getByRole('grid', { name: 'Parts by depth' }).getByRole('row').first().click()
  await page.keyboard.press('ArrowRight')
  await expect(page.getByTestId('frame')).not.toHaveText(frame!)
})
