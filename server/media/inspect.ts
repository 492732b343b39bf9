import { stat } from 'node:fs/promises'
import sharp from 'sharp'
import type { Rate } from '@tender-lasso/core/timing'
import { Problem } from '../errors'
import { frameNumbersOf } from './frameNumbers'
import { MOVIE_NAME, probeMovie } from './movie'
import { refuseHugeSize } from './plateSize'

const IMAGE_FORMATS = new Set(['png', 'jpeg', 'tiff'])
const IMAGE_NAME = /\.(png|jpe?g|tiff?)$/i

export const isMovie = (name: string) => MOVIE_NAME.test(name)

export interface SourceFile {
  /** As the artist knows it. */
  name: string
  /** Where it lies. */
  path: string
}

export interface InspectedPlate {
  kind: 'sequence' | 'movie'
  width: number
  height: number
  firstFrame: number
  frameCount: number
  rate: Rate
  /** What a movie itself says, where that is another. */
  ownRate: Rate
  pixelAspect: number
  colourEncoding: 'sRGB' | 'Rec.709'
  bitDepth: number
  /** Files in frame order. */
  order: string[]
  /** What is odd but does not stop the work. */
  warnings: string[]
}

/**
 * What the files are, without decoding all of them.
 *
 * @throws Problem 422 that names the file: nothing given, unsupported, empty, broken header, too large, mixed sizes,
 *         gaps in the numbering, several movies
 */
export async function inspectFiles(files: readonly SourceFile[]): Promise<InspectedPlate> {
  if (files.length === 0) throw refused('no-files', 'No file was given')
  for (const file of files) {
    if ((await stat(file.path)).size === 0) throw refused('empty-file', `${file.name} is empty (0 bytes)`)
    if (!MOVIE_NAME.test(file.name) && !IMAGE_NAME.test(file.name)) {
      throw refused(
        'unsupported-type',
        `${file.name} is of a type that cannot be opened: use PNG, JPEG or TIFF images, or a movie (MP4, MOV, MKV, WebM, AVI, MXF, MPEG, TS and others)`,
      )
    }
  }
  const movies = files.filter((file) => MOVIE_NAME.test(file.name))
  if (movies.length > 0) {
    if (files.length > 1) throw refused('mixed-files', `${movies[0]!.name} is a movie: open it alone`)
    return inspectMovie(movies[0]!)
  }
  return inspectSequence(files)
}

const refused = (code: string, message: string) => new Problem(422, code, message)

async function inspectSequence(files: readonly SourceFile[]): Promise<InspectedPlate> {
  const warnings: string[] = []
  const frames = frameNumbersOf(files.map(({ name }) => name))
  const numbered = files.map((file, i) => ({ file, frame: frames[i]! }))
  const unnumbered = numbered.find((entry) => entry.frame === null)
  if (unnumbered && files.length > 1)
    throw refused('no-number', `${unnumbered.file.name} has no frame number in its name`)
  numbered.sort((a, b) => (a.frame ?? 0) - (b.frame ?? 0))
  for (let i = 1; i < numbered.length; i++) {
    const [previous, here] = [numbered[i - 1]!, numbered[i]!]
    if (here.frame === previous.frame) {
      throw refused('double-number', `${previous.file.name} and ${here.file.name} both are frame ${here.frame}`)
    }
    if (here.frame! > previous.frame! + 1) {
      const gap =
        here.frame! === previous.frame! + 2 ? `${previous.frame! + 1}` : `${previous.frame! + 1} to ${here.frame! - 1}`
      throw refused('gap', `Frame ${gap} is missing: ${previous.file.name} is followed by ${here.file.name}`)
    }
  }
  const first = await headerOf(numbered[0]!.file)
  for (const { file } of numbered) {
    const header = await headerOf(file)
    if (header.width !== first.width || header.height !== first.height) {
      throw refused(
        'mixed-sizes',
        `${file.name} is ${header.width} x ${header.height}, but ${numbered[0]!.file.name} is ${first.width} x ${first.height}`,
      )
    }
  }
  if (files.length === 1) warnings.push('A single picture: the shot has one frame')
  return {
    kind: 'sequence',
    width: first.width,
    height: first.height,
    firstFrame: numbered[0]!.frame ?? 1001,
    frameCount: numbered.length,
    rate: { numerator: 24, denominator: 1 },
    ownRate: { numerator: 24, denominator: 1 },
    pixelAspect: 1,
    colourEncoding: 'sRGB',
    bitDepth: first.bitDepth,
    order: numbered.map((entry) => entry.file.name),
    warnings,
  }
}

async function headerOf(file: SourceFile) {
  const picture = await sharp(file.path, { limitInputPixels: false })
    .metadata()
    .catch(() => {
      throw refused('broken-file', `${file.name} cannot be read: its header is broken or it is no picture`)
    })
  if (!picture.format || !IMAGE_FORMATS.has(picture.format)) {
    throw refused('unsupported-type', `${file.name} holds ${picture.format ?? 'something'} that cannot be opened`)
  }
  refuseHugeSize(file.name, picture.width, picture.height)
  return { width: picture.width, height: picture.height, bitDepth: picture.depth === 'uchar' ? 8 : 16 }
}

async function inspectMovie({ path, name }: SourceFile): Promise<InspectedPlate> {
  const movie = await probeMovie(path, name)
  return { kind: 'movie', firstFrame: 1001, colourEncoding: 'Rec.709', order: [name], ...movie }
}
