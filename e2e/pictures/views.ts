import path from 'node:path'
import type { Page } from '@playwright/test'
import { allOf } from '@tender-lasso/core/document'
import { edgeBars } from '@tender-lasso/core/evaluation'
import { Artist, truth } from '../artist'
import { expect, test } from '../test'

const FOLDER = path.resolve(import.meta.dirname, '..', '..', 'docs', 'screenshots')
const CUT = 'WS_010 cut'

/** What a view shows is laid out before its picture is taken. Pictures of hand-offs and live outputs are taken by hand. Returns how many edits that took. */
type View = (artist: Artist) => Promise<number | void>

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

async function barsOf(artist: Artist, name: string, frame: number, of: 'feather' | 'focus') {
  const document = await artist.storedDocument()
  const partId = allOf(document, 'part').find((one) => one.name === name)!.id
  const shapes = allOf(document, 'shape').filter((one) => one.partId === partId)
  return shapes.flatMap((shape) => edgeBars(document, shape, frame, of))
}

/** The bar at the point of a Part's shapes that lies farthest to the right above a line, plate pixels. */
async function rightmostBar(artist: Artist, name: string, frame: number, of: 'feather' | 'focus', above: number) {
  const bars = (await barsOf(artist, name, frame, of)).filter(({ y }) => y < above)
  return bars.sort((a, b) => b.x - a.x)[0]!
}

/** The bar at the point that lies farthest to the left. */
async function leftmostBar(artist: Artist, name: string, frame: number) {
  const bars = await barsOf(artist, name, frame, 'feather')
  return bars.sort((a, b) => a.x - b.x)[0]!
}

/** An edge made soft on both sides, and more so by one bar. */
async function softened(artist: Artist, of: 'feather' | 'focus', tool: string, widths: Record<string, number>) {
  await selected(artist, 'Edge', 1030, 'torso')
  for (const [label, width] of Object.entries(widths)) await artist.type(label, width)
  await artist.key(tool)
  await artist.zoomTo(560, 430, 1.7)
  const { x, y, outX, outY, outer } = await rightmostBar(artist, 'torso', 1030, of, 520)
  const away = of === 'feather' ? outer : 2 * widths['Focus blur']!
  await artist.drag(x + away * outX, y + away * outY, x + (away + 9) * outX, y + (away + 9) * outY)
  return Object.keys(widths).length + 1
}

/** Two halves of the sign beside the door on frame 1030, a little apart, plate pixels. */
const HALVES = [
  [[947, 238], [1061, 236], [1061, 270], [1061, 303], [948, 304]],
  [[1067, 236], [1178, 234], [1180, 304], [1067, 303], [1067, 270]],
] as const // prettier-ignore

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
  async seam(artist) {
    await artist.step('Shape')
    await artist.goTo(1030)
    for (const half of HALVES) {
      await artist.key('Escape')
      await artist.key('Escape')
      await artist.key('p')
      for (const [x, y] of half) await artist.click(x, y)
      await artist.key('Enter')
    }
    await artist.key('s')
    await artist.key('Escape')
    await artist.key('Escape')
    await artist.drag(1052, 220, 1076, 320)
    await artist.key('Alt+t')
    await expect(artist.message()).toContainText('takes its line from')
    await artist.zoomTo(1064, 270, 3.5)
    return 3
  },
  async 'pose-curves'(artist) {
    await selected(artist, 'Shape', 1022, 'near shin')
    await face(artist.page, 'Curves')
  },
  feather: (artist) => softened(artist, 'feather', 'Alt+f', { 'Feather in': 4, 'Feather out': 8 }),
  focus: (artist) => softened(artist, 'focus', 'Alt+b', { 'Focus blur': 3 }),
  async softness(artist) {
    await selected(artist, 'Edge', 1031, 'scarf')
    await artist.zoomTo(570, 350, 3)
    await artist.page.getByRole('button', { name: 'Measure on this frame' }).click()
    await artist.page.getByRole('button', { name: 'Leave it' }).waitFor()
    await artist.page.locator('.apexcharts-canvas').last().waitFor()
  },
  async edge(artist) {
    await selected(artist, 'Edge', 1019, 'scarf end')
    await face(artist.page, 'Edges')
    await artist.key('Alt+m')
    await artist.fit()
    // In the middle of what is swept, then onto its edge.
    await artist.zoomTo(400, 370, 5)
    const { x, y } = await leftmostBar(artist, 'scarf end', 1019)
    await artist.page.mouse.move(...artist.place(x, y))
  },
  async order(artist) {
    await selected(artist, 'Order', 1030, 'torso')
    await artist.key('2')
  },
  async layers(artist) {
    await selected(artist, 'Shape', 1030, 'torso')
    await artist.key('p')
    await artist.key('Shift+A')
    for (const [x, y] of [[540, 440], [590, 440], [590, 490], [540, 490]] as const) await artist.click(x, y) // prettier-ignore
    await artist.key('Enter')
    await selected(artist, 'Order', 1030, 'torso')
    await artist.mark(1046, 1052, 72)
    await artist.key('Shift+D')
    await artist.key('2')
    return 2
  },
  async history(artist) {
    await selected(artist, 'Shape', 1030, 'torso')
    await artist.key('Shift+H')
  },
}

for (const [name, view] of Object.entries(VIEWS)) {
  test(name, async ({ page }) => {
    const known = truth()
    const artist = new Artist(page, known.width, known.height)
    await artist.openShot(CUT)
    const edits = (await view(artist)) ?? 0
    await taken(page, name)
    for (let i = 0; i < edits; i++) await artist.key('Control+z')
    await artist.saved()
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
