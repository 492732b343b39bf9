import { expect, type Page } from '@playwright/test'
import { allOf, POINT, POINT_STRIDE, type RotoDocument, type Shape } from '@tender-lasso/core/document'
import { controlPlacesAt, pointWorldsAt, shapePointsAt, shapesOf } from '@tender-lasso/core/evaluation'
import { applyToPoint } from '@tender-lasso/core/geometry'
import { Artist, truth } from './artist'
import { acrossAt, drawThrough, hatBandAndBrim, MAKER_STEP, middleOf, outlineOf, tangentThrough } from './figure'
import { rename } from './mattes'

const SHOT = 'WS_010 lamplighter'
/** The first and the last frame on which the post hides most of the hat. */
const BEHIND_POST = [1050, 1052] as const
/** A frame on which the figure is clear of the lamp post. */
export const REFERENCE = 1030

/** The shot with its truth, in the Shape step. */
export async function shapeStep(page: Page) {
  const known = truth()
  const artist = new Artist(page, known.width, known.height)
  await artist.openShot(SHOT)
  await artist.step('Shape')
  return { known, artist }
}

export async function nothingSelected(artist: Artist) {
  await artist.key('s')
  await artist.key('Escape')
  await artist.key('Escape')
}

/** Corners by the pen, each placed under high zoom. */
export async function polygon(artist: Artist, name: string, corners: readonly number[], zoom = 8) {
  await nothingSelected(artist)
  await artist.key('p')
  for (let i = 0; i < corners.length; i += 2) {
    await artist.zoomTo(corners[i]!, corners[i + 1]!, zoom)
    await artist.click(corners[i]!, corners[i + 1]!)
    await artist.fit()
  }
  await artist.key('Enter')
  await artist.key('s')
  await rename(artist.page, 'Part', name)
}

export async function choose(page: Page, label: string, option: string) {
  await page.getByLabel(label, { exact: true }).click()
  await page.locator('.ant-select-item-option', { hasText: option }).last().click()
}

/** A region through places of the present frame, tracked to both ends of the shot. */
export async function tracked(
  artist: Artist,
  name: string,
  places: readonly (readonly [number, number])[],
  { model, leftOut, channel, least }: { model: RegExp; leftOut: readonly string[]; channel?: string; least?: number },
) {
  const { page } = artist
  await artist.step('Track')
  await artist.key('t')
  for (const place of places) await artist.click(...place)
  await artist.key('Enter')
  await page.getByLabel('Model', { exact: true }).click()
  await page.locator('.ant-select-item-option', { hasText: model }).first().click()
  const section = page.getByRole('button', { name: 'Left out' })
  if (leftOut.length && (await section.getAttribute('aria-expanded')) !== 'true') await section.click()
  for (const part of leftOut) await choose(page, 'Leave out a Part', part)
  if (channel) await choose(page, 'Channel', channel)
  if (least) await artist.type('Minimum match', least)
  await page.getByRole('button', { name: 'Track both ways', exact: true }).click()
  await expect(page.getByRole('button', { name: 'Track both ways', exact: true })).toBeVisible({ timeout: 120_000 })
  await page.getByLabel('Name of the track', { exact: true }).fill(name)
  await page.getByLabel('Name of the track', { exact: true }).press('Enter')
}

/** What a track has of jitter smoothed, by channels. */
export async function smoothed(artist: Artist, strengths: Record<string, number>) {
  const { page } = artist
  const section = page.getByRole('button', { name: 'Smooth', exact: true })
  if ((await section.getAttribute('aria-expanded')) !== 'true') await section.click()
  await page.getByTitle('Spline', { exact: true }).click()
  for (const [channel, strength] of Object.entries(strengths)) {
    await artist.type(`Smooth ${channel}`, strength)
  }
}

/** A Mover for what is selected. Of many tracks the list shows some: it is found by its name. */
export async function hungOn(page: Page, track: string) {
  await page.getByLabel('Mover', { exact: true }).click()
  await page.keyboard.type(track)
  await page.locator('.ant-select-item-option', { hasText: track }).click()
}

export const lock = (page: Page, part: string) =>
  page.locator(`[data-part="${part}"]`).getByRole('button', { name: 'Lock', exact: true }).click()

/** Points of the first shape of a Part on a frame, plate pixels. */
export const shapePlaces = (document: RotoDocument, part: string, frame: number): Float64Array =>
  controlPlacesAt(document, firstShape(document, part), frame)

function firstShape(document: RotoDocument, part: string): Shape {
  const owner = allOf(document, 'part').find(({ name }) => name === part)!
  return shapesOf(document, owner.id)[0]!
}

/** Plate pixels by which a tangent is seen to be off at a large zoom. */
const TANGENT_OFF = 1

/** Each point of an outline dragged from where it is to where it should be, seen large, and its tangents where the line beside it is off. */
export async function pointsPutRight(
  artist: Artist,
  document: RotoDocument,
  part: string,
  frame: number,
  there: readonly number[],
  inside = middleOf(there),
) {
  const now = shapePlaces(document, part, frame)
  const tangents = leavingTangents(document, part, frame)
  await artist.click(...inside)
  for (let i = 0; i < now.length / 2; i++) {
    const [x, y] = [there[MAKER_STEP * i]!, there[MAKER_STEP * i + 1]!]
    await artist.zoomTo(now[2 * i]!, now[2 * i + 1]!, 12)
    await artist.drag(now[2 * i]!, now[2 * i + 1]!, x, y)
    const [[nowU, nowV], [u, v]] = [tangents[i]!, tangentThrough(there, i)]
    // Of the two the one that points upwards: the hem is seen low in the viewer.
    const side = v > 0 ? -1 : 1
    if (Math.hypot(u - nowU, v - nowV) > TANGENT_OFF) {
      // With Shift both stay as long as each other.
      await artist.page.keyboard.down('Shift')
      await artist.drag(x + side * nowU, y + side * nowV, x + side * u, y + side * v)
      await artist.page.keyboard.up('Shift')
    }
    await artist.fit()
  }
}

/** Tangents by which the first shape of a Part leaves its points on a frame, from each point to the tangent's end, plate pixels. */
function leavingTangents(document: RotoDocument, part: string, frame: number): [number, number][] {
  const shape = firstShape(document, part)
  const values = shapePointsAt(shape, frame)
  return pointWorldsAt(document, shape, frame).map((world, i) => {
    const at = i * POINT_STRIDE
    const [x, y] = [values[at]!, values[at + 1]!]
    const from = applyToPoint(world, x, y)
    const to = applyToPoint(world, x + values[at + POINT.outX]!, y + values[at + POINT.outY]!)
    return [to[0]! - from[0]!, to[1]! - from[1]!]
  })
}

/**
 * Post, hat and head drawn in the empty shot, the hat moved by a track of its own and the head by the hat.
 *
 * @param track  its name; tracks of other jobs are still there
 */
export async function postHatAndHead(page: Page, track: string) {
  const { known, artist } = await shapeStep(page)
  // What other jobs have left in this shot is cleared away.
  const parts = page.locator('[data-part]')
  for (let left = await parts.count(); left > 0; left = await parts.count()) {
    await parts.first().click()
    await artist.key('Delete')
    await expect.poll(() => parts.count()).toBeLessThan(left)
  }

  // The post, to be left out: a rectangle, put right on four further frames.
  await artist.goTo(1001)
  const [top, bottom] = [8, 560]
  const edges = (frame: number) => [top, bottom].map((y) => acrossAt(outlineOf(known, 'post', frame), y)) as [[number, number], [number, number]] // prettier-ignore
  const [a, b] = edges(1001)
  await polygon(artist, 'post', [a[0] - 2, top, a[1] + 2, top, b[1] + 2, bottom, b[0] - 2, bottom])
  let from = (a[0] + a[1]) / 2
  for (const frame of [1019, 1037, 1055, 1072]) {
    await artist.goTo(frame)
    const [at] = edges(frame)
    const to = (at[0] + at[1]) / 2
    await artist.drag(from, 120, to, 120)
    from = to
  }

  // The hat's band and brim, as a plane that moves, turns and grows.
  await artist.goTo(REFERENCE)
  const hat = outlineOf(known, 'hat', REFERENCE)
  const head = outlineOf(known, 'head', REFERENCE)
  // Its band is orange on dark felt: in red it stands out. The ground beside it is another on each frame.
  const below = hatBandAndBrim(known, REFERENCE)
  await tracked(artist, track, below, { model: /rotation/i, leftOut: ['post'], channel: 'Red', least: 0.4 })

  // A small dark surface is tracked with some jitter.
  await smoothed(artist, { position: 1, rotation: 4, scale: 4 })
  // Where the post has left a little of it the hat is seen to slip.
  await artist.mark(...BEHIND_POST, 72)
  await artist.goTo(BEHIND_POST[0])
  await artist.key('b')
  await expect(artist.message()).toContainText('Bridge over 3 frames')
  await artist.key('Escape')

  // The run has ended on the first frame.
  await artist.goTo(REFERENCE)
  await artist.step('Shape')
  await polygon(artist, 'hat', hat)
  await hungOn(page, track)
  await nothingSelected(artist)
  await drawThrough(artist, head, 6)
  await artist.key('s')
  await rename(page, 'Part', 'head')
  await choose(page, 'Carried by', 'hat')
  return { known, artist }
}
