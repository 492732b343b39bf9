import { readdirSync } from 'node:fs'
import path from 'node:path'
import type { Page } from '@playwright/test'
import { DEMO_FOLDER, type Artist } from './artist'
import { rename } from './mattes'

/** A new shot of a few of the demonstration's pictures, made as an artist makes it: nobody else's tests look at it. */
export async function makeOwnShot(page: Page, project: string, shot: string, address = '/', frames = 3) {
  await page.goto(address)
  await page.getByRole('button', { name: 'New project' }).click()
  await page.getByLabel('Name of the project').fill(project)
  await page.getByRole('button', { name: 'Make it' }).click()
  const plate = path.join(DEMO_FOLDER, 'plate')
  const files = readdirSync(plate).slice(0, frames)
  await page.getByLabel(`Files for ${project}`).setInputFiles(files.map((name) => path.join(plate, name)))
  await page.getByLabel('Shot', { exact: true }).fill(shot)
  await page.getByRole('button', { name: 'Make the shot' }).click()
  await page.getByRole('link', { name: `Open ${shot}` }).click()
}

/** A new Part of the name with a rectangle of plate pixels. */
export async function rectangle(
  artist: Artist,
  name: string,
  [left, top, right, bottom]: readonly [number, number, number, number],
) {
  await artist.step('Shape')
  await artist.key('s')
  await artist.key('Escape')
  await artist.key('Escape')
  await artist.key('Shift+t')
  await artist.drag(left, top, right, bottom)
  await artist.key('s')
  await rename(artist.page, 'Part', name)
  await artist.saved()
}
