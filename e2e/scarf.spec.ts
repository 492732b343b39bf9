import { allOf } from '@tender-lasso/core/document'
import { edgeOn } from '@tender-lasso/core/evaluation'
import { Artist, FIRST, truth } from './artist'
import { drawThrough, MAKER_STEP, outlineOf } from './figure'
import { measuredOn, rename, words } from './mattes'
import { makeOwnShot } from './ownShot'
import { expect, test } from './test'
import { pointsPutRight } from './walker'

test.describe.configure({ timeout: 300_000 })

/** Cloth that flies is another on each frame. */
const KEY_EVERY = 3
/** A whole step of the walk, in which the scarf's end does all that it does, and a key before and behind it. */
const FRAMES = 31
/** What it was rendered with, sigma in plate pixels. */
const SOFTNESS = 1.5

/** Half way across the scarf where it lies on the shoulder. */
function insideOf(outline: readonly number[]): [number, number] {
  const [a, b] = [2 * MAKER_STEP, 9 * MAKER_STEP]
  return [(outline[a]! + outline[b]!) / 2, (outline[a + 1]! + outline[b + 1]!) / 2]
}

test('the scarf: soft and flying, put right on every third frame, softened as the plate is, within 0.02 of the truth about its edge', async ({
  page,
}) => {
  const known = truth()
  const artist = new Artist(page, known.width, known.height)
  await makeOwnShot(page, 'Scarf', 'scarf', '/', FRAMES)
  await artist.settle()
  await artist.step('Shape')
  await drawThrough(artist, outlineOf(known, 'scarf', FIRST), 2.5)
  await artist.key('s')
  await rename(page, 'Part', 'scarf')
  let before = outlineOf(known, 'scarf', FIRST)
  for (let frame = FIRST; frame < FIRST + FRAMES; frame += KEY_EVERY) {
    await artist.goTo(frame)
    // First the whole, then its points.
    const there = outlineOf(known, 'scarf', frame)
    if (frame > FIRST) await artist.drag(...insideOf(before), ...insideOf(there))
    await pointsPutRight(artist, await artist.storedDocument(), 'scarf', frame, there, insideOf(there))
    before = there
  }

  await artist.goTo(FIRST)
  await artist.step('Edge')
  await page.getByRole('button', { name: 'Measure on this frame' }).click()
  await expect(page.getByTestId('softness')).toContainText('places are clear')
  await page.getByText('Focus blur', { exact: true }).last().click()
  await page.getByRole('button', { name: 'Take over' }).click()
  await expect(page.getByTestId('softness')).toBeHidden()
  const document = await artist.storedDocument()
  const { focus } = edgeOn(allOf(document, 'shape')[0]!, FIRST)
  expect(Math.abs(focus - SOFTNESS)).toBeLessThanOrEqual(0.25)

  const frames = Array.from({ length: FRAMES - 2 * KEY_EVERY }, (_, i) => FIRST + KEY_EVERY + i)
  const error = await measuredOn(frames, document, ['scarf'], 'scarf')
  console.log(`scarf, a key every third frame, sigma ${focus.toFixed(2)} px: ${words(error)}`)
  expect(error.band).toBeLessThanOrEqual(0.02)
  expect(Math.abs(error.biasX)).toBeLessThanOrEqual(0.1)
  expect(Math.abs(error.biasY)).toBeLessThanOrEqual(0.1)
})
