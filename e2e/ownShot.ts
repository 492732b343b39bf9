import { readdirSync } from 'node:fs'
import path from 'node:path'
import type { Page } from '@playwright/test'
import { DEMO_FOLDER } from './artist'

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
