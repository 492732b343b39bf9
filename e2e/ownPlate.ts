import path from 'node:path'
import type { Page } from '@playwright/test'
import sharp from 'sharp'
import { Artist } from './artist'

/** A plate of one's own, its light in closed form: nobody else's tests look at it. */
export interface OwnPlate {
  name: string
  width: number
  height: number
  frames: number
  /** Linear light 0..1 of a pixel; frames count from 1001. */
  lightAt(frame: number, x: number, y: number): number
}

/** Its frames encoded as sRGB (IEC 61966-2-1), as 16-bit PNG. */
async function written({ name, width, height, frames, lightAt }: OwnPlate, folder: string): Promise<string[]> {
  return Promise.all(
    Array.from({ length: frames }, async (_, n) => {
      const pixels = new Uint16Array(3 * width * height)
      for (let y = 0; y < height; y++) {
        for (let x = 0; x < width; x++) {
          const light = lightAt(1001 + n, x, y)
          const encoded = light <= 0.0031308 ? 12.92 * light : 1.055 * light ** (1 / 2.4) - 0.055
          pixels.fill(Math.round(65535 * encoded), 3 * (y * width + x), 3 * (y * width + x) + 3)
        }
      }
      const file = path.join(folder, `${name}.${1001 + n}.png`)
      await sharp(pixels, { raw: { width, height, channels: 3 } })
        .toColourspace('rgb16')
        .png()
        .toFile(file)
      return file
    }),
  )
}

/** A new shot of it, made as an artist makes it. @param folder  where its files go on the way */
export async function openOwnPlate(page: Page, plate: OwnPlate, folder: string): Promise<Artist> {
  const { name, width, height } = plate
  await page.goto('/')
  await page.getByRole('button', { name: 'New project' }).click()
  await page.getByLabel('Name of the project').fill(name)
  await page.getByRole('button', { name: 'Make it' }).click()
  await page.getByLabel(`Files for ${name}`).setInputFiles(await written(plate, folder))
  await page.getByLabel('Shot', { exact: true }).fill(name)
  await page.getByRole('button', { name: 'Make the shot' }).click()
  await page.getByRole('link', { name: `Open ${name}` }).click()
  const artist = new Artist(page, width, height)
  await artist.settle()
  return artist
}
