import sharp from 'sharp'
import { Problem } from '../errors'

/**
 * One picture as 16-bit encoded RGB.
 *
 * @throws Problem 422 `corrupt-file` naming the file
 */
export async function decodePicture(
  file: string,
  name: string,
): Promise<{ rgb: Uint16Array; width: number; height: number }> {
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
    const count = info.width * info.height
    const rgb = new Uint16Array(count * 3)
    const scale = is16 ? 1 : 257
    for (let i = 0; i < count; i++) {
      for (let c = 0; c < 3; c++) rgb[i * 3 + c] = values[i * info.channels + Math.min(c, info.channels - 1)]! * scale
    }
    return { rgb, width: info.width, height: info.height }
  } catch (error) {
    throw new Problem(422, 'corrupt-file', `${name} is damaged and cannot be decoded (${firstLine(error)})`)
  }
}

/** Without places on this machine; of files that are read at once the library may even name another one. */
const firstLine = (error: unknown) =>
  String(error instanceof Error ? error.message : error)
    .split('\n')[0]!
    .replace(/"?(?:\/[^\s"']+)+"?/g, 'the file')
