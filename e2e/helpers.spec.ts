import { allOf } from '@tender-lasso/core/document'
import { followedMatrix } from '@tender-lasso/core/evaluation'
import { expect, test } from './test'
import { Artist } from './artist'
import { makeOwnShot } from './ownShot'

test('helpers of the page that die are told and started again: mattes and tracks go on, nothing stays busy', async ({
  page,
}) => {
  const artist = new Artist(page, 1280, 720)
  await makeOwnShot(page, 'Helpers', 'helped')
  await artist.settle()
  await artist.key('p')
  for (const [x, y] of [[300, 220], [460, 220], [460, 380], [300, 380]] as const) await artist.click(x, y) // prettier-ignore
  await artist.key('Enter')
  await artist.key('Escape')

  // The worker's code cannot be had: it is dead before it begins.
  let broken = true
  let asked = 0
  await page.route(/matte\.worker|track\.worker|turbopack-worker|worker/, async (route) => {
    if (route.request().resourceType() === 'document' || !broken) return route.continue()
    asked++
    await route.abort()
  })
  await artist.key('2')
  await expect(page.getByTestId('message')).toContainText('The mattes could not be drawn')
  await expect(page.getByTestId('message')).toContainText('started again')
  expect(asked).toBeGreaterThan(0)
  broken = false
  await artist.key('ArrowRight')
  await expect
    .poll(() => page.evaluate(() => performance.getEntriesByName('exact matte').length), { timeout: 20_000 })
    .toBeGreaterThan(0)
  await artist.key('1')

  broken = true
  await artist.key('t')
  await artist.drag(545, 385, 625, 445)
  await artist.key('s')
  await artist.key('e')
  await expect(page.getByTestId('message')).toContainText(
    'The tracks were not carried on: The helper that looks at pictures ended',
  )
  broken = false
  await artist.key('e')
  await expect(page.getByTestId('message')).toContainText(/frames|stopped before|leaves the picture/, {
    timeout: 120_000,
  })
})

test('a shot left while it is tracked or played keeps what was found, and the next one hears nothing of it', async ({
  page,
}) => {
  const artist = new Artist(page, 1280, 720)
  await makeOwnShot(page, 'Left', 'left', '/', 30)
  await artist.settle()
  // Pictures from the twentieth frame on do not come until they are let go.
  let letGo = () => {}
  const held = new Promise<void>((resolve) => (letGo = resolve))
  await page.route('**/tiles?*', async (route) => {
    const frames = new URL(route.request().url()).searchParams.get('frames')!.split(',').map(Number)
    if (frames.some((frame) => frame >= 1020)) await held
    await route.continue()
  })
  await artist.step('Track')
  await artist.key('t')
  await artist.drag(545, 385, 625, 445)
  await artist.key('s')
  await artist.key('e')
  await expect.poll(async () => Number(await page.getByTestId('frame').textContent())).toBeGreaterThan(1004)
  await expect(page.getByRole('button', { name: 'Stop' })).toBeVisible()
  await page.getByTitle('To the Shot board').click()

  await page.getByRole('link', { name: 'Open WS_010 lamplighter', exact: true }).click()
  await artist.settle()
  await artist.goTo(1003)
  letGo()
  await expect(page.getByRole('button', { name: 'Stop' })).toBeHidden()
  await page.waitForTimeout(1500)
  await expect(page.getByTestId('frame')).toHaveText('1003')
  await expect(page.getByRole('button', { name: 'Stop' })).toBeHidden()

  await page.getByTitle('To the Shot board').click()
  await page.getByRole('link', { name: 'Open left', exact: true }).click()
  await artist.settle()
  const [track] = allOf(await artist.storedDocument(), 'track')
  const known = Array.from({ length: 30 }, (_, i) => 1001 + i).filter((frame) => followedMatrix(track!, frame))
  expect(known.length).toBeGreaterThan(3)
  expect(known).toEqual(known.map((_, i) => 1001 + i))

  // What is drawn in the moment before it is left arrives all the same.
  const { shotId } = artist
  const shapes = async () => allOf(await artist.documentOf(shotId), 'shape').length
  const before = await shapes()
  await page.route('**/api/shots/*/edits', async (route) => {
    await new Promise((resolve) => setTimeout(resolve, 500))
    await route.continue()
  })
  await artist.key('p')
  for (const [x, y] of [[300, 220], [460, 220], [460, 380]] as const) await artist.click(x, y) // prettier-ignore
  await artist.key('Enter')
  await page.getByTitle('To the Shot board').click()
  await expect.poll(shapes).toBe(before + 1)
  await page.unroute('**/api/shots/*/edits')
  await page.getByRole('link', { name: 'Open left', exact: true }).click()
  await artist.settle()

  // Nor does one that plays go on in the next.
  await artist.key(' ')
  await expect(page.getByTestId('frame')).not.toHaveText('1001')
  await page.getByTitle('To the Shot board').click()
  await page.getByRole('link', { name: 'Open WS_010 lamplighter', exact: true }).click()
  await artist.settle()
  await page.waitForTimeout(1500)
  await expect(page.getByTestId('frame')).toHaveText('1001')
})
