import { createHash } from 'node:crypto'
import { readFileSync } from 'node:fs'
import path from 'node:path'
import { expect, type Page } from '@playwright/test'
import { unzipSync } from 'fflate'
import { allOf, type RotoDocument } from '@tender-lasso/core/document'
import { sceneAt } from '@tender-lasso/core/evaluation'
import { matteError, type MatteError } from '@tender-lasso/core/proof'
import { renderMattes, type MatteRequest } from '@tender-lasso/core/raster'
import { DEMO_FOLDER, FIRST, type Artist, type Truth } from './artist'
import { coverageOf, filledBox, within, type Coverage } from './coverage'
import { BAND, softError, type SoftError } from './softAlpha'

/** A 16-bit grey PNG as alpha, 0..1. */
export async function greyPng(bytes: Buffer | Uint8Array) {
  const coverage = await coverageOf(bytes)
  const { width, height } = coverage
  return { width, height, data: within(coverage, { left: 0, top: 0, right: width, bottom: height }) }
}

/** Hands off one Part as PNG without holdouts through the interface, as an output of its own, and returns the files by frame. */
export async function handOff(
  artist: Artist,
  part: string,
  folder: string,
  { motionBlur = true } = {},
): Promise<Map<number, Uint8Array>> {
  const { page } = artist
  await artist.step('Handoff')
  const output = page.locator(`[data-output="${part}"]`)
  if (await output.count()) await output.click()
  else {
    await page.locator(`[data-part="${part}"]`).click()
    await page.getByRole('button', { name: 'New output' }).click()
  }
  await expect(output).toHaveAttribute('aria-selected', 'true')
  await expect(output).not.toContainText('…')
  const holdouts = page.getByRole('switch', { name: 'Holdouts' })
  if (await holdouts.isChecked()) await holdouts.click()
  const blur = page.getByRole('switch', { name: 'Motion blur' })
  if ((await blur.isChecked()) !== motionBlur) await blur.click()
  const before = await page.getByRole('button', { name: 'Files' }).count()
  await page.getByRole('button', { name: /^Write 1 matte$/ }).click()
  await expect(page.getByRole('button', { name: 'Files' })).toHaveCount(before + 1, { timeout: 120_000 })
  const frames = new Map<number, Uint8Array>()
  for (const { frame, bytes } of await downloaded(page, path.join(folder, `${part}.zip`))) frames.set(frame, bytes)
  return frames
}

/** The files of the newest hand-off, each the one that its manifest says. */
export async function downloaded(page: Page, file: string) {
  const download = page.waitForEvent('download')
  await page.getByRole('link', { name: 'Download ZIP' }).first().click()
  await (await download).saveAs(file)
  const entries = unzipSync(readFileSync(file))
  const manifest = JSON.parse(new TextDecoder().decode(entries['manifest.json'])) as {
    files: { path: string; frame: number; sha256: string }[]
  }
  return manifest.files.map((entry) => {
    const bytes = entries[entry.path]!
    expect(createHash('sha256').update(bytes).digest('hex')).toBe(entry.sha256)
    return { path: entry.path, frame: entry.frame, bytes }
  })
}

/** Mean error over all frames of the union of mattes against the truth of a part, both without what lies over them. */
export async function measured(
  mattes: readonly Map<number, Uint8Array>[],
  part: string,
): Promise<MatteError & SoftError> {
  const errors: (MatteError & SoftError)[] = []
  for (const frame of mattes[0]!.keys()) {
    const own = await Promise.all(mattes.map((frames) => coverageOf(frames.get(frame)!)))
    errors.push(errorOn(own, await truthOn(part, frame)))
  }
  return meanOfAll(errors)
}

/** From one frame that is looked at between rounds of work to the next. */
const MEANWHILE_STEP = 4

/** The same of Parts as a document has them, on some frames: between rounds of work, before what is handed off is measured whole. */
export function measuredMeanwhile(document: RotoDocument, names: readonly string[], known: Truth, part: string) {
  const { outlines } = known.parts.find(({ id }) => id === part)!
  const frames = outlines.map((_, i) => FIRST + i).filter((_, i) => i % MEANWHILE_STEP === 0)
  return measuredOn(frames, document, names, part)
}

/** The same of Parts as a document has them, on given frames. */
export async function measuredOn(
  frames: readonly number[],
  document: RotoDocument,
  names: readonly string[],
  part: string,
): Promise<MatteError & SoftError> {
  const wanted = names.map((name) => {
    const { id: partId } = allOf(document, 'part').find((one) => one.name === name)!
    return { partId, withHoldouts: false }
  })
  const errors: (MatteError & SoftError)[] = []
  for (const frame of frames) {
    const truth = await truthOn(part, frame)
    errors.push(errorOn(renderedOn(document, frame, wanted, truth), truth))
  }
  return meanOfAll(errors)
}

/** What the demonstration knows a piece of its film to cover on a frame. */
export const truthOn = (piece: string, frame: number) =>
  coverageOf(readFileSync(path.join(DEMO_FOLDER, 'truth', 'alpha', piece, `${frame}.png`)))

/** Mattes of a document on a frame, each over a whole picture. */
export function renderedOn(
  document: RotoDocument,
  frame: number,
  wanted: readonly MatteRequest[],
  { width, height }: Pick<Coverage, 'width' | 'height'>,
): Coverage[] {
  const box = { left: 0, top: 0, right: width, bottom: height }
  const mattes = renderMattes(sceneAt(document, frame), wanted, { box, motionBlur: true })!
  return mattes.map((values) => ({ width, height, values, full: 1 }))
}

function errorOn(mattes: readonly Coverage[], truth: Coverage): MatteError & SoftError {
  const box = filledBox([...mattes, truth], BAND + 1)
  const size = { width: box.right - box.left, height: box.bottom - box.top }
  const [first, ...others] = mattes.map((one) => within(one, box))
  for (const other of others) join(first!, other)
  const [found, expected] = [{ ...size, data: first! }, { ...size, data: within(truth, box) }] // prettier-ignore
  return { ...matteError(found, expected), ...softError(found, expected) }
}

function meanOfAll(errors: readonly (MatteError & SoftError)[]): MatteError & SoftError {
  const mean = (pick: (error: SoftError) => number) => errors.reduce((sum, e) => sum + pick(e), 0) / errors.length
  return { ...meanError(errors), band: mean((e) => e.band), inBetween: mean((e) => e.inBetween) }
}

/** Lays another matte over one. */
export function join(into: Float32Array, other: Float32Array) {
  for (let i = 0; i < into.length; i++) into[i] = Math.max(into[i]!, other[i]!)
}

/** Mean of each measure over frames. */
export function meanError(errors: readonly MatteError[]): MatteError {
  const mean = (pick: (error: MatteError) => number) => errors.reduce((sum, e) => sum + pick(e), 0) / errors.length
  return {
    regionOverlap: mean((e) => e.regionOverlap),
    boundaryDistance: mean((e) => e.boundaryDistance),
    biasX: mean((e) => e.biasX),
    biasY: mean((e) => e.biasY),
    boundaryPoints: mean((e) => e.boundaryPoints),
    sumOfDifferences: mean((e) => e.sumOfDifferences),
  }
}

export const words = (e: MatteError & Partial<SoftError>) =>
  `J ${e.regionOverlap.toFixed(4)}, boundary ${e.boundaryDistance.toFixed(3)} px, bias ${e.biasX.toFixed(3)}, ${e.biasY.toFixed(3)} px${e.band === undefined ? '' : `, alpha off by ${e.band.toFixed(4)} about the edge (${e.inBetween!.toFixed(3)} in between)`}`

export async function rename(page: Page, from: string, to: string) {
  await page.locator(`[data-part="${from}"]`).getByText(from, { exact: true }).dblclick()
  await page.getByLabel('New name').fill(to)
  await page.getByLabel('New name').press('Enter')
  await expect(page.locator(`[data-part="${to}"]`)).toBeVisible()
}

/** Draws a plane by its corners with the pen, each placed under high zoom, names its Part, and lets the track move it. */
export async function drawPlane(artist: Artist, corners: readonly number[], name: string) {
  const { page } = artist
  await artist.step('Shape')
  await artist.key('p')
  for (let i = 0; i < corners.length; i += 2) {
    await artist.zoomTo(corners[i]!, corners[i + 1]!, 16)
    await artist.click(corners[i]!, corners[i + 1]!)
    await artist.fit()
  }
  await artist.key('Enter')
  await artist.key('s')
  await rename(page, 'Part', name)
  await page.getByLabel('Mover', { exact: true }).click()
  await page.locator('.ant-select-item-option', { hasText: 'Track' }).click()
  await artist.saved()
}
