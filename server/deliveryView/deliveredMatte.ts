import { spawn } from 'node:child_process'
import { inflateSync } from 'node:zlib'
import sharp from 'sharp'
import { isExr, isShow } from '@tender-lasso/core/document'
import { coverageOfName, OBJECT_ID_LAYER, picturesOf } from '@tender-lasso/core/handoff'
import { readExr } from '@tender-lasso/formats/exr'
import { notFound, Problem } from '../errors'
import { ENDINGS, type Manifest } from '../handoff'
import { keys, type Store } from '../store'

/** A matte as 16-bit coverage. */
export interface MattePixels {
  width: number
  height: number
  values: Uint16Array<ArrayBuffer>
}

/** Where a matte of a delivery is. */
export interface DeliveredPlace {
  store: Store
  /** Below which the delivery's files are. */
  key: string
  manifest: Manifest
  partId: string
  frame: number
}

/**
 * A matte out of the files of a delivery, as they are now.
 *
 * @throws Problem 404 where the delivery has no such matte or frame, 409 where its files hold none that can be told apart, 500 where a file cannot be read
 */
export async function deliveredMatte({ store, key, manifest, partId, frame }: DeliveredPlace): Promise<MattePixels> {
  const { output, mattes, version, shot, range } = manifest
  if (isShow(output.layout)) throw new Problem(409, 'shows-mattes', 'A movie to look at shows mattes, it holds none')
  if (frame < range[0] || frame > range[1]) throw notFound(`Frame ${frame} of the delivery`)
  const wanted = mattes.findIndex((matte) => matte.partId === partId)
  const isIds = output.layout === 'object-id'
  const pictures = picturesOf(output, mattes, { shot, version, frame })
  const picture = pictures.find(({ channels }) => isIds || channels.some(({ matte }) => matte === wanted))
  if (wanted < 0 || !picture) throw notFound('The matte of the delivery')
  const place = keys.below(key, `${picture.path}.${ENDINGS[output.format]}`)
  const channel = picture.channels.find(({ matte }) => matte === wanted)?.name ?? ''
  try {
    if (output.format === 'ffv1') return await ofMovie(store, place, manifest, frame - range[0])
    const file = await store.read(place)
    if (isIds) return ofExr(file, isRanked, (channels) => coverageOfName(channels, mattes[wanted]!.name))
    if (isExr(output.format))
      return ofExr(
        file,
        (name) => name === channel,
        (channels) => channels.get(channel) ?? null,
      )
    return await ofPixels(file, Math.max(0, ['R', 'G', 'B'].indexOf(channel)))
  } catch (error) {
    throw new Problem(500, 'delivery-unreadable', `${picture.path} of the delivery cannot be read: ${wordsOf(error)}`)
  }
}

const wordsOf = (error: unknown) => (error instanceof Error ? error.message.split('\n')[0]! : String(error))

/** PNG or TIFF. */
async function ofPixels(file: Uint8Array, channel: number): Promise<MattePixels> {
  const image = sharp(file)
  const { depth, channels } = await image.metadata()
  const isDeep = depth === 'ushort'
  const { data, info } = await image
    .toColourspace(channels === 1 ? (isDeep ? 'grey16' : 'b-w') : isDeep ? 'rgb16' : 'srgb')
    .extractChannel(Math.min(channel, (channels ?? 1) - 1) as 0 | 1 | 2)
    .raw({ depth: isDeep ? 'ushort' : 'uchar' })
    .toBuffer({ resolveWithObject: true })
  const values = isDeep
    ? new Uint16Array(data.buffer, data.byteOffset, data.length / 2)
    : Uint16Array.from(data, (value) => value * 257)
  return { width: info.width, height: info.height, values }
}

const isRanked = (channel: string) => channel.startsWith(OBJECT_ID_LAYER)

/** A matte of an EXR, over the whole picture: a channel, or the shares of a name among object ids. */
function ofExr(
  file: Uint8Array,
  isWanted: (channel: string) => boolean,
  coverageIn: (channels: ReadonlyMap<string, Float32Array>) => Float32Array | null,
): MattePixels {
  const { width, height, window, channels } = readExr(file, isWanted, (packed) => inflateSync(packed))
  const coverage = coverageIn(channels)
  if (!coverage) throw new Error('the matte is not in it')
  const values = new Uint16Array(width * height)
  const columns = window.right - window.left
  for (let y = Math.max(0, window.top); y < Math.min(height, window.bottom); y++) {
    for (let x = Math.max(0, window.left); x < Math.min(width, window.right); x++) {
      const share = coverage[(y - window.top) * columns + x - window.left]!
      values[y * width + x] = Math.min(1, Math.max(0, share)) * 65535 + 0.5
    }
  }
  return { width, height, values }
}

/** One picture of a lossless movie. */
async function ofMovie(store: Store, place: string, { width, height }: Manifest, index: number): Promise<MattePixels> {
  const child = spawn(
    'ffmpeg',
    [
      ...['-v', 'error', '-i', 'pipe:0', '-vf', `select=eq(n\\,${index})`, '-frames:v', '1'],
      ...['-f', 'rawvideo', '-pix_fmt', 'gray16le', 'pipe:1'],
    ],
    { stdio: ['pipe', 'pipe', 'pipe'] },
  )
  const file = store.stream(place)
  const pieces: Buffer[] = []
  let complaint = ''
  child.stdout.on('data', (piece: Buffer) => pieces.push(piece))
  child.stderr.on('data', (piece: Buffer) => (complaint = (complaint + piece.toString()).slice(0, 500)))
  // It reads no further than it has to.
  child.stdin.on('error', () => undefined)
  const ended = new Promise<void>((resolve, reject) => {
    child.once('error', reject)
    child.once('close', () => resolve())
    file.once('error', (error) => {
      child.kill('SIGKILL')
      reject(error)
    })
  })
  file.pipe(child.stdin)
  try {
    await ended
  } finally {
    file.destroy()
  }
  const data = Buffer.concat(pieces)
  if (data.length !== 2 * width * height) throw new Error(complaint || 'the picture is not in it')
  const values = new Uint16Array(width * height)
  for (let i = 0; i < values.length; i++) values[i] = data.readUInt16LE(2 * i)
  return { width, height, values }
}
