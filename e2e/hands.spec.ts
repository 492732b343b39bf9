import { allOf, findObject, type RotoDocument, poseKeys, outlineKeys } from '@tender-lasso/core/document'
import { jointEnds } from '@tender-lasso/core/edits'
import { shapePointsAt } from '@tender-lasso/core/evaluation'
import { Artist, truth } from './artist'
import { makeOwnShot } from './ownShot'
import { expect, test, type Page } from './test'

test.describe.configure({ timeout: 120_000 })

/** An artist at a shot of their own, of some of the demonstration's pictures. */
async function atOwnShot(page: Page, shot: string, frames = 12): Promise<Artist> {
  const { width, height } = truth()
  await makeOwnShot(page, `Hands ${shot}`, shot, '/', frames)
  const artist = new Artist(page, width, height)
  await artist.settle()
  return artist
}

const happened = (page: Page) => page.getByRole('region', { name: 'What happened' })
const names = (document: RotoDocument) => allOf(document, 'part').map(({ name }) => name)

async function drawRectangle(artist: Artist, left: number, top: number, right: number, bottom: number) {
  await artist.key('Shift+t')
  await artist.drag(left, top, right, bottom)
}

test('the plate has half of the screen, and what the step is about stands at the top of the properties', async ({
  page,
}) => {
  const artist = await atOwnShot(page, 'room', 3)
  const viewer = (await page.getByTestId('viewer').boundingBox())!
  const { width, height } = truth()
  const zoom = Math.min((viewer.width - 12) / width, (viewer.height - 12) / height)
  expect((width * zoom * height * zoom) / (1280 * 800)).toBeGreaterThan(0.5)
  await artist.step('Order')
  await page.getByRole('button', { name: 'Part', exact: true }).click()
  const sections = page.getByRole('region', { name: 'Properties' }).locator('[aria-expanded]')
  await expect(sections.first()).toHaveText(/Depth and holdout/)
  await artist.step('Edge')
  await expect(sections.first()).toHaveText(/Edge/)
})

test('settings act on all selected tracks; what was changed is tracked anew, and a lost track says what would help', async ({
  page,
}) => {
  const artist = await atOwnShot(page, 'tracks')
  const { features } = truth()
  const on = (feature: number) => features[feature]!.positions[0] as [number, number]
  await artist.step('Track')
  await artist.key('m')
  await artist.click(...on(8))
  await page.keyboard.down('Shift')
  await artist.click(...on(9))
  await page.keyboard.up('Shift')
  await artist.key('w')
  await expect(artist.message()).toContainText('24 frames', { timeout: 60_000 })
  await artist.key('w')
  await expect(artist.message()).toContainText('all 24 frames kept')
  await page.getByLabel('Model').click()
  await page
    .locator('.ant-select-item-option', { hasText: /^Affine$/ })
    .last()
    .click()
  await expect(artist.message()).toContainText('2 tracks')
  await artist.key('w')
  await expect(artist.message()).toContainText('22 redone', { timeout: 60_000 })
  let tracks = allOf(await artist.storedDocument(), 'track')
  expect(tracks.map(({ model }) => model)).toEqual(['affine', 'affine'])

  // A limit that nothing meets: the list names it, with both numbers, and mends it by one click.
  await artist.type('Minimum match', 1)
  await artist.key('w')
  const list = happened(page)
  await expect(list).toContainText('Stop below is 1.00')
  await expect(list).toContainText('lost')
  await list
    .getByRole('button', { name: /^Stop below 0\.\d\d and go on/ })
    .first()
    .click()
  await expect(artist.message()).toContainText('12 frames', { timeout: 60_000 })
  tracks = allOf(await artist.storedDocument(), 'track')
  expect(tracks.filter(({ minimumMatch }) => minimumMatch < 1)).toHaveLength(1)
  await list.getByRole('button', { name: 'Close what happened' }).click()
  await expect(list).toBeHidden()
})

test('Shift-drag marks frames on every face, Esc takes the mark before the selection, what needs one says so', async ({
  page,
}) => {
  const artist = await atOwnShot(page, 'marks')
  await artist.step('Track')
  await artist.key('m')
  await artist.click(...(truth().features[8]!.positions[0] as [number, number]))
  await artist.key('e')
  await expect(artist.message()).toContainText('Point: 12 frames', { timeout: 60_000 })
  await artist.key('Shift+Delete')
  await expect(artist.message()).toContainText('Mark the frames to clear first')
  const known = page.getByText('12 frames', { exact: true })
  await expect(known).toBeVisible()
  const shiftDrag = async (testId: 'timeline' | 'curves') => {
    const box = (await page.getByTestId(testId).boundingBox())!
    await page.keyboard.down('Shift')
    await page.mouse.move(box.x + box.width * 0.5, box.y + box.height * 0.85)
    await page.mouse.down()
    await page.mouse.move(box.x + box.width * 0.8, box.y + box.height * 0.85, { steps: 4 })
    await page.mouse.up()
    await page.keyboard.up('Shift')
  }
  await shiftDrag('timeline')
  await artist.key('Shift+Delete')
  await expect(artist.message()).toContainText('is cleared from')
  await artist.key('Control+z')
  await artist.key('Escape')
  // The mark is gone, the track is still selected.
  await artist.key('Shift+Delete')
  await expect(artist.message()).toContainText('Mark the frames to clear first')
  await page.getByRole('tab', { name: 'Curves' }).click()
  await shiftDrag('curves')
  await artist.key('Shift+Delete')
  await expect(artist.message()).toContainText('is cleared from')
})

test('a Bridge is made over the gap at hand, though a mark is left over elsewhere', async ({ page }) => {
  const artist = await atOwnShot(page, 'gap')
  await artist.step('Track')
  await artist.key('m')
  await artist.click(...(truth().features[8]!.positions[0] as [number, number]))
  await artist.key('e')
  await expect(artist.message()).toContainText('Point: 12 frames', { timeout: 60_000 })
  await page.getByText('Threads', { exact: true }).click()
  await artist.mark(1004, 1006, 12)
  // Frames are marked by it, and no words.
  expect(await page.evaluate(() => getSelection()!.toString())).toBe('')
  await artist.key('Shift+Delete')
  await expect(artist.message()).toContainText('is cleared from 1004 to 1006')
  await artist.mark(1009, 1010, 12)
  await artist.goTo(1005)
  await artist.key('b')
  await expect(artist.message()).toContainText('Bridge over 3 frames')
  await expect(page.getByText('on a Bridge').first()).toBeVisible()
})

test('keys that were pasted are the chosen ones: Repeat repeats them', async ({ page }) => {
  const artist = await atOwnShot(page, 'repeat')
  await artist.step('Shape')
  await drawRectangle(artist, 200, 200, 400, 400)
  await artist.key('s')
  await artist.goTo(1003)
  await artist.drag(300, 300, 330, 300)
  const times = async () => outlineKeys(allOf(await artist.storedDocument(), 'shape')[0]!).map(({ time }) => time)
  expect(await times()).toEqual([1001, 1003])
  // Both keys by a band over the thread, copied to 1006, and those repeated.
  const box = (await page.getByTestId('timeline').boundingBox())!
  await page.mouse.move(box.x + 140, box.y + 62)
  await page.mouse.down()
  await page.mouse.move(box.x + 132 + 3.5 * ((box.width - 146) / 12), box.y + 76, { steps: 4 })
  await page.mouse.up()
  await artist.key('Control+c')
  await expect(artist.message()).toHaveText('Copied 2 keys')
  await artist.goTo(1006)
  await artist.key('Control+v')
  // The clipboard answers later.
  await expect.poll(times).toEqual([1001, 1003, 1006, 1008])
  await artist.key('Alt+r')
  expect(await times()).toEqual([1001, 1003, 1006, 1008, 1010, 1012])
})

test('shapes drawn with nothing selected join the Subject at hand, behind what stays in front; keys name and move them', async ({
  page,
}) => {
  const artist = await atOwnShot(page, 'parts', 3)
  await artist.step('Shape')
  await drawRectangle(artist, 600, 100, 660, 600)
  await artist.step('Order')
  await artist.key('s')
  await page.getByLabel('Stays in front of new Parts').click()
  await artist.key('F2')
  await page.getByLabel('New name').fill('post')
  await page.getByLabel('New name').press('Enter')
  await artist.key('Escape')
  await artist.key('Escape')
  await artist.step('Shape')
  await drawRectangle(artist, 200, 200, 300, 400)
  await expect(artist.message()).toContainText('behind post')
  await artist.key('Escape')
  await artist.key('Escape')
  await drawRectangle(artist, 320, 200, 400, 400)
  await expect(artist.message()).toContainText('behind post')
  const document = await artist.storedDocument()
  expect(allOf(document, 'subject')).toHaveLength(1)
  expect(new Set(names(document)).size).toBe(3)
  await artist.key('PageUp')
  await expect(artist.message()).toContainText('is 1 of 3, in front of all')
  await artist.key('PageDown')
  await expect(artist.message()).toContainText('behind post')
})

test('a Part moves as a Part from inside and from its line, and the pointer says so; a pixel is moved by a longer press', async ({
  page,
}) => {
  const artist = await atOwnShot(page, 'moves', 3)
  await artist.step('Shape')
  await drawRectangle(artist, 200, 200, 400, 400)
  await artist.key('s')
  await artist.key('Enter')
  const shape = () => artist.storedDocument().then((document) => allOf(document, 'shape')[0]!)
  const before = await shape()
  await page.mouse.move(...artist.place(300, 300))
  await expect(page.getByText(/^Drag: move .*, as a Part$/)).toBeVisible()
  await artist.drag(300, 300, 340, 320)
  const document = await artist.storedDocument()
  const part = allOf(document, 'part')[0]!
  expect(poseKeys(part)).toHaveLength(1)
  expect(Math.abs(poseKeys(part)[0]!.values[0]! - 40)).toBeLessThan(1.5)
  expect(outlineKeys(findObject(document, 'shape', before.id)!)).toEqual(outlineKeys(before))

  // A point, by one pixel of the screen, with a press that is no click.
  await artist.click(340, 320)
  const [x, y] = artist.place(240, 220)
  await page.mouse.move(x, y)
  await page.mouse.down()
  await page.waitForTimeout(200)
  await page.mouse.move(x + 1, y)
  await page.mouse.up()
  const after = await shape()
  const moved = shapePointsAt(after, 1001).map((value, i) => value - shapePointsAt(before, 1001)[i]!)
  expect(Math.max(...moved)).toBeGreaterThan(0.5)
  expect(Math.max(...moved)).toBeLessThan(3)
})

test('Span acts on the stretch that is marked, says which, and asks for one where none is', async ({ page }) => {
  const artist = await atOwnShot(page, 'span')
  await artist.step('Shape')
  await drawRectangle(artist, 200, 200, 400, 400)
  await artist.key('s')
  await page.getByRole('radio', { name: 'Span' }).click()
  await expect(artist.message()).toContainText('Shift-drag over its frames')
  const keys = async () => outlineKeys(allOf(await artist.storedDocument(), 'shape')[0]!).map(({ time }) => time)
  await artist.drag(300, 300, 330, 300)
  await expect(artist.message()).toContainText('Span acts on a marked stretch')
  expect(await keys()).toEqual([1001])
  const box = (await page.getByTestId('timeline').boundingBox())!
  const frameX = (frame: number) => box.x + 132 + ((frame - 1001 + 0.5) / 12) * (box.width - 132 - 14)
  await page.keyboard.down('Shift')
  await page.mouse.move(frameX(1006), box.y + 8)
  await page.mouse.down()
  await page.mouse.move(frameX(1007), box.y + 8, { steps: 3 })
  await page.mouse.up()
  await page.keyboard.up('Shift')
  await artist.goTo(1006)
  await artist.drag(300, 300, 330, 300)
  expect(await keys()).toEqual([1001, 1006, 1007, 1012])
})

test('the Depth list scrolls while a Part is dragged to its end', async ({ page }) => {
  const artist = await atOwnShot(page, 'depths', 3)
  await page.getByText('Depth', { exact: true }).click()
  for (let i = 0; i < 16; i++) await page.getByRole('button', { name: 'Part', exact: true }).click()
  const rows = page.getByRole('grid', { name: 'Parts by depth' }).getByRole('row')
  await expect(rows).toHaveCount(16)
  const list = (await page.getByRole('region', { name: 'Subjects' }).boundingBox())!
  // More than six rows are seen at once.
  const heights = await rows.evaluateAll((all) => all.map((row) => row.getBoundingClientRect().bottom))
  expect(heights.filter((bottom) => bottom <= list.y + list.height - 34).length).toBeGreaterThan(6)
  await page.mouse.move(list.x + 100, list.y + 120)
  await page.mouse.wheel(0, -3000)
  await page.waitForTimeout(300)
  const name = (await rows.first().getAttribute('data-part'))!
  const grip = (await page.getByLabel(`Drag ${name} nearer or farther`).boundingBox())!
  await page.mouse.move(grip.x + 5, grip.y + 6)
  await page.mouse.down()
  await page.mouse.move(grip.x + 5, grip.y + 40, { steps: 4 })
  await page.mouse.move(grip.x + 5, list.y + list.height - 44, { steps: 6 })
  await page.waitForTimeout(2500)
  await page.mouse.up()
  await expect(rows.last()).toHaveAttribute('data-part', name)
  await artist.saved()
})

test('a limb: its widths come right after its joints, from the plate or by hand, both sides at once', async ({
  page,
}) => {
  const artist = await atOwnShot(page, 'widths', 3)
  await artist.step('Shape')
  await artist.key('Shift+j')
  await page.getByTitle('arm', { exact: true }).click()
  for (const [x, y] of [[830, 150], [830, 250], [830, 340], [830, 380]] as const) await artist.click(x, y) // prettier-ignore
  await expect(page.locator('[data-part="hand"]')).toBeVisible()
  const upper = async () => {
    const document = await artist.storedDocument()
    const part = allOf(document, 'part').find(({ name }) => name === 'upper arm')!
    return jointEnds(document, allOf(document, 'shape').filter(({ partId }) => partId === part.id), 1001)[1]! // prettier-ignore
  }
  const before = await upper()
  const side = before.right
  const away = Math.sign(side[0] - before.joint[0])
  await artist.drag(side[0], side[1], before.joint[0] + away * 30, side[1])
  const after = await upper()
  expect(Math.abs(after.half - 30)).toBeLessThan(1.5)
  expect(Math.hypot(after.joint[0] - before.joint[0], after.joint[1] - before.joint[1])).toBeLessThan(0.01)
  await artist.key('Enter')
  await expect(artist.message()).toContainText(/taken from the plate|No clear edge/)
  await artist.key('Escape')
  await expect(page.getByRole('button', { name: 'Select', exact: true })).toHaveAttribute('aria-pressed', 'true')
})
