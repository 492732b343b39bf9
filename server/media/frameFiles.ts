import { readdir } from 'node:fs/promises'
import path from 'node:path'
import sharp from 'sharp'
import { displayTable, type ColourEncoding } from '@tender-lasso/core/colour'
import { BT709_LUMA } from '@tender-lasso/core/image'
import { encodeAnalysisFrame } from '@tender-lasso/formats/analysis'
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

/** A decoded frame: 16-bit values as the plate encodes them, three channels, row-major. */
export interface DecodedFrame {
  rgb: Uint16Array
  width: number
  height: number
  colourEncoding: ColourEncoding
}

/** Writes all tiers of one frame. What is for the eye and luma for tracking are display-encoded, the channels stay. */
export async function writeFrameFiles(
  framesFolder: string,
  shotId: string,
  frame: number,
  { rgb, width, height, colourEncoding }: DecodedFrame,
  signal?: AbortSignal,
): Promise<void> {
  const shown = displayEncoded(rgb, colourEncoding)
  const eightBit = Buffer.allocUnsafe(rgb.length)
  for (let i = 0; i < rgb.length; i++) eightBit[i] = (shown[i]! * 255 + 32767) / 65535
  const raw = { raw: { width, height, channels: 3 as const } }
  const [display, thumbnail, analysis] = await Promise.all([
    sharp(eightBit, raw).jpeg({ quality: 93, chromaSubsampling: '4:4:4' }).toBuffer(),
    sharp(eightBit, raw).resize(THUMBNAIL).jpeg({ quality: 80 }).toBuffer(),
    encodeAnalysisFrame(planesOf(rgb, shown), width, height),
  ])
  // A cancelled shot may have been taken away: nothing is put in its place.
  signal?.throwIfAborted()
  await writeWhole(framePath(framesFolder, shotId, frame, 'display'), display)
  await writeWhole(framePath(framesFolder, shotId, frame, 'thumbnail'), thumbnail)
  await writeWhole(framePath(framesFolder, shotId, frame, 'analysis'), analysis)
}

const tables = new Map<ColourEncoding, Uint16Array>()

function displayEncoded(rgb: Uint16Array, encoding: ColourEncoding): Uint16Array {
  if (encoding === 'sRGB' || encoding === 'Rec.709') return rgb
  let table = tables.get(encoding)
  if (!table) tables.set(encoding, (table = displayTable(encoding)))
  const out = new Uint16Array(rgb.length)
  for (let i = 0; i < rgb.length; i++) out[i] = table[rgb[i]!]!
  return out
}

/** Luma of what is shown, then red, green and blue as the plate has them, each 16 bit. */
function planesOf(rgb: Uint16Array, shown: Uint16Array): Uint16Array[] {
  const count = rgb.length / 3
  const planes = [0, 1, 2, 3].map(() => new Uint16Array(count)) as [Uint16Array, Uint16Array, Uint16Array, Uint16Array]
  const [luma, red, green, blue] = planes
  const [wr, wg, wb] = BT709_LUMA
  for (let i = 0, at = 0; i < count; i++, at += 3) {
    red[i] = rgb[at]!
    green[i] = rgb[at + 1]!
    blue[i] = rgb[at + 2]!
    luma[i] = wr * shown[at]! + wg * shown[at + 1]! + wb * shown[at + 2]! + 0.5
  }
  return planes
}
