import { expect, test, type Page } from './test'
import sharp from 'sharp'
import { allOf, findObject, type RotoDocument, outlineKeys, poseKeys } from '@tender-lasso/core/document'
import { controlPlacesAt, shapesOf } from '@tender-lasso/core/evaluation'
import { pivotOnPlate, RIG_PLANS } from '@tender-lasso/core/edits'
import { Artist, truth } from './artist'
import { jointPlaces, middleOf, outlineOf } from './figure'
import { rename } from './mattes'

const SHOT = 'WS_010 lamplighter'

async function artistAt(page: Page): Promise<Artist> {
  const { width, height } = truth()
  const artist = new Artist(page, width, height)
  await artist.openShot(SHOT)
  await artist.step('Shape')
  await nothingSelected(artist)
  return artist
}

async function nothingSelected(artist: Artist) {
  await artist.key('s')
  await artist.key('Escape')
  await artist.key('Escape')
}

const partNamed = (document: RotoDocument, name: string) => allOf(document, 'part').find((part) => part.name === name)!
const shapeIn = (document: RotoDocument, part: string) => shapesOf(document, partNamed(document, part).id)[0]!
const away = (a: ArrayLike<number>, b: ArrayLike<number>) => Math.hypot(a[0]! - b[0]!, a[1]! - b[1]!)

/** Draws a polygon with the pen and names its Part. */
async function polygon(artist: Artist, name: string, corners: readonly (readonly [number, number])[]) {
  await nothingSelected(artist)
  await artist.key('p')
  for (const [x, y] of corners) await artist.click(x, y)
  await artist.key('Enter')
  await artist.key('s')
  await rename(artist.page, 'Part', name)
  // Its shape, not the Part by itself.
  await artist.click(corners[0]![0], corners[0]![1])
}

/** Takes the shot back to how it was before a test, through the history. */
async function backToTheStart(artist: Artist, label: string) {
  await artist.key('Shift+H')
  const list = artist.page.getByRole('list', { name: 'Edits, newest first' })
  const row = list.getByRole('listitem').filter({ hasText: label })
  // Down the list until it is seen.
  await list.hover()
  await expect(async () => {
    if ((await row.count()) === 0) await artist.page.mouse.wheel(0, 300)
    await expect(row.last()).toBeVisible({ timeout: 100 })
  }).toPass()
  await row.last().hover()
  await row.last().getByRole('button', { name: 'Go there' }).click()
  await artist.key('Shift+H')
  await artist.saved()
}

test('a figure is rigged by clicking its joints; a pulled hand takes the arm along, on one frame and onward', async ({
  page,
}) => {
  const artist = await artistAt(page)
  await artist.key('Shift+M')
  const known = truth()
  await artist.goTo(1030)
  const plan = RIG_PLANS[0]!
  const places = jointPlaces(known, 1030)
  const before = artist.acts
  await artist.key('Shift+J')
  for (const joint of plan.joints) await artist.click(...places[joint]!)
  await expect(page.locator('[data-part="near hand"]')).toBeVisible()
  console.log(`rig a whole figure by its joints: ${artist.acts - before} acts`)
  let document = await artist.storedDocument()
  for (const { name, from } of plan.bones) {
    // A pointer stands on whole pixels of the screen.
    expect(away(pivotOnPlate(document, partNamed(document, name), 1030), places[from]!), name).toBeLessThan(1.2)
  }

  // The same from seven joints, the others guessed; then taken back.
  await nothingSelected(artist)
  const quick = RIG_PLANS.find(({ name }) => name === 'quick figure')!
  const start = artist.acts
  await artist.key('Shift+J')
  await page.getByTitle('quick figure', { exact: true }).click()
  for (const joint of quick.joints) await artist.click(...places[joint]!)
  await expect(page.locator('[data-part="near hand"]')).toHaveCount(2)
  console.log(`rig a whole figure by seven joints: ${artist.acts - start} acts`)
  await artist.key('Control+z')
  await expect(page.locator('[data-part="near hand"]')).toHaveCount(1)
  await artist.key('Shift+J')
  await page.getByTitle('figure', { exact: true }).click()
  await artist.key('s')

  // Pull the hand on frame 1040: on 1030, where it was drawn, nothing moves.
  await artist.goTo(1040)
  await page.locator('[data-part="near hand"]').click()
  const wrist = pivotOnPlate(document, partNamed(document, 'near hand'), 1040)
  const tip = places['near fingertips']!
  await artist.key('v')
  const grip = [(wrist[0] + tip[0]) / 2, (wrist[1] + tip[1]) / 2] as const
  await artist.drag(grip[0], grip[1], grip[0] + 20, grip[1] - 50)
  document = await artist.storedDocument()
  const pulled = pivotOnPlate(document, partNamed(document, 'near hand'), 1040)
  expect(away(pulled, [wrist[0] + 20, wrist[1] - 50])).toBeLessThan(1.6)
  expect(away(pivotOnPlate(document, partNamed(document, 'near hand'), 1030), wrist)).toBeLessThan(1e-6)
  expect(poseKeys(partNamed(document, 'near forearm')).map((key) => key.time)).toEqual([1030, 1040])

  // Onward: all keys from here on go the same way, once; then the Reach is Here again.
  await artist.goTo(1035)
  await artist.key(']')
  await expect(page.getByRole('radio', { name: 'Onward' })).toBeChecked()
  await page.locator('[data-part="torso"]').click()
  await artist.key('Alt+ArrowRight')
  await expect(artist.message()).toContainText('onward')
  await expect(page.getByRole('radio', { name: 'Here', exact: true })).toBeChecked()
  document = await artist.storedDocument()
  const torso = partNamed(document, 'torso')
  const hips = places.hips!
  expect(away(pivotOnPlate(document, torso, 1030), hips)).toBeLessThan(1.2)
  expect(pivotOnPlate(document, torso, 1050)[0] - pivotOnPlate(document, torso, 1030)[0]).toBeCloseTo(1, 6)

  // The arm once more, mirrored, six frames later.
  await page.locator('[data-part="near upper arm"]').click()
  await artist.type('Frames later', 6)
  await page.getByRole('button', { name: 'Mirrored' }).click()
  await expect(page.locator('[data-part="far upper arm 2"]')).toBeVisible()
  await backToTheStart(artist, 'bookmark 1001')
  await expect(page.locator('[data-part="torso"]')).toHaveCount(0)
})

test('two shapes are tied by their selected stretches; an edit of either moves both; the Seam is broken and undone', async ({
  page,
}) => {
  const artist = await artistAt(page)
  await polygon(artist, 'left piece', [[800, 200], [900, 200], [904, 260], [900, 320], [800, 320]]) // prettier-ignore
  await polygon(artist, 'right piece', [[915, 196], [1000, 200], [1000, 320], [912, 326]]) // prettier-ignore
  const before = artist.acts
  // Both shapes, then a band over the two sides that face one another.
  await nothingSelected(artist)
  await artist.drag(890, 180, 930, 340)
  await artist.key('Alt+t')
  await expect(artist.message()).toContainText('takes its line from')
  console.log(`tie two shapes along a stretch: ${artist.acts - before - 3} acts`)
  let document = await artist.storedDocument()
  const seam = allOf(document, 'seam')[0]!
  expect(seam.pairs).toHaveLength(3)
  const [owner, borrower] = [seam.ownerId, seam.borrowerId].map((id) => findObject(document, 'shape', id)!)
  const placeOf = (of: RotoDocument, shapeId: string, pointId: string) => {
    const shape = findObject(of, 'shape', shapeId)!
    const at = 2 * shape.pointIds.indexOf(pointId)
    return controlPlacesAt(of, shape, 1001).subarray(at, at + 2)
  }
  const pair = seam.pairs[1]!
  const there = placeOf(document, owner!.id, pair.owner)
  // Dragged on the borrower, the owner's point moves.
  await nothingSelected(artist)
  await artist.click(960, 260)
  await artist.drag(there[0]!, there[1]!, there[0]! + 14, there[1]! + 3)
  document = await artist.storedDocument()
  for (const [shape, point] of [[owner!.id, pair.owner], [borrower!.id, pair.borrower]] as const) {
    expect(away(placeOf(document, shape, point), [there[0]! + 14, there[1]! + 3])).toBeLessThan(1.6)
  } // prettier-ignore
  await page.getByRole('button', { name: 'Break' }).first().click()
  await artist.saved()
  expect(allOf(await artist.storedDocument(), 'seam')).toHaveLength(0)
  await artist.key('Control+z')
  await artist.saved()
  expect(allOf(await artist.storedDocument(), 'seam')).toHaveLength(1)
  for (const name of ['left piece', 'right piece']) {
    await page.locator(`[data-part="${name}"]`).click()
    await artist.key('Delete')
  }
  await artist.saved()
})

test('keys are chosen by a band, stretched and copied; a version is kept, compared and restored', async ({ page }) => {
  const artist = await artistAt(page)
  await artist.goTo(1001)
  await polygon(artist, 'banner', [[1040, 380], [1120, 380], [1120, 440], [1040, 440]]) // prettier-ignore
  for (const frame of [1011, 1021, 1031]) {
    await artist.goTo(frame)
    await artist.key('k')
  }
  const timeline = page.getByTestId('timeline')
  const box = (await timeline.boundingBox())!
  const frameX = (frame: number) => box.x + 132 + ((frame - 1001 + 0.5) / 72) * (box.width - 132 - 14)
  const rowY = box.y + 58 + 10
  const band = async (from: number, to: number) => {
    await page.mouse.move(frameX(from), rowY - 4)
    await page.mouse.down()
    await page.mouse.move(frameX(to), rowY + 14, { steps: 4 })
    await page.mouse.up()
  }
  const times = async () => outlineKeys(shapeIn(await artist.storedDocument(), 'banner')).map((key) => key.time)
  // Stretched about the present frame: from 1021 and 1031 to 1021 and 1041.
  await artist.goTo(1021)
  await band(1018, 1034)
  await page.keyboard.down('Alt')
  await page.mouse.move(frameX(1031), rowY)
  await page.mouse.down()
  await page.mouse.move(frameX(1041), rowY, { steps: 4 })
  await page.mouse.up()
  await page.keyboard.up('Alt')
  expect(await times()).toEqual([1001, 1011, 1021, 1041])
  await artist.key('Control+c')
  await artist.goTo(1050)
  await artist.key('Control+v')
  // The clipboard answers later.
  await expect.poll(times).toEqual([1001, 1011, 1021, 1041, 1050, 1070])

  await artist.key('Shift+H')
  await page.getByTitle('Versions', { exact: true }).click()
  await page.getByLabel('Name of the new version').fill('before the move')
  await page.getByRole('button', { name: 'Keep this version' }).click()
  await artist.saved()
  await artist.key('Shift+H')
  // All keys go along Everywhere, twice: locked.
  await artist.click(1040, 380)
  await artist.key('=')
  await artist.key('=')
  for (let i = 0; i < 2; i++) await artist.key('Alt+Shift+ArrowDown')
  await artist.key('0')
  let document = await artist.storedDocument()
  const topAt = (of: RotoDocument, frame: number) => controlPlacesAt(of, shapeIn(of, 'banner'), frame)[1]!
  for (const frame of [1001, 1030, 1072]) expect(Math.abs(topAt(document, frame) - 400)).toBeLessThan(1.2)
  expect(await times()).toHaveLength(6)

  const plain = await artist.viewer.screenshot()
  await artist.key('Shift+H')
  await page.getByTitle('Versions', { exact: true }).click()
  await page.getByRole('button', { name: 'Compare' }).click()
  await expect.poll(async () => plain.equals(await artist.viewer.screenshot())).toBe(false)
  await page.getByRole('button', { name: 'Restore' }).click()
  await artist.saved()
  document = await artist.storedDocument()
  expect(Math.abs(topAt(document, 1030) - 380)).toBeLessThan(1.2)
  expect(allOf(document, 'version')).toHaveLength(1)
  await page.getByRole('button', { name: 'Forget the version before the move' }).click()
  await artist.key('Shift+H')
  await page.locator('[data-part="banner"]').click()
  await artist.key('Delete')
  await artist.saved()
})

test('other kinds of outlines, converted into one another; keys of the keyboard are changed and given back', async ({
  page,
}) => {
  const artist = await artistAt(page)
  await artist.key('Shift+P')
  for (const [x, y] of [[700, 500], [800, 480], [840, 560], [760, 620], [690, 580]] as const) await artist.click(x, y) // prettier-ignore
  await artist.key('Enter')
  await artist.key('s')
  await rename(page, 'Part', 'bag')
  await artist.click(800, 480)
  await expect(page.getByLabel('Tension')).toBeVisible()
  await page.getByLabel('Kind of curve').click()
  await page.locator('.ant-select-item-option', { hasText: 'Bézier' }).click()
  await expect(artist.message()).toContainText('off by at most 0.00 px')
  await artist.saved()
  expect(shapeIn(await artist.storedDocument(), 'bag').curve).toBe('bezier')

  // A strap along its length, and a round buckle in the same Part.
  await artist.key('Shift+S')
  for (const [x, y] of [[700, 500], [740, 420], [800, 400]] as const) await artist.click(x, y) // prettier-ignore
  await artist.key('Enter')
  await artist.key('Shift+O')
  await artist.drag(740, 540, 770, 570)
  await artist.key('s')
  const document = await artist.storedDocument()
  const shapes = shapesOf(document, partNamed(document, 'bag').id)
  expect(shapes.map(({ name, isClosed }) => [name, isClosed])).toEqual([['outline', true], ['stroke 2', false], ['outline 3', true]]) // prettier-ignore

  // Next shape under the pointer: the bag beneath its buckle.
  await page.mouse.move(...artist.place(755, 555))
  await artist.key('x')
  await expect(artist.message()).toContainText('of 2 here')

  await artist.key('?')
  await page.getByLabel('Find an act').fill('halfway')
  await page.getByRole('button', { name: /^Keys of: Jump halfway/ }).click()
  await page.keyboard.press('F8')
  await expect(artist.message()).toContainText('F8')
  await page.keyboard.press('Escape')
  await artist.goTo(1001)
  await page.locator('[data-part="bag"]').click()
  await artist.key('F8')
  await expect(page.getByTestId('frame')).toHaveText('1036')
  await artist.key('?')
  await page.getByRole('button', { name: 'All as they were' }).click()
  await page.keyboard.press('Escape')
  await artist.key('Delete')
  await artist.saved()
})

test('a coat by the Lasso, put right on four frames that J finds: the acts are counted', async ({ page }) => {
  const artist = await artistAt(page)
  const known = truth()
  await artist.goTo(1036)
  const start = Date.now()
  const before = artist.acts
  await artist.key('l')
  await artist.stroke(outlineOf(known, 'coat', 1036))
  await artist.key('s')
  let acts = artist.acts - before
  let seconds = (Date.now() - start) / 1000
  await rename(page, 'Part', 'lassoed coat')
  // Its outline, not the Part by itself.
  const [edgeX, edgeY] = outlineOf(known, 'coat', 1036) as [number, number]
  await artist.click(edgeX, edgeY)
  const placesOn = async (frame: number) => {
    const document = await artist.storedDocument()
    return controlPlacesAt(document, shapeIn(document, 'lassoed coat'), frame)
  }
  // By how much the third point is off on each frame: as near as two that are put right make it.
  const left = new Map<number, number>()
  for (let round = 0; round < 4; round++) {
    const from = Date.now()
    const first = artist.acts
    await artist.key('j')
    const frame = Number(await page.getByTestId('frame').textContent())
    const there = outlineOf(known, 'coat', frame)
    // What the eye sees: by how much all of it is off, then which two points are the worst.
    const [x, y] = middleOf(await placesOn(frame))
    const [toX, toY] = middleOf(there)
    await artist.drag(x, y, toX, toY)
    left.set(frame, farthestFirst(await placesOn(frame), there)[2]!.far)
    for (let n = 0; n < 2; n++) {
      const [{ at, to }] = farthestFirst(await placesOn(frame), there) as [OffPlace]
      await artist.drag(at[0], at[1], to[0], to[1])
    }
    acts += artist.acts - first
    seconds += (Date.now() - from) / 1000
  }
  console.log(`a coat by the Lasso, put right on four frames: ${acts} acts, ${seconds.toFixed(1)} s`)
  expect(acts).toBe(19)
  const document = await artist.storedDocument()
  const shape = shapeIn(document, 'lassoed coat')
  expect(outlineKeys(shape).map(({ time }) => time)).toHaveLength(5)
  for (const [frame, most] of left) {
    const [{ far }] = farthestFirst(controlPlacesAt(document, shape, frame), outlineOf(known, 'coat', frame)) as [OffPlace] // prettier-ignore
    expect(far, `on ${frame}`).toBeLessThan(most + SCREEN_PIXEL)
  }
  await page.locator('[data-part="lassoed coat"]').click()
  await artist.key('Delete')
  await artist.saved()
})

/** Plate pixels of a pixel of the screen, where the whole plate is seen. */
const SCREEN_PIXEL = 1.5

/** A place, where on an outline it should be, and how far that is. */
interface OffPlace {
  at: [number, number]
  to: [number, number]
  far: number
}

function farthestFirst(places: ArrayLike<number>, outline: readonly number[]): OffPlace[] {
  const found: OffPlace[] = []
  for (let i = 0; i < places.length; i += 2) {
    const at: [number, number] = [places[i]!, places[i + 1]!]
    const nearest: OffPlace = { at, to: at, far: Infinity }
    for (let k = 0; k < outline.length; k += 2) {
      const to: [number, number] = [outline[k]!, outline[k + 1]!]
      if (away(at, to) < nearest.far) Object.assign(nearest, { to, far: away(at, to) })
    }
    found.push(nearest)
  }
  return found.sort((a, b) => b.far - a.far)
}

test('what is drawn: a cut-out over a colour and a picture, thicker lines that are remembered, a point kept in view', async ({
  page,
}) => {
  const artist = await artistAt(page)
  await artist.goTo(1001)
  await polygon(artist, 'patch', [[700, 60], [780, 60], [780, 130], [700, 130]]) // prettier-ignore
  const pixel = async (x: number, y: number) => {
    await page.waitForTimeout(400)
    const { data, info } = await sharp(await page.screenshot())
      .removeAlpha()
      .raw()
      .toBuffer({ resolveWithObject: true })
    const [sx, sy] = artist.place(x, y)
    return [...data.subarray((sy * info.width + sx) * 3, (sy * info.width + sx) * 3 + 3)]
  }
  const isNear = (a: number[], b: number[]) => a.every((value, i) => Math.abs(value - b[i]!) <= 3)
  const plate = await pixel(740, 95)
  await artist.key('4')
  await page.getByRole('button', { name: 'over grey' }).click()
  await page.getByRole('button', { name: 'over checker' }).click()
  await page.getByLabel('Colour of the ground').fill('#c02060')
  expect(isNear(await pixel(400, 300), [0xc0, 0x20, 0x60])).toBe(true)
  expect(isNear(await pixel(740, 95), plate)).toBe(true)
  await page.getByRole('button', { name: 'over a colour' }).click()
  const blue = await sharp({ create: { width: 64, height: 36, channels: 3, background: '#2040d0' } })
    .png()
    .toBuffer()
  const ground = page.getByLabel('Picture for the ground')
  await ground.setInputFiles({ name: 'no picture.png', mimeType: 'image/png', buffer: Buffer.from('not a picture') })
  await expect(artist.message()).toContainText('no picture')
  await ground.setInputFiles({ name: 'sky.png', mimeType: 'image/png', buffer: blue })
  await expect(page.getByRole('button', { name: 'sky.png' })).toBeVisible()
  expect(isNear(await pixel(400, 300), [0x20, 0x40, 0xd0])).toBe(true)
  await artist.key('1')

  // A corner is selected, the shape moved far away forty frames later: the view goes along with the corner.
  await artist.click(700, 60)
  await artist.goTo(1041)
  await artist.drag(740, 95, 940, 195)
  await artist.goTo(1001)
  await nothingSelected(artist)
  await artist.click(740, 95)
  await artist.click(700, 60)
  await artist.key('Alt+y')
  await expect(page.getByRole('button', { name: 'in view: selection' })).toBeVisible()
  await artist.goTo(1041)
  // Where the corner was on screen it still is.
  const [sx, sy] = artist.place(700, 60)
  await page.mouse.move(sx, sy)
  await page.mouse.down()
  await page.mouse.move(sx + 20, sy + 20, { steps: 3 })
  await page.mouse.up()
  await artist.key('Alt+y')
  await artist.fit()
  const document = await artist.storedDocument()
  const places = (frame: number) => controlPlacesAt(document, shapeIn(document, 'patch'), frame)
  const [dx, dy] = [0, 1].map((k) => places(1041)[k]! - places(1001)[k]!)
  const [wx, wy] = [2, 3].map((k) => places(1041)[k]! - places(1001)[k]!)
  expect(away([wx!, wy!], [200, 100])).toBeLessThan(3)
  const zoomed = Math.hypot(20, 20) / Math.hypot(dx! - wx!, dy! - wy!)
  expect(zoomed).toBeGreaterThan(0.6)
  expect(zoomed).toBeLessThan(0.85)

  await page.getByRole('button', { name: 'Lines' }).click()
  await artist.type('Thickness of outlines', 2.5)
  await artist.type('Size of points', 12)
  await page.keyboard.press('Escape')
  const shade = partNamed(document, 'patch').shade
  await page.getByRole('button', { name: 'Shade of patch' }).click()
  expect(partNamed(await artist.storedDocument(), 'patch').shade).toBe((shade + 1) % 12)
  await page.reload()
  await artist.settle()
  await page.getByRole('button', { name: 'Lines' }).click()
  await expect(page.getByLabel('Thickness of outlines')).toHaveValue('2.5 px')
  await artist.type('Thickness of outlines', 1)
  await artist.type('Size of points', 6.8)
  await page.locator('[data-part="patch"]').click()
  await artist.key('Delete')
  await artist.saved()
})
