import sharp from 'sharp'
import type { Interleaved } from '@tender-lasso/formats/analysis'
import { Problem } from '../errors'

/**
 * One picture as encoded RGB, of as many bits as the file has.
 *
 * @throws Problem 422 `corrupt-file` naming the file
 */
export async function decodePicture(
  file: string,
  name: string,
): Promise<{ rgb: Interleaved; width: number; height: number }> {
  try {
    const picture = sharp(file, { failOn: 'warning' })
    const metadata = await picture.metadata()
    const is16 = metadata.depth === 'ushort'
    const flat = metadata.hasAlpha ? picture.removeAlpha() : picture
    const { data, info } = await flat
      .toColourspace(is16 ? 'rgb16' : 'srgb')
      .raw({ depth: is16 ? 'ushort' : 'uchar' })
      .toBuffer({ resolveWithObject: true })
    const values = is16 ? new Uint16Array(data.buffer, data.byteOffset, data.length / 2) : data
    return { rgb: withThreeChannels(values, info.channels), width: info.width, height: info.height }
  } catch (error) {
    throw new Problem(422, 'corrupt-file', `${name} is damaged and cannot be decoded (${firstLine(error)})`)
  }
}

/** A grey picture's value stands for all three. */
function withThreeChannels(values: Interleaved, channels: number): Interleaved {
  if (channels === 3) return values
  const count = values.length / channels
  const rgb = values instanceof Uint16Array ? new Uint16Array(3 * count) : new Uint8Array(3 * count)
  for (let i = 0; i < count; i++) {
    for (let c = 0; c < 3; c++) rgb[i * 3 + c] = values[i * channels + Math.min(c, channels - 1)]!
  }
  return rgb
}

/** Without places on this machine; of files that are read at once the library may even name another one. */
const firstLine = (error: unknown) =>
  String(error instanceof Error ? error.message : error)
    .split('\n')[0]!
    .replace(/"?(?:\/[^\s"']+)+"?/g, 'the file')
