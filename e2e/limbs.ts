import { expect, type Page } from '@playwright/test'
import { allOf, type RotoDocument } from '@tender-lasso/core/document'
import { worldAt } from '@tender-lasso/core/evaluation'
import { applyToPoint, invert } from '@tender-lasso/core/geometry'
import type { Artist, Truth } from './artist'
import { boneEdge, limbJoint } from './figure'
import { handOff, measured, measuredMeanwhile, rename, words } from './mattes'
import { choose, lock, nothingSelected, shapeStep } from './walker'

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
export const LIMBS: readonly [Limb, ...Limb[]] = [
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

/** It swings before the coat. */
export const [NEAR_ARM] = LIMBS

export const partsOf = (limb: Limb) => limb.bones.map(({ name }) => `${limb.id} ${name}`)

/** A limb hung on the hat, rigged by its joints and put right round after round, with the error of each printed. */
export async function rigged(page: Page, limb: Limb, folder: string) {
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
    const isLast = round === limb.bones[0]!.rounds.length - 1
    const error = isLast
      ? await measured(await handedOff(artist, names, folder), limb.id)
      : await measuredMeanwhile(await artist.storedDocument(), names, known, limb.id)
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
}

async function handedOff(artist: Artist, names: readonly string[], folder: string): Promise<Map<number, Uint8Array>[]> {
  const mattes: Map<number, Uint8Array>[] = []
  for (const name of names) mattes.push(await handOff(artist, name, folder))
  return mattes
}

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
