import { mkdir } from 'node:fs/promises'
import path from 'node:path'
import sharp from 'sharp'
import { PIECE_IDS } from './figure'
import { buildStreet, renderFrame, truthAlphas } from './renderFrame'
import { alphaPath, platePath, visiblePath, type ShotOptions } from './renderShot'

/** Renders every `workers`-th frame of a shot. Started by renderShot with its share as the argument. */
const { options, worker, workers } = JSON.parse(process.argv[2]!) as {
  options: ShotOptions
  worker: number
  workers: number
}
sharp.concurrency(1)

async function writeGrey16(file: string, data: Uint16Array, width: number, height: number) {
  await mkdir(path.dirname(file), { recursive: true })
  await sharp(data, { raw: { width, height, channels: 1 } })
    .toColourspace('grey16')
    .png({ compressionLevel: 3 })
    .toFile(file)
}

const { folder, width, height } = options
const street = buildStreet(width)
await mkdir(path.join(folder, 'plate'), { recursive: true })
for (let i = worker; i < options.frameCount; i += workers) {
  const frame = options.firstFrame + i
  const rendered = renderFrame(street, frame, width, height)
  const alphas = truthAlphas(frame, width, height)
  await sharp(rendered.picture, { raw: { width, height, channels: 3 } })
    .png({ compressionLevel: 4 })
    .toFile(platePath(folder, frame))
  for (const [p, id] of PIECE_IDS.entries()) {
    await writeGrey16(alphaPath(folder, id, frame), alphas[p]!, width, height)
    await writeGrey16(visiblePath(folder, id, frame), rendered.visible[p]!, width, height)
  }
  process.send?.(frame)
}
process.disconnect?.()
