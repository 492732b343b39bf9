import { constants, deflateSync } from 'node:zlib'
import sharp from 'sharp'
import { hasHoldouts, isExr, type Output } from '@tender-lasso/core/document'
import type { Rgb } from '@tender-lasso/core/evaluation'
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

/** Mattes of a frame, each over the same pixels of the picture: outside of them there is nothing. */
export interface FrameMattes {
  alphas: readonly Float32Array[]
  /** Missing: the whole picture, as all but EXR with a data window needs. */
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
  { alphas, box, names, width, height }: FrameMattes,
  said: ExrSaid,
): Uint8Array {
  const isIds = output.layout === 'object-id'
  const channels: ExrChannel[] = isIds
    ? rankedCoverage(alphas, names)
    : picture.channels.map(({ name, matte }) => ({ name, data: alphas[matte]! }))
  // Colours come by threes: of one or two mattes the others are empty.
  if (output.layout === 'rgb') for (const name of ['R', 'G', 'B'].slice(channels.length)) channels.push({ name, data: new Float32Array(alphas[0]!.length) }) // prettier-ignore
  const isFitted = output.window === 'data' && !isIds
  const within = box ?? { left: 0, top: 0, right: width, bottom: height }
  const window = isFitted ? coveredWindow(alphas, picture.channels.map(({ matte }) => matte), within) : within // prettier-ignore
  return writeExr(
    {
      width,
      height,
      channels: channels.map(({ name, data }) => ({ name, data: cropped(data, within, window) })),
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

const textsOf = ({ notes }: Output) => Object.fromEntries(notes.map(({ name, value }) => [name, value]))

/** The pixels of a window within a box that they are part of. */
function cropped(data: Float32Array, box: ExrWindow, { left, top, right, bottom }: ExrWindow): Float32Array {
  const width = box.right - box.left
  const columns = right - left
  if (columns === width && bottom - top === box.bottom - box.top) return data
  const out = new Float32Array(columns * (bottom - top))
  for (let y = top; y < bottom; y++) {
    const from = (y - box.top) * width + left - box.left
    out.set(data.subarray(from, from + columns), (y - top) * columns)
  }
  return out
}

/** One picture of a movie to look at. @param plate  sRGB, three bytes a pixel; null where it is not shown */
export function encodeShown(
  output: Output,
  { alphas, width, height }: FrameMattes,
  colours: readonly Rgb[],
  plate: Uint8Array | null,
): Promise<Uint8Array> {
  const shown = { plate, alphas, colours, areShares: hasHoldouts(output) }
  const pixels = showPicture(output.layout, shown, width * height)
  return sharp(pixels, { raw: { width, height, channels: 3 } })
    .png({ compressionLevel: 1 })
    .toBuffer()
}

/** The least part of a box that holds all that some mattes cover; of nothing one pixel, since a window has one at least. */
export function coveredWindow(alphas: readonly Float32Array[], which: readonly number[], box: ExrWindow): ExrWindow {
  const width = box.right - box.left
  let [left, top, right, bottom] = [width, box.bottom, 0, box.top]
  for (const matte of which) {
    for (let y = box.top; y < box.bottom; y++) {
      const row = alphas[matte]!.subarray((y - box.top) * width, (y - box.top + 1) * width)
      let first = 0
      while (first < width && row[first] === 0) first++
      if (first === width) continue
      let last = width - 1
      while (row[last] === 0) last--
      left = Math.min(left, first)
      right = Math.max(right, last + 1)
      top = Math.min(top, y)
      bottom = Math.max(bottom, y + 1)
    }
  }
  if (left >= right) return { left: box.left, top: box.top, right: box.left + 1, bottom: box.top + 1 }
  return { left: box.left + left, top, right: box.left + right, bottom }
}

/** PNG or TIFF of 8 or 16 bits: grey, or red, green and blue where the picture has three mattes. */
async function pixelsOf(output: Output, picture: Picture, { alphas, width, height }: FrameMattes): Promise<Uint8Array> {
  // A lossless movie is made of such pictures.
  const isDeep = output.format.endsWith('16') || output.format === 'ffv1'
  const count = output.layout === 'rgb' ? 3 : 1
  const most = isDeep ? 65535 : 255
  const values = isDeep ? new Uint16Array(width * height * count) : new Uint8Array(width * height * count)
  picture.channels.forEach(({ matte }, channel) => {
    const alpha = alphas[matte]!
    for (let i = 0; i < alpha.length; i++) values[i * count + channel] = alpha[i]! * most + 0.5
  })
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
