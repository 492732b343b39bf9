import { constants, deflateSync } from 'node:zlib'
import sharp from 'sharp'
import { hasHoldouts, isExr, type Output } from '@tender-lasso/core/document'
import type { Rgb } from '@tender-lasso/core/evaluation'
import { ontoBox, type FittedMatte } from '@tender-lasso/core/raster'
import { objectIdHeader, rankedCoverage, showPicture, type Picture } from '@tender-lasso/core/handoff'
import { writeExr, type ExrChannel, type ExrSaid, type ExrWindow } from '@tender-lasso/formats/exr'
import { withPngText, xmpOfNotes } from './notes'

/** Ends of files. */
export const ENDINGS: Record<Output['format'], string> = {
  png8: 'png',
  png16: 'png',
  tiff8: 'tif',
  tiff16: 'tif',
  'exr-half': 'exr',
  'exr-float': 'exr',
  ffv1: 'mkv',
  h264: 'mp4',
  vp9: 'webm',
}

/** Mattes of a frame, each over the pixels of the picture that it can touch. */
export interface FrameMattes {
  mattes: readonly FittedMatte[]
  /** Pixels that are written; missing: the whole picture, as all but EXR with a data window needs. */
  box?: ExrWindow
  names: readonly string[]
  width: number
  height: number
}

/** The bytes of one file of an output. Linear coverage: a matte is not a picture and gets no display curve. */
export function encodePicture(
  output: Output,
  picture: Picture,
  mattes: FrameMattes,
  said: ExrSaid,
): Promise<Uint8Array> {
  return isExr(output.format)
    ? Promise.resolve(exrOf(output, picture, mattes, said))
    : pixelsOf(output, picture, mattes)
}

function exrOf(
  output: Output,
  picture: Picture,
  { mattes, box, names, width, height }: FrameMattes,
  said: ExrSaid,
): Uint8Array {
  const isIds = output.layout === 'object-id'
  const within = box ?? { left: 0, top: 0, right: width, bottom: height }
  const shown = picture.channels.map((channel) => mattes[channel.matte]!)
  const channels: ExrChannel[] = isIds
    ? rankedCoverage(ontoBox(mattes, within), names)
    : shown.map(({ alpha, box: own }, i) => ({ name: picture.channels[i]!.name, data: alpha, box: own }))
  // Colours come by threes: of one or two mattes the others are empty.
  if (output.layout === 'rgb') for (const name of ['R', 'G', 'B'].slice(channels.length)) channels.push({ name, ...EMPTY }) // prettier-ignore
  const isFitted = output.window === 'data' && !isIds
  const window = isFitted ? coveredWindow(shown, within) : within
  return writeExr(
    {
      width,
      height,
      channels,
      pixel: output.format === 'exr-float' ? 'float' : 'half',
      compression: output.compression,
      window,
      said: {
        ...said,
        primaries: output.primaries,
        texts: { ...textsOf(output), ...said.texts, ...(isIds && objectIdHeader(names)) },
      },
    },
    // Runs of nothing are nearly all that there is: looking for those alone takes as long as the fastest level and makes half the file.
    (bytes) => deflateSync(bytes, { level: 1, strategy: constants.Z_RLE }),
  )
}

/** A channel that is 0 everywhere. */
const EMPTY = { data: new Float32Array(0), box: { left: 0, top: 0, right: 0, bottom: 0 } }

const textsOf = ({ notes }: Output) => Object.fromEntries(notes.map(({ name, value }) => [name, value]))

/** One picture of a movie to look at. @param plate  sRGB, three bytes a pixel; null where it is not shown */
export function encodeShown(
  output: Output,
  mattes: FrameMattes,
  colours: readonly Rgb[],
  plate: Uint8Array | null,
): Promise<Uint8Array> {
  const { width, height } = mattes
  const alphas = ontoBox(mattes.mattes, { left: 0, top: 0, right: width, bottom: height })
  const shown = { plate, alphas, colours, areShares: hasHoldouts(output) }
  const pixels = showPicture(output.layout, shown, width * height)
  return sharp(pixels, { raw: { width, height, channels: 3 } })
    .png({ compressionLevel: 1 })
    .toBuffer()
}

/** The least part of a box that holds all that some mattes cover there; of nothing one pixel, since a window has one at least. */
export function coveredWindow(mattes: readonly FittedMatte[], box: ExrWindow): ExrWindow {
  let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity]
  for (const { alpha, box: own } of mattes) {
    const width = own.right - own.left
    const from = Math.max(box.left, own.left)
    const to = Math.min(box.right, own.right)
    for (let y = Math.max(box.top, own.top); y < Math.min(box.bottom, own.bottom); y++) {
      const start = (y - own.top) * width - own.left
      const row = alpha.subarray(start + from, start + to)
      let first = 0
      while (first < row.length && row[first] === 0) first++
      if (first === row.length) continue
      let last = row.length - 1
      while (row[last] === 0) last--
      left = Math.min(left, from + first)
      right = Math.max(right, from + last + 1)
      top = Math.min(top, y)
      bottom = Math.max(bottom, y + 1)
    }
  }
  return left < right ? { left, top, right, bottom } : { left: box.left, top: box.top, right: box.left + 1, bottom: box.top + 1 } // prettier-ignore
}

/** PNG or TIFF of 8 or 16 bits: grey, or red, green and blue where the picture has three mattes. */
async function pixelsOf(output: Output, picture: Picture, { mattes, width, height }: FrameMattes): Promise<Uint8Array> {
  // A lossless movie is made of such pictures.
  const isDeep = output.format.endsWith('16') || output.format === 'ffv1'
  const count = output.layout === 'rgb' ? 3 : 1
  const values = isDeep ? new Uint16Array(width * height * count) : new Uint8Array(width * height * count)
  picture.channels.forEach(({ matte }, channel) => putCounts(mattes[matte]!, isDeep ? 65535 : 255, values, width, count, channel)) // prettier-ignore
  const space = count === 3 ? (isDeep ? 'rgb16' : 'srgb') : isDeep ? 'grey16' : 'b-w'
  const image = sharp(values, { raw: { width, height, channels: count } }).toColourspace(space)
  // Those of a movie are its own matter.
  if (output.format === 'ffv1') return image.png({ compressionLevel: 3 }).toBuffer()
  if (output.format.startsWith('png')) {
    return withPngText(await image.png({ compressionLevel: 3 }).toBuffer(), output.notes)
  }
  const said = output.notes.length > 0 ? image.withXmp(xmpOfNotes(output.notes)) : image
  return said.tiff({ compression: 'deflate', predictor: 'horizontal' }).toBuffer()
}

/** A matte as whole numbers up to `most`, put into one of the channels of a picture that is nothing elsewhere. */
function putCounts(
  { alpha, box }: FittedMatte,
  most: number,
  values: Uint16Array | Uint8Array,
  width: number,
  channels: number,
  channel: number,
) {
  const columns = box.right - box.left
  const bottom = Math.min(box.bottom, values.length / (width * channels))
  for (let y = Math.max(0, box.top); y < bottom && alpha.length > 0; y++) {
    const from = (y - box.top) * columns
    let at = (y * width + box.left) * channels + channel
    for (let i = from; i < from + columns; i++, at += channels) values[at] = alpha[i]! * most + 0.5
  }
}
