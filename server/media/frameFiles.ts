import sharp from 'sharp'
import { displayTable, type ColourEncoding } from '@tender-lasso/core/colour'
import { encodeAnalysisFrame, type Interleaved } from '@tender-lasso/formats/analysis'
import { FRAME_TIERS, keys, type Store } from '../store'

/** Within this box, so that a plate that is a thousand times as wide as high still is a picture. */
const THUMBNAIL = { width: 1024, height: 90, fit: 'inside' } as const

/** Frames that are wholly there: the analysis file is put last. */
export async function finishedFrames(store: Store, shotId: string): Promise<Set<number>> {
  const finished = new Set<number>()
  for (const frame of await store.list(keys.framesOf(shotId))) {
    const files = await store.list(keys.tiersOf(shotId, frame))
    if (files.includes(FRAME_TIERS.analysis.file)) finished.add(Number(frame))
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
  store: Store,
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
  await store.put(keys.frame(shotId, frame, 'display'), display)
  await store.put(keys.frame(shotId, frame, 'thumbnail'), thumbnail)
  await store.put(keys.frame(shotId, frame, 'analysis'), analysis)
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
