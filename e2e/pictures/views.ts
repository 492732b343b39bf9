import path from 'node:path'
import type { Page } from '@playwright/test'
import { Artist, truth } from '../artist'
import { expect, test } from '../test'

const FOLDER = path.resolve(import.meta.dirname, '..', '..', 'docs', 'screenshots')
const CUT = 'WS_010 cut'

/** What a view shows is laid out before its picture is taken. Pictures of one hand's work (feather, focus, softness, edges, seams, history) are taken by hand. */
type View = (artist: Artist) => Promise<void>

const face = (page: Page, name: string) => page.getByRole('tab', { name }).click()
const part = (page: Page, name: string) => page.locator(`[data-part="${name}"]`).click()

async function section(page: Page, name: string) {
  const button = page.getByRole('button', { name, exact: true })
  if ((await button.getAttribute('aria-expanded')) !== 'true') await button.click()
}

async function selected(artist: Artist, step: string, frame: number, name: string) {
  await artist.step(step)
  await artist.goTo(frame)
  await part(artist.page, name)
}

async function track(artist: Artist, name: string, shown: string) {
  await artist.step('Track')
  await artist.goTo(1030)
  await artist.page.locator(`[data-track="${name}"]`).click()
  await face(artist.page, shown)
}

const VIEWS: Record<string, View> = {
  track: (artist) => track(artist, 'signboard', 'Threads'),
  'track-curves': (artist) => track(artist, 'signboard', 'Curves'),
  'track-charts': (artist) => track(artist, 'signboard', 'Charts'),
  'track-proof': (artist) => track(artist, 'signboard', 'Proof strip'),
  async shape(artist) {
    await selected(artist, 'Shape', 1030, 'torso')
    await artist.zoomTo(560, 420, 1.6)
  },
  async mover(artist) {
    await selected(artist, 'Shape', 1030, 'torso')
    // Folded away, what is above it leaves the room.
    await artist.page.getByRole('button', { name: 'Pose', exact: true }).click()
    await section(artist.page, 'Mover')
  },
  async 'pose-curves'(artist) {
    await selected(artist, 'Shape', 1022, 'near shin')
    await face(artist.page, 'Curves')
  },
  async order(artist) {
    await selected(artist, 'Order', 1030, 'torso')
    await artist.key('2')
  },
}

for (const [name, view] of Object.entries(VIEWS)) {
  test(name, async ({ page }) => {
    const known = truth()
    const artist = new Artist(page, known.width, known.height)
    await artist.openShot(CUT)
    await view(artist)
    await taken(page, name)
  })
}

test('board', async ({ page }) => {
  await page.goto('/')
  await expect(page.getByRole('link', { name: `Open ${CUT}` })).toBeVisible()
  await taken(page, 'board')
})

/** Once nothing moves any more: frames, mattes and strips come after the act that asks for them. */
async function taken(page: Page, name: string) {
  const look = () => page.screenshot({ animations: 'disabled' })
  let before = await look()
  await expect(async () => {
    await page.waitForTimeout(1000)
    const now = await look()
    const isSame = now.equals(before)
    before = now
    expect(isSame).toBe(true)
  }).toPass({ timeout: 60_000 })
  await page.screenshot({ path: path.join(FOLDER, `${name}.png`), animations: 'disabled' })
}
