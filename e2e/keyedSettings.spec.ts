import { allOf, channelOf, outlineKeys, POINT_STRIDE, type Shape } from '@tender-lasso/core/document'
import { Artist, truth } from './artist'
import { expect, test } from './test'

/** Keys of a setting of the shapes that this test drew: the scarf, then the coat. */
const keysOf = (shapes: readonly Shape[], name: string) =>
  shapes.map((shape) =>
    channelOf(shape, name).keys.map(({ time, values }) => [time, Math.round(1000 * values[0]!) / 1000]),
  )

test('settings are keyed by one click, set on many shapes at once, seen in the timeline and drawn as curves', async ({
  page,
}) => {
  const known = truth()
  const artist = new Artist(page, known.width, known.height)
  await artist.openShot('WS_010 lamplighter')
  const before = new Set((await artist.storedDocument()).objects.keys())
  const drawn = async () => allOf(await artist.storedDocument(), 'shape').filter(({ id }) => !before.has(id))
  const outlineOf = (id: string) => known.parts.find((part) => part.id === id)!.outlines[0]!
  await artist.step('Shape')
  for (const id of ['scarf', 'coat']) {
    await artist.key('Escape')
    await artist.key('Escape')
    await artist.key('l')
    await artist.stroke([...outlineOf(id)])
  }
  await artist.key('s')
  const [scarf] = (await drawn()).map((shape) => outlineKeys(shape)[0]!.values)
  // Its leftmost point lies away from the coat.
  const points = Array.from({ length: scarf!.length / POINT_STRIDE }, (_, i) => scarf!.subarray(i * POINT_STRIDE))
  const [tip] = points.toSorted((a, b) => a[0]! - b[0]!)
  await artist.step('Edge')
  const feather = page.getByLabel('Feather out', { exact: true })
  const knot = (label: string) => page.getByTitle(new RegExp(`^Key of ${label}`, 'i'))

  // One shape: typed by mouse and keys, constant until its knot is tied.
  await feather.click()
  await page.keyboard.type('3')
  await page.keyboard.press('Enter')
  await expect(feather).toHaveValue('3.0 px')
  await expect(knot('Feather out')).toHaveAttribute('title', /the same on all frames/)
  await knot('Feather out').click()
  await expect(knot('Feather out')).toHaveAttribute('title', /on this frame/)
  await artist.goTo(1021)
  await expect(knot('Feather out')).toHaveAttribute('title', /on other frames/)
  await artist.type('Feather out', '+8')
  await expect(feather).toHaveValue('11.0 px')
  // Smooth between the two: halfway is the middle.
  await artist.goTo(1011)
  await expect(feather).toHaveValue('7.0 px')
  expect(keysOf(await drawn(), 'outerFeather')).toEqual([[], [[1001, 3], [1021, 11]]]) // prettier-ignore

  // Both shapes: by as much, each from where it is; the field shows how far apart they are.
  await page.keyboard.down('Shift')
  await artist.click(tip![0]!, tip![1]!)
  await page.keyboard.up('Shift')
  await expect(feather).toHaveValue('0.0 … 7.0 px')
  await artist.type('Feather out', '+1')
  await expect(feather).toHaveValue('1.0 … 8.0 px')
  await artist.type('Feather out', '*2')
  await artist.type('Opacity', '50')
  const both = await drawn()
  expect(keysOf(both, 'outerFeather')[1]).toEqual([[1001, 3], [1011, 16], [1021, 11]]) // prettier-ignore
  expect(both.map((shape) => channelOf(shape, 'opacity').constant![0])).toEqual([0.5, 0.5])
  expect(channelOf(both[0]!, 'outerFeather').constant![0]).toBe(2)

  // By Reach: on from here, all keys become that.
  await page.getByText('Onward', { exact: true }).click()
  await artist.type('Feather out', '4')
  expect(keysOf(await drawn(), 'outerFeather')[1]).toEqual([[1001, 3], [1011, 4], [1021, 4]]) // prettier-ignore
  await artist.key('Control+z')
  await expect(feather).toHaveValue('2.0 … 16.0 px')

  // The curve of a setting: its keys are chosen and typed like any others.
  await page.getByText('Curves', { exact: true }).click()
  await page.getByText('Feather out', { exact: true }).first().click()
  await page.getByText('Threads', { exact: true }).click()
  // The shutter of the shot itself: centred it stays so, and both its numbers are keyed.
  await artist.type('Shutter angle', '200')
  await expect(page.getByLabel('Shutter phase', { exact: true })).toHaveValue('-100 °')
  await knot('Shutter angle').click()
  await expect(knot('Shutter phase')).toHaveAttribute('title', /on this frame/)
  await artist.saved()
  await expect(page.getByText('set aside')).toHaveCount(0)

  // Every step can be taken back, to the first.
  while ((await drawn()).length > 0) await artist.key('Control+z')
})
