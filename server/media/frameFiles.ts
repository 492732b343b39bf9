import { readdir } from 'node:fs/promises'
import path from 'node:path'
import sharp from 'sharp'
import { displayTable, type ColourEncoding } from '@tender-lasso/core/colour'
import { encodeAnalysisFrame, type Interleaved } from '@tender-lasso/formats/analysis'
import { writeWhole } from '../store'

/** What ingest makes of each frame: see docs/formats.md. */
export const FRAME_TIERS = {
  display: { file: 'display.jpg', type: 'image/jpeg' },
  thumbnail: { file: 'thumbnail.jpg', type: 'image/jpeg' },
  analysis: { file: 'analysis.tlaf', type: 'application/octet-stream' },
} as const
export type FrameTier = keyof typeof FRAME_TIERS

/** Within this box, so that a plate that is a thousand times as wide as high still is a picture. */
const THUMBNAIL = { width: 1024, height: 90, fit: 'inside' } as const
export function framePath(framesFolder: string, shotId: string, frame: number, tier: FrameTier): string {
  return path.join(framesFolder, shotId, String(frame), FRAME_TIERS[tier].file)
}

/** Frames that are wholly there: the analysis file is written last. */
export async function finishedFrames(framesFolder: string, shotId: string): Promise<Set<number>> {
  const folders = await readdir(path.join(framesFolder, shotId)).catch(() => [])
  const finished = new Set<number>()
  for (const folder of folders) {
    const files = await readdir(path.join(framesFolder, shotId, folder)).catch(() => [] as string[])
    if (files.includes(FRAME_TIERS.analysis.file)) finished.add(Number(folder))
  }
  return finished
}

/** A decoded frame: values as the plate encodes them. */
export interface DecodedFrame {
  rgb: Interleaved
  /** Whether colour differences were stored for two pixels a side at once (4:2:0): what is shown needs no more of them. */
  isChromaHalved: boolean
  width: number
  height: number
  colourEncoding: ColourEncoding
}

/** Writes all tiers of one frame. What is for the eye and luma for tracking are display-encoded, the channels stay. */
export async function writeFrameFiles(
  framesFolder: string,
  shotId: string,
  frame: number,
  { rgb, isChromaHalved, width, height, colourEncoding }: DecodedFrame,
  signal?: AbortSignal,
): Promise<void> {
  const shown = displayEncoded(rgb, colourEncoding)
  const raw = { raw: { width, height, channels: 3 as const } }
  const eightBit = inEightBits(shown)
  // Pictures are compressed on the threads of the library, while tiles are packed on this one.
  const pictures = Promise.all([
    // Huffman tables made for each picture would take a few bytes less and half as long again.
    sharp(eightBit, raw)
      .jpeg({ quality: 93, chromaSubsampling: isChromaHalved ? '4:2:0' : '4:4:4', optimiseCoding: false })
      .toBuffer(),
    sharp(eightBit, raw).resize(THUMBNAIL).jpeg({ quality: 80 }).toBuffer(),
  ])
  pictures.catch(() => undefined)
  const analysis = encodeAnalysisFrame({ rgb, shown, width, height })
  const [display, thumbnail] = await pictures
  // A cancelled shot may have been taken away: nothing is put in its place.
  signal?.throwIfAborted()
  await writeWhole(framePath(framesFolder, shotId, frame, 'display'), display)
  await writeWhole(framePath(framesFolder, shotId, frame, 'thumbnail'), thumbnail)
  await writeWhole(framePath(framesFolder, shotId, frame, 'analysis'), analysis)
}

const tables = new Map<ColourEncoding, Uint16Array>()

function displayEncoded(rgb: Interleaved, encoding: ColourEncoding): Interleaved {
  if (encoding === 'sRGB' || encoding === 'Rec.709') return rgb
  let table = tables.get(encoding)
  if (!table) tables.set(encoding, (table = displayTable(encoding)))
  const out = new Uint16Array(rgb.length)
  const step = rgb instanceof Uint8Array ? 257 : 1
  for (let i = 0; i < rgb.length; i++) out[i] = table[rgb[i]! * step]!
  return out
}

function inEightBits(shown: Interleaved): Uint8Array {
  if (shown instanceof Uint8Array) return shown
  const out = new Uint8Array(shown.length)
  for (let i = 0; i < shown.length; i++) out[i] = (shown[i]! * 255 + 32767) / 65535
  return out
}
