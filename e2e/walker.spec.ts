import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { expect, test, type Page } from './test'
import { allOf, type RotoDocument } from '@tender-lasso/core/document'
import { controlPlacesAt, seamLines, shapesOf, worldAt } from '@tender-lasso/core/evaluation'
import { applyToPoint, identity, invert } from '@tender-lasso/core/geometry'
import { Artist, truth, type Truth } from './artist'
import {
  acrossAt,
  axis,
  boneEdge,
  drawThrough,
  hatBandAndBrim,
  coatAbove,
  coatHem,
  HEM_POINTS,
  limbJoint,
  MAKER_STEP,
  middleOf,
  outlineOf,
} from './figure'
import { greyPng, handOff, measured, rename, words } from './mattes'

test.describe.configure({ mode: 'serial' })

const SHOT = 'WS_010 lamplighter'
/** Screen pixels between what is selected and the box round it. */
const BOX_GAP = 12
/** A frame on which the figure is clear of the lamp post. */
const REFERENCE = 1030

type Place = readonly [number, number]

let folder: string
test.beforeAll(() => void (folder = mkdtempSync(path.join(tmpdir(), 'tender-lasso-walker-'))))
test.afterAll(() => rmSync(folder, { recursive: true, force: true }))

/** The shot with its truth, in the Shape step. */
async function shapeStep(page: Page) {
  const known = truth()
  const artist = new Artist(page, known.width, known.height)
  await artist.openShot(SHOT)
  await artist.step('Shape')
  return { known, artist }
}

async function nothingSelected(artist: Artist) {
  await artist.key('s')
  await artist.key('Escape')
  await artist.key('Escape')
}

/** Corners by the pen, each placed under high zoom. */
async function polygon(artist: Artist, name: string, corners: readonly number[], zoom = 8) {
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

async function choose(page: Page, label: string, option: string) {
  await page.getByLabel(label, { exact: true }).click()
  await page.locator('.ant-select-item-option', { hasText: option }).last().click()
}

/** A region through places of the present frame, tracked to both ends of the shot. */
async function tracked(
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

/** A small dark surface is tracked with some jitter: its turn and size are smoothed. */
async function smoothed(artist: Artist, strengths: Record<string, number>) {
  const { page } = artist
  const section = page.getByRole('button', { name: 'Smooth', exact: true })
  if ((await section.getAttribute('aria-expanded')) !== 'true') await section.click()
  await page.getByTitle('Spline', { exact: true }).click()
  for (const [channel, strength] of Object.entries(strengths)) {
    await artist.type(`Smooth ${channel}`, strength)
  }
}

/** A Mover for what is selected. Of many tracks the list shows some: it is found by its name. */
async function hungOn(page: Page, track: string) {
  await page.getByLabel('Mover', { exact: true }).click()
  await page.keyboard.type(track)
  await page.locator('.ant-select-item-option', { hasText: track }).click()
}

const lock = (page: Page, part: string) =>
  page.locator(`[data-part="${part}"]`).getByRole('button', { name: 'Lock', exact: true }).click()

test('hat and head: on one track behind the lamp post, few keys, within 0.6 px of the truth', async ({ page }) => {
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
  await tracked(artist, 'hat track', below, { model: /rotation/i, leftOut: ['post'], channel: 'Red', least: 0.4 })

  await smoothed(artist, { position: 1, rotation: 4, scale: 4 })

  // The run has ended on the first frame.
  await artist.goTo(REFERENCE)
  await artist.step('Shape')
  await polygon(artist, 'hat', hat)
  await hungOn(page, 'hat track')
  await nothingSelected(artist)
  await drawThrough(artist, head, 6)
  await artist.key('s')
  await rename(page, 'Part', 'head')
  await choose(page, 'Carried by', 'hat')
  // Leafing through, the hat is seen a little off all along: it is moved by as much on all frames.
  await artist.goTo(1044)
  const document = await artist.storedDocument()
  const off = (k: number) =>
    [1006, 1018, 1036, 1044, 1060].reduce(
      (sum, f) => sum + (mean(outlineOf(known, 'hat', f), k) - mean(shapePlaces(document, 'hat', f), k)) / 5,
      0,
    )
  await nothingSelected(artist)
  const [x, y] = [0, 1].map((k) => mean(shapePlaces(document, 'hat', 1044), k)) as [number, number]
  await artist.zoomTo(x, y, 40)
  await artist.key('=')
  await artist.drag(x, y, x + off(0), y + off(1))
  await artist.fit()
  // The head is put right on four more frames by the box round it.
  await nothingSelected(artist)
  for (const frame of [1007, 1020, 1043, 1062]) {
    await artist.goTo(frame)
    await fittedByBox(artist, () => storedPlaces(artist, 'head', frame), drawnPoints(outlineOf(known, 'head', frame)))
  }
  await artist.saved()
  for (const name of ['hat', 'head']) {
    const error = await measured([await handOff(artist, name, folder)], name)
    console.log(`${name}, ${name === 'hat' ? 'one key' : 'five keys'} on the hat's track: ${words(error)}`)
    expect(error.boundaryDistance, name).toBeLessThanOrEqual(0.6)
    expect(error.regionOverlap, name).toBeGreaterThanOrEqual(0.97)
    expect(Math.abs(error.biasX), name).toBeLessThan(0.1)
    expect(Math.abs(error.biasY), name).toBeLessThan(0.1)
  }
})

/** The points that an outline of the truth is drawn through. */
const drawnPoints = (outline: readonly number[]) => outline.filter((_, i) => i % MAKER_STEP < 2)

const storedPlaces = async (artist: Artist, part: string, frame: number) =>
  shapePlaces(await artist.storedDocument(), part, frame)

/** The shape under the pointer scaled by two opposite corners of its box until that is the box of an outline. */
async function fittedByBox(artist: Artist, placesNow: () => Promise<Float64Array>, there: readonly number[]) {
  const zoom = 16
  const now = await placesNow()
  const [x, y] = middleOf(now)
  await artist.click(x + 3, y + 3)
  for (const side of [Math.min, Math.max]) {
    const corner = (places: ArrayLike<number>) => [0, 1].map((k) => side(...axis(places, k))) as [number, number]
    const [x, y] = corner(await placesNow())
    const [toX, toY] = corner(there)
    await artist.zoomTo(x, y, zoom)
    const gap = (side === Math.min ? -BOX_GAP : BOX_GAP) / zoom
    await artist.drag(x + gap, y + gap, toX + gap, toY + gap)
    await artist.fit()
  }
}

function shapePlaces(document: RotoDocument, part: string, frame: number): Float64Array {
  const owner = allOf(document, 'part').find((one) => one.name === part)!
  return controlPlacesAt(document, shapesOf(document, owner.id)[0]!, frame)
}

const mean = (places: ArrayLike<number>, k: number) => axis(places, k).reduce((a, b) => a + b) / (places.length / 2)

interface Limb {
  id: string
  plan: 'arm' | 'leg'
  /** Pulled at its end, as bent as it is, where the bend stays; otherwise turned bone by bone. */
  by: 'pulls' | 'turns'
  /** From the body outwards. Rounds of keys, what each adds to the ones before: where the bone turns round comes first. */
  bones: readonly { name: string; rounds: readonly (readonly number[])[] }[]
  least: number
}

/** A frame on which both steps are widest: the limbs are drawn on it. */
const WIDEST = 1033
const arm = (upper: number[][], fore: number[][]) => [
  { name: 'upper arm', rounds: upper },
  { name: 'forearm', rounds: fore },
]
const leg = (thigh: number[][], shin: number[][], foot: number[][]) => [
  { name: 'thigh', rounds: thigh },
  { name: 'shin', rounds: shin },
  { name: 'foot', rounds: foot },
]
const FAR_ARM = [[1047, 1059], [1008, 1021], [1001, 1003, 1070]] // prettier-ignore
const LIMBS: readonly Limb[] = [
  {
    id: 'near-arm', plan: 'arm', by: 'turns', least: 0.9,
    bones: arm([[1009, 1022], [1048, 1061], [1001, 1037, 1071]], [[1015, 1022], [1029, 1042], [1048, 1054, 1070]]),
  },
  { id: 'far-arm', plan: 'arm', by: 'pulls', least: 0.91, bones: arm(FAR_ARM, FAR_ARM) },
  {
    id: 'near-leg', plan: 'leg', by: 'turns', least: 0.78,
    bones: leg(
      [[1008, 1021, 1047, 1059], [1001, 1003, 1071]],
      [[1004, 1012, 1021, 1071], [1038, 1048, 1065]],
      [[1007, 1017, 1043, 1054], [1001, 1011, 1070]],
    ),
  },
  {
    id: 'far-leg', plan: 'leg', by: 'turns', least: 0.77,
    bones: leg(
      [[1008, 1021, 1047, 1059], [1001, 1003, 1070]],
      [[1017, 1025, 1053, 1058], [1001, 1005, 1071]],
      [[1009, 1015, 1038, 1070], [1043, 1050, 1053]],
    ),
  },
] // prettier-ignore

const [NEAR_ARM, ...OTHER_LIMBS] = LIMBS as [Limb, ...Limb[]]

const partsOf = (limb: Limb) => limb.bones.map(({ name }) => `${limb.id} ${name}`)

function limbIsRigged(limb: Limb) {
  test(`the ${limb.id}: rigged by its joints, put right on a few frames, a table of error against keys`, async ({
    page,
  }) => {
    const { known, artist } = await shapeStep(page)
    const names = partsOf(limb)
    await nothingSelected(artist)
    await artist.goTo(WIDEST)
    await lock(page, 'head')
    await page.locator('[data-part="hat"]').click()
    const joints = Array.from({ length: names.length + 1 }, (_, k) => limbJoint(known, limb.id, k, WIDEST))
    await artist.key('Shift+J')
    await page.getByTitle(limb.plan, { exact: true }).click()
    for (const joint of joints) {
      await artist.zoomTo(...joint, 2.4)
      await artist.click(...joint)
      await artist.fit()
    }
    if (limb.plan === 'arm') await artist.key('Enter')
    for (const [k, name] of names.entries()) await rename(page, limb.bones[k]!.name, name)

    // The first joint hangs far from what is tracked: it gets keys of its own.
    await page.locator(`[data-part="${names[0]}"]`).click()
    await choose(page, 'Pivot held by', 'held by keys of its own')

    // The starters are thin: round each bone its outline is drawn, round beyond the joints.
    for (const [k, name] of names.entries()) {
      await page.locator(`[data-part="${name}"]`).click()
      const [[ax, ay], [bx, by]] = [joints[k]!, joints[k + 1]!]
      await artist.zoomTo((ax + bx) / 2, (ay + by) / 2, 3)
      await artist.key('l')
      await artist.stroke(boneEdge(known, limb.id, k, WIDEST))
      await artist.key('s')
      await artist.fit()
    }

    const rows: string[] = []
    let overlap = 0
    for (const round of limb.bones[0]!.rounds.keys()) {
      await putRight(artist, known, limb, joints, round)
      await artist.saved()
      const mattes: Map<number, Uint8Array>[] = []
      for (const name of names) mattes.push(await handOff(artist, name, folder))
      const error = await measured(mattes, limb.id)
      overlap = error.regionOverlap
      rows.push(`${1 + framesUpTo(limb.bones[0]!.rounds, round).length} keys: ${words(error)}`)
      await artist.step('Shape')
    }
    console.log(`${limb.id}:\n  ${rows.join('\n  ')}`)
    // The aim is 0.95, which stiff bones put right on all frames would just reach.
    expect(overlap).toBeGreaterThan(limb.least)
    for (const name of names) {
      await page.locator(`[data-part="${name}"]`).getByRole('button', { name: 'Hide' }).click()
    }
    await page.locator('[data-part="head"]').getByRole('button', { name: 'Unlock' }).click()
    // The next one finds it so.
    await artist.saved()
  })
}

limbIsRigged(NEAR_ARM)

/** The coat's sway turns round on these frames; it is drawn on the first. */
const COAT_KEYS = [1010, 1020, 1034, 1046, 1055] as const
/** A frame on which the board is sharp and clear of the post. */
const BOARD_FRAME = 1062

test('coat: hung on a track of its own, its hem on another, five keys where its sway turns round; a seam to the scarf without a gap', async ({
  page,
}) => {
  const { known, artist } = await shapeStep(page)
  for (const name of ['head', 'hat', 'post']) await lock(page, name)
  // The arm swings before the coat: where it is nothing of the cloth is seen.
  const before = ['post', 'signboard', ...partsOf(NEAR_ARM)]
  for (const name of partsOf(NEAR_ARM)) {
    await page.locator(`[data-part="${name}"]`).getByRole('button', { name: 'Show' }).click()
    await lock(page, name)
  }

  // What passes before the coat comes first: the board, with one key on its own track, clear of the arm over it.
  await artist.goTo(BOARD_FRAME)
  const board = outlineOf(known, 'signboard', BOARD_FRAME)
  const [tl, tr, br, bl] = [0, 1, 2, 3].map((i) => [board[2 * i]!, board[2 * i + 1]!] as const) as [Place, Place, Place, Place] // prettier-ignore
  const on = (a: Place, b: Place, u: number): Place => [a[0] + u * (b[0] - a[0]), a[1] + u * (b[1] - a[1])]
  const region = [on(tl, bl, 0.25), on(tr, br, 0.03), on(tr, br, 0.97), on(tl, bl, 0.97)]
  await tracked(artist, 'board track', region, { model: /perspective/i, leftOut: [] })
  await artist.goTo(BOARD_FRAME)
  await artist.step('Shape')
  await polygon(artist, 'signboard', board, 12)
  await hungOn(page, 'board track')
  await lock(page, 'signboard')

  await artist.goTo(REFERENCE)
  await tracked(artist, 'coat track', coatAbove(known, REFERENCE), { model: /rotation/i, leftOut: before })
  // Below the board the cloth swings wider than above it.
  await artist.goTo(REFERENCE)
  await tracked(artist, 'hem track', coatHem(known, REFERENCE), { model: /affine/i, leftOut: ['post', 'signboard'] })
  await artist.step('Shape')
  const places = (document: RotoDocument, frame: number) => shapePlaces(document, 'coat', frame)
  await artist.goTo(COAT_KEYS[0])
  await nothingSelected(artist)
  await drawThrough(artist, outlineOf(known, 'coat', COAT_KEYS[0]))
  await artist.key('s')
  await rename(page, 'Part', 'coat')
  await hungOn(page, 'coat track')
  await hemHungOn(artist, 'hem track', places(await artist.storedDocument(), COAT_KEYS[0]))
  for (const frame of COAT_KEYS) {
    await artist.goTo(frame)
    await pointsPutRight(artist, places(await artist.storedDocument(), frame), outlineOf(known, 'coat', frame))
  }
  await artist.saved()
  const coat = await handOff(artist, 'coat', folder)
  const error = await measured([coat], 'coat')
  console.log(`coat, five keys on its own track: ${words(error)}`)
  expect(error.boundaryDistance).toBeLessThanOrEqual(0.6)
  expect(error.regionOverlap).toBeGreaterThanOrEqual(0.97)
  expect(Math.abs(error.biasX)).toBeLessThan(0.1)
  expect(Math.abs(error.biasY)).toBeLessThan(0.1)

  // The scarf begins where the coat ends: three points of each outline become one.
  await artist.step('Shape')
  await artist.goTo(REFERENCE)
  const now = places(await artist.storedDocument(), REFERENCE)
  const collar = [13, 0, 1].map((i) => [now[2 * i]!, now[2 * i + 1]!] as const)
  const above = collar.map(([x, y]) => [x + 1, y - 4] as const)
  await polygon(artist, 'scarf', [above[0]!, above[1]!, above[2]!, [collar[2]![0], collar[2]![1] - 26], [collar[0]![0], collar[0]![1] - 26]].flat()) // prettier-ignore
  await choose(page, 'Carried by', 'coat')
  await nothingSelected(artist)
  const [xs, ys] = [0, 1].map((k) => [...collar, ...above].map((place) => place[k]!)) as [number[], number[]]
  // The band begins clear of both outlines: on one it would take hold of that.
  await artist.drag(Math.min(...xs) - 15, Math.min(...ys) - 3, Math.max(...xs) + 9, Math.max(...ys) + 3)
  await artist.key('Alt+t')
  await expect(artist.message()).toContainText('takes its line from')
  await artist.saved()
  const document = await artist.storedDocument()
  const seam = allOf(document, 'seam')[0]!
  expect(seam.pairs).toHaveLength(3)
  const mattes = [await handOff(artist, 'coat', folder), await handOff(artist, 'scarf', folder)]
  let worst = 0
  let sampled = 0
  for (const frame of mattes[0]!.keys()) {
    const [one, other] = await Promise.all(mattes.map((frames) => greyPng(frames.get(frame)!)))
    const [line] = seamLines(document, seam, { timeOf: () => frame, toTarget: identity() })
    // At its ends other edges of both set out.
    const ends = [line!.slice(0, 2), line!.slice(-2)]
    for (let i = 0; i < line!.length / 2; i++) {
      const [x, y] = [line![2 * i]!, line![2 * i + 1]!]
      if (ends.some(([ex, ey]) => Math.hypot(x - ex!, y - ey!) < 15)) continue
      const pixel = Math.floor(y) * known.width + Math.floor(x)
      sampled++
      const miss = Math.abs(1 - one!.data[pixel]! - other!.data[pixel]!)
      worst = Math.max(worst, miss)
    }
  }
  console.log(
    `seam of coat and scarf: the two mattes miss 1 by at most ${worst.toExponential(1)} of the ${mattes[0]!.size} frames`,
  )
  expect(sampled).toBeGreaterThan(72)
  // Both files round to 1/65535.
  expect(worst).toBeLessThanOrEqual(1.01 / 65535)
  await artist.step('Shape')
  for (const name of ['coat', 'scarf', 'signboard']) {
    await page.locator(`[data-part="${name}"]`).getByRole('button', { name: 'Hide' }).click()
  }
  for (const name of ['coat', 'scarf']) await lock(page, name)
  await page.locator('[data-part="hat"]').getByRole('button', { name: 'Unlock' }).click()
  await page.locator('[data-part="head"]').getByRole('button', { name: 'Unlock' }).click()
  await artist.saved()
})

for (const limb of OTHER_LIMBS) limbIsRigged(limb)

const framesUpTo = (rounds: readonly (readonly number[])[], round: number) =>
  rounds
    .slice(0, round + 1)
    .flat()
    .sort((a, b) => a - b)

/**
 * The first joint is put where it is, and each bone turned to where the next joint is, on frames of its own; those of earlier
 * rounds again, since the bones above it have been turned meanwhile.
 */
async function putRight(
  artist: Artist,
  known: Truth,
  { id, by, bones }: Limb,
  joints: readonly (readonly [number, number])[],
  round: number,
) {
  const { keyboard } = artist.page
  const dragged = async (frame: number, bone: string, tool: string, joint: number, zoom: number, held?: string) => {
    await artist.goTo(frame)
    const from = placeNow(await artist.storedDocument(), `${id} ${bone}`, joints[joint]!, frame)
    const to = limbJoint(known, id, joint, frame)
    await artist.page.locator(`[data-part="${id} ${bone}"]`).click()
    // What is right already is only keyed: a click of Turn would put the pivot there.
    if (Math.hypot(to[0] - from[0], to[1] - from[1]) * zoom < 4) return artist.key('k')
    await artist.key(tool)
    await artist.zoomTo(from[0], from[1], zoom)
    if (held) await keyboard.down(held)
    await artist.drag(from[0], from[1], to[0], to[1])
    if (held) await keyboard.up(held)
    await artist.fit()
  }
  const [first] = bones as [Limb['bones'][number]]
  for (const frame of first.rounds[round]!) await dragged(frame, first.name, 's', 0, 8)
  if (by === 'pulls') {
    for (const frame of first.rounds[round]!) await dragged(frame, bones.at(-1)!.name, 'v', 2, 4, 'Alt')
    return
  }
  for (const [k, { name, rounds }] of bones.entries()) {
    const frames = k === 0 ? rounds[round]! : [WIDEST, ...framesUpTo(rounds, round)]
    for (const frame of frames) await dragged(frame, name, 'r', k + 1, 4)
  }
}

/** A Mover for the points of the coat's hem, chosen by a band round them. */
async function hemHungOn(artist: Artist, track: string, now: ArrayLike<number>) {
  const hem = HEM_POINTS.map((i) => [now[2 * i]!, now[2 * i + 1]!] as const)
  const [xs, ys] = [0, 1].map((k) => hem.map((place) => place[k]!)) as [number[], number[]]
  await nothingSelected(artist)
  await artist.drag(Math.min(...xs) - 20, Math.min(...ys) - 12, Math.max(...xs) + 20, Math.max(...ys) + 20)
  await artist.page.getByTitle('Points', { exact: true }).click()
  await hungOn(artist.page, track)
}

/** Each point of an outline dragged from where it is to where it should be, seen large. */
async function pointsPutRight(artist: Artist, now: ArrayLike<number>, there: readonly number[]) {
  await artist.click(...middleOf(there))
  for (let i = 0; i < now.length / 2; i++) {
    const [x, y] = [there[MAKER_STEP * i]!, there[MAKER_STEP * i + 1]!]
    await artist.zoomTo(now[2 * i]!, now[2 * i + 1]!, 6)
    await artist.drag(now[2 * i]!, now[2 * i + 1]!, x, y)
    await artist.fit()
  }
}

/** Where a place of a Part, given on the frame it was drawn on, is on another. */
function placeNow(
  document: RotoDocument,
  name: string,
  place: readonly [number, number],
  frame: number,
): [number, number] {
  const part = allOf(document, 'part').find((one) => one.name === name)!
  const [x, y] = applyToPoint(invert(worldAt(document, part, WIDEST)), place[0], place[1])
  const [u, v] = applyToPoint(worldAt(document, part, frame), x!, y!)
  return [u!, v!]
}
