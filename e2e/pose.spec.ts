import { rationalPoint } from '@tender-lasso/core/spline'
import { expect, test } from './test'
import { allOf } from '@tender-lasso/core/document'
import { outlineAt, shapesOf } from '@tender-lasso/core/evaluation'
import { Artist, truth } from './artist'
import { rename } from './mattes'

const SHOT = 'WS_010 lamplighter'

/** Where the first point of a Part's first shape is on a frame, by the document as it is stored. */
async function firstPoint(artist: Artist, part: string, frame: number): Promise<[number, number]> {
  const document = await artist.storedDocument()
  const owner = allOf(document, 'part').find(({ name }) => name === part)!
  return rationalPoint(outlineAt(document, shapesOf(document, owner.id)[0]!, frame), 0, 0)
}

const away = (a: readonly number[], b: readonly number[]) => Math.hypot(a[0]! - b[0]!, a[1]! - b[1]!)

test('a limb: one Part carries another, is turned about its joint between two keys, and both go along', async ({
  page,
}) => {
  const { width, height } = truth()
  const artist = new Artist(page, width, height)
  await artist.openShot(SHOT)
  await artist.step('Shape')
  // Places are those of whole pixels on screen: within one of the plate's.
  const triangle = async (name: string, corners: readonly [number, number][]) => {
    await artist.key('Escape')
    await artist.key('Escape')
    await artist.key('p')
    for (const [x, y] of corners) await artist.click(x, y)
    await artist.key('Enter')
    await artist.key('s')
    await rename(page, 'Part', name)
  }
  await triangle('upper arm', [
    [900, 300],
    [960, 320],
    [900, 400],
  ])
  await triangle('forearm', [[900, 400], [960, 420], [900, 500]]) // prettier-ignore
  await page.locator('[data-part="forearm"]').click()
  await page.getByLabel('Carried by', { exact: true }).click()
  await page.locator('.ant-select-item-option', { hasText: 'upper arm' }).last().click()

  // The shoulder by one click, a key, and ten frames on a quarter turn.
  await page.locator('[data-part="upper arm"]').click()
  await artist.key('r')
  await artist.click(900, 300)
  await artist.key('k')
  await artist.key('j')
  await expect(page.getByTestId('frame')).toHaveText('1036')
  await artist.goTo(1011)
  await artist.drag(980, 300, 900, 380)
  await artist.key('s')
  await expect(page.getByLabel('Pose rotation')).toHaveValue(/90(\.00)? °/)
  await expect.poll(async () => away(await firstPoint(artist, 'forearm', 1011), [800, 300])).toBeLessThan(1)
  // The same by numbers.
  await artist.type('Pose rotation', '-62')
  await expect(page.getByLabel('Pose rotation')).toHaveValue('-62.00 °')
  await artist.type('Pose scale x', '50')
  await expect(page.getByLabel('Pose scale x')).toHaveValue('50.0')
  await artist.type('Pose y', '+12')
  await expect.poll(async () => away(await firstPoint(artist, 'upper arm', 1011), [900, 312])).toBeLessThan(1)
  for (let i = 0; i < 3; i++) await artist.key('Control+z')
  await expect(page.getByLabel('Pose rotation')).toHaveValue(/90(\.00)? °/)
  // The outlines at the other key show beside the present ones.
  const alone = await artist.viewer.screenshot()
  await artist.key('u')
  await expect.poll(async () => alone.equals(await artist.viewer.screenshot())).toBe(false)
  await artist.key('u')
  expect(away(await firstPoint(artist, 'forearm', 1001), [900, 400])).toBeLessThan(1)
  const between = await firstPoint(artist, 'forearm', 1006)
  expect(Math.abs(away(between, [900, 300]) - 100)).toBeLessThan(1.5)

  // Pinned to the joint it cannot be pulled off; turned by a typed number it goes about the elbow.
  await page.locator('[data-part="forearm"]').click()
  await page.getByLabel('Pivot held by').click()
  await page.locator('.ant-select-item-option', { hasText: 'pinned to upper arm' }).last().click()
  // A choice that was made does not keep the keys to itself.
  await artist.key('Alt+ArrowRight')
  await expect(artist.message()).toContainText('pinned')

  // With keys of its own the pivot slides where it is dragged, from frame to frame.
  await page.getByLabel('Pivot held by').click()
  await page.locator('.ant-select-item-option', { hasText: 'held by keys of its own' }).last().click()
  const pivotKeys = page.getByText('Pivot keys').locator('xpath=..')
  await expect(pivotKeys).toContainText('1')
  await artist.key('ArrowLeft')
  await pivotKeys.getByRole('button', { name: 'Key here' }).click()
  await expect(pivotKeys).toContainText('2')
  await artist.key('Control+z')
  await expect(pivotKeys).toContainText('1')
  await artist.key('Control+z')
  await expect(pivotKeys).toHaveCount(0)
  await page.locator('[data-part="upper arm"]').click()
  await artist.key('Delete')
  await expect(page.locator('[data-part="forearm"]')).toHaveCount(0)
  await artist.saved()
})
