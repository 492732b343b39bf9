import { spawn } from 'node:child_process'
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

const firstLine = (error: unknown) => String(error instanceof Error ? error.message : error).split('\n')[0]

/**
 * All frames of a movie, one after the other, as 16-bit encoded RGB.
 *
 * @param onFrame  gets index 0, 1, 2 ...; the next frame waits for it
 * @throws Problem 422 `corrupt-file` naming the file
 */
export async function decodeMovie(
  file: string,
  name: string,
  width: number,
  height: number,
  onFrame: (index: number, rgb: Uint16Array) => Promise<void>,
): Promise<number> {
  const child = spawn(
    'ffmpeg',
    [
      '-v',
      'error',
      '-protocol_whitelist',
      'file',
      '-i',
      file,
      '-map',
      '0:v:0',
      '-f',
      'rawvideo',
      '-pix_fmt',
      'rgb48le',
      '-',
    ],
    { stdio: ['ignore', 'pipe', 'pipe'] },
  )
  let complaint = ''
  child.stderr.on('data', (chunk: Buffer) => (complaint += chunk.toString()))
  const ended = new Promise<number | null>((resolve, reject) => {
    child.on('close', resolve)
    child.on('error', reject)
  })
  const frameBytes = width * height * 6
  const frame = new Uint8Array(frameBytes)
  let filled = 0
  let index = 0
  try {
    for await (const chunk of child.stdout as AsyncIterable<Buffer>) {
      for (let at = 0; at < chunk.length;) {
        const take = Math.min(chunk.length - at, frameBytes - filled)
        frame.set(chunk.subarray(at, at + take), filled)
        at += take
        filled += take
        if (filled === frameBytes) {
          await onFrame(index++, new Uint16Array(frame.slice().buffer))
          filled = 0
        }
      }
    }
  } finally {
    if (child.exitCode === null) child.kill('SIGKILL')
  }
  const code = await ended
  if (code !== 0 || index === 0) {
    throw new Problem(422, 'corrupt-file', `${name} cannot be decoded as a movie (${complaint.split('\n')[0] ?? ''})`)
  }
  return index
}
