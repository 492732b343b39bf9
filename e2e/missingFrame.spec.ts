import { expect, test } from './test'
import { Artist } from './artist'
import { makeOwnShot } from './ownShot'

test('a frame that does not come is said, is not mistaken for another, holds nothing up, and is asked for again', async ({
  page,
}) => {
  const artist = new Artist(page, 1280, 720)
  let refuse = true
  let asked = 0
  await page.route('**/frames/1005/display', (route) => {
    asked++
    return refuse ? route.abort('connectionreset') : route.continue()
  })
  await makeOwnShot(page, 'Missing', 'missing', '/', 12)
  await artist.settle()
  const missing = page.getByTestId('missing-frame')
  await expect(missing).toBeHidden()
  await artist.goTo(1004)
  const before = await page.getByTestId('viewer').screenshot()
  await artist.goTo(1005)
  await expect(missing).toHaveText('Frame 1005 does not come from the server; it is asked for again')
  // The picture of the frame before is gone: all that is left is grey.
  expect((await page.getByTestId('viewer').screenshot()).length).toBeLessThan(before.length / 4)
  await artist.goTo(1006)
  await expect(missing).toBeHidden()

  // Played, it is passed over.
  await artist.goTo(1003)
  await artist.key(' ')
  // Looked at in every display frame: once a second it might be at the same place of its round each time.
  await page.waitForFunction(() => Number(document.querySelector('[data-testid="frame"]')?.textContent) > 1007)
  await artist.key(' ')

  await artist.goTo(1005)
  await expect(missing).toBeVisible()
  const askedBefore = asked
  await expect.poll(() => asked).toBeGreaterThan(askedBefore)
  refuse = false
  await expect(missing).toBeHidden()
  expect((await page.getByTestId('viewer').screenshot()).length).toBeGreaterThan(before.length / 2)
})

test('a frame that is long on its way is told so, until it is there', async ({ page }) => {
  const artist = new Artist(page, 1280, 720)
  let letGo = () => {}
  const held = new Promise<void>((resolve) => (letGo = resolve))
  await page.route('**/frames/1002/display', async (route) => {
    await held
    await route.continue()
  })
  await makeOwnShot(page, 'Late', 'late')
  await artist.settle()
  await artist.goTo(1002)
  await expect(page.getByTestId('missing-frame')).toHaveText('Frame 1002 is on its way')
  letGo()
  await expect(page.getByTestId('missing-frame')).toBeHidden()
})
