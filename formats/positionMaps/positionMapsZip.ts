import { Zip, ZipPassThrough } from 'fflate'
import { positionMap, type PositionMapSettings } from '@tender-lasso/core/handoff'
import type { Matrix3 } from '@tender-lasso/core/geometry'
import { FormatError } from '../errors'
import { writeExrSlowly, type ExrPicture } from '../exr'

/** Bytes beyond which a ZIP would need the larger form, which is not written here. */
const MOST_BYTES = 4e9
const BYTES_A_PIXEL = 8

export interface PositionMapsOfTrack {
  name: string
  width: number
  height: number
  pixelAspect: number
  rate: { numerator: number; denominator: number }
  relativeTo: number
  settings: PositionMapSettings
  /** The track's centre on the frame `relativeTo`. */
  centre: readonly [number, number]
  /** Plate positions of the frame `relativeTo` to those of each. */
  frames: readonly { frame: number; matrix: Matrix3 }[]
}

const WORDS = {
  forward: 'each pixel holds where it is on the reference frame: warp a picture of that frame to lay it onto this one',
  back: 'each pixel of the reference frame holds where it is on this frame: warp this frame to hold it still',
}

/**
 * Position maps of a track as 32-bit EXR, one a frame, in a ZIP: red holds the place across, green the place down (or up). Beside them `positions.json` says
 * what they mean.
 *
 * @yields what the ZIP grows by, frame by frame; the last piece ends it
 * @throws FormatError `too-large` before anything is made
 */
export async function* positionMapsZip(maps: PositionMapsOfTrack): AsyncGenerator<Uint8Array[]> {
  const { name, width, height, pixelAspect, rate, relativeTo, settings, centre, frames } = maps
  if (frames.length * width * height * BYTES_A_PIXEL > MOST_BYTES) {
    throw new FormatError('too-large', 'There would be more than 4 GB of position maps: mark a stretch of frames')
  }
  let pieces: Uint8Array[] = []
  const zip = new Zip((error, piece) => {
    if (error) throw error
    pieces.push(piece)
  })
  const add = (path: string, bytes: Uint8Array) => {
    const file = new ZipPassThrough(path)
    zip.add(file)
    file.push(bytes, true)
  }
  const taken = () => {
    const out = pieces
    pieces = []
    return out
  }
  const fileOf = (frame: number) => `${settings.way}.${String(frame).padStart(4, '0')}.exr`
  for (const { frame, matrix } of frames) {
    const { across, down } = positionMap(matrix, centre, width, height, settings)
    const texts = { track: name, way: settings.way, relativeTo: String(relativeTo), yAxis: settings.yAxis, units: settings.units } // prettier-ignore
    const picture: ExrPicture = {
      width,
      height,
      pixel: 'float',
      compression: 'zip',
      channels: [
        { name: 'R', data: across },
        { name: 'G', data: down },
      ],
      said: { pixelAspect, framesPerSecond: rate, frame, texts },
    }
    add(fileOf(frame), await writeExrSlowly(picture, deflatedByPlatform))
    yield taken()
  }
  const facts = {
    format: 'tender-lasso-position-maps',
    version: 1,
    track: name,
    plate: { width, height, pixelAspect, framesPerSecond: rate },
    relativeTo,
    ...settings,
    meaning: WORDS[settings.way],
    files: frames.map(({ frame }) => ({ frame, path: fileOf(frame) })),
  }
  add('positions.json', new TextEncoder().encode(`${JSON.stringify(facts, null, 2)}\n`))
  zip.end()
  yield taken()
}

/** By the compressor that browsers and Node.js bring along. */
async function deflatedByPlatform(bytes: Uint8Array): Promise<Uint8Array> {
  const { readable, writable } = new CompressionStream('deflate')
  // Written by hand: a Blob piped through takes nearly twice as long.
  const writer = writable.getWriter()
  const [packed] = await Promise.all([
    new Response(readable).arrayBuffer(),
    writer.write(bytes as Uint8Array<ArrayBuffer>),
    writer.close(),
  ])
  return new Uint8Array(packed)
}
