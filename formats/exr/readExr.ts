import { unzlibSync } from 'fflate'
import { FormatError } from '../errors'
import { floatFromHalf } from './halfFloat'
import type { ExrWindow } from './writeExr'

/** Some channels of an EXR, over its data window. */
export interface ExrRead {
  /** Pixels of the whole picture: the display window. */
  width: number
  height: number
  /** Where the pixels lie in the picture; right and bottom are those beyond the last. */
  window: ExrWindow
  /** Row-major, top row first; 32-bit numbers keep their bits. */
  channels: Map<string, Float32Array>
}

/** Bytes of a sample, by the number that the file layout gives its kind. */
const SAMPLE_BYTES: Readonly<Record<number, number>> = { 0: 4, 1: 2, 2: 4 }
/** Lines of a block, by the number of its compression: none, line by line, sixteen lines. */
const BLOCK_LINES: Readonly<Record<number, number>> = { 0: 1, 2: 1, 3: 16 }
/** Pixels of a picture, and channels, that are read at most. */
const MOST_PIXELS = 2 ** 27
const MOST_CHANNELS = 1024

/** All halves as floats, made when the first are read. */
let halves: Float32Array | null = null
const allHalves = () => (halves ??= Float32Array.from({ length: 65536 }, (_, bits) => floatFromHalf(bits)))

interface Channel {
  name: string
  kind: number
}

/**
 * Reads scan-line EXR of half or float samples, not compressed or ZIP. After the published file layout of the OpenEXR project ("OpenEXR File Layout").
 *
 * @param wanted   whether a channel of that name is read
 * @param inflate  zlib decompressor; the server gives its native one
 * @throws FormatError `not-exr` with what is wrong, or what of the format is not read
 */
export function readExr(
  bytes: Uint8Array,
  wanted: (name: string) => boolean = () => true,
  inflate: (bytes: Uint8Array) => Uint8Array = (packed) => unzlibSync(packed),
): ExrRead {
  try {
    return read(bytes, wanted, inflate)
  } catch (error) {
    // Whatever reads beyond the end, or unpacks what is no zlib stream.
    throw error instanceof FormatError ? error : wrong('it is damaged or cut short')
  }
}

function read(
  bytes: Uint8Array,
  wanted: (name: string) => boolean,
  inflate: (bytes: Uint8Array) => Uint8Array,
): ExrRead {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  if (bytes.length < 8 || view.getUint32(0, true) !== 20000630) throw wrong('it is none')
  // Bits beyond the version tell of tiles, deep data and several parts; long names are as others.
  if ((view.getUint32(4, true) & ~0x4ff) !== 0) throw wrong('only scan lines of one part are read')
  const header = headerOf(view, bytes)
  const { channels, compression, window, display } = header
  const linesPerBlock = BLOCK_LINES[compression]
  if (!linesPerBlock) throw wrong('only ZIP and what is not compressed are read')
  const columns = window.right - window.left
  const lines = window.bottom - window.top
  if (columns < 1 || lines < 1 || columns * lines > MOST_PIXELS) throw wrong('its data window is empty or too large')
  const lineBytes = columns * channels.reduce((sum, { kind }) => sum + SAMPLE_BYTES[kind]!, 0)
  const read = new Map<string, Float32Array>()
  for (const { name } of channels) if (wanted(name)) read.set(name, new Float32Array(columns * lines))
  const blocks = Math.ceil(lines / linesPerBlock)
  for (let block = 0; block < blocks; block++) {
    const at = Number(view.getBigUint64(header.end + 8 * block, true))
    const first = view.getInt32(at, true) - window.top
    const size = view.getInt32(at + 4, true)
    const count = Math.min(linesPerBlock, lines - first)
    if (first < 0 || count < 1 || size < 0 || at + 8 + size > bytes.length) throw wrong('it is damaged or cut short')
    const packed = bytes.subarray(at + 8, at + 8 + size)
    const whole = count * lineBytes
    const raw = size === whole ? packed : unpredicted(inflate(packed), whole)
    unpacked(raw, channels, read, first, count, columns)
  }
  return { width: display.right - display.left, height: display.bottom - display.top, window: relativeTo(window, display), channels: read } // prettier-ignore
}

/** Samples of some lines: line by line, in a line channel by channel. */
function unpacked(
  raw: Uint8Array,
  channels: readonly Channel[],
  out: ReadonlyMap<string, Float32Array>,
  first: number,
  count: number,
  columns: number,
) {
  const view = new DataView(raw.buffer, raw.byteOffset, raw.byteLength)
  const floats = channels.some(({ kind }) => kind === 1) ? allHalves() : null
  let at = 0
  for (let line = first; line < first + count; line++) {
    for (const { name, kind } of channels) {
      const data = out.get(name)
      const from = line * columns
      if (!data) at += columns * SAMPLE_BYTES[kind]!
      else if (kind === 1)
        for (let x = 0; x < columns; x++, at += 2) data[from + x] = floats![view.getUint16(at, true)]!
      else if (kind === 0) for (let x = 0; x < columns; x++, at += 4) data[from + x] = view.getUint32(at, true)
      else {
        // As bits: an id need not be a number.
        const bits = new Uint32Array(data.buffer, data.byteOffset, data.length)
        for (let x = 0; x < columns; x++, at += 4) bits[from + x] = view.getUint32(at, true)
      }
    }
  }
}

/** What ZIP packs, put back: differences to the byte before, then even and odd bytes from the two halves. */
function unpredicted(bytes: Uint8Array, length: number): Uint8Array {
  if (bytes.length !== length) throw wrong('it is damaged or cut short')
  const straight = new Uint8Array(length)
  let before = 128
  for (let i = 0; i < length; i++) straight[i] = before = (before + bytes[i]! - 128) & 255
  const out = new Uint8Array(length)
  const odd = Math.ceil(length / 2)
  for (let i = 0; i < length; i++) out[i] = straight[(i & 1) * odd + (i >> 1)]!
  return out
}

interface Header {
  channels: Channel[]
  compression: number
  window: ExrWindow
  display: ExrWindow
  /** Where the table of blocks begins. */
  end: number
}

function headerOf(view: DataView, bytes: Uint8Array): Header {
  let at = 8
  const text = () => {
    const end = bytes.indexOf(0, at)
    if (end < 0 || end - at > 255) throw wrong('it is damaged or cut short')
    const word = new TextDecoder().decode(bytes.subarray(at, end))
    at = end + 1
    return word
  }
  const box = (from: number): ExrWindow => {
    const [left, top, right, bottom] = [0, 4, 8, 12].map((offset) => view.getInt32(from + offset, true))
    return { left: left!, top: top!, right: right! + 1, bottom: bottom! + 1 }
  }
  const header: Partial<Header> = {}
  for (let name = text(); name !== ''; name = text()) {
    text()
    const size = view.getInt32(at, true)
    const from = at + 4
    if (size < 0 || from + size > bytes.length) throw wrong('it is damaged or cut short')
    if (name === 'channels') {
      header.channels = []
      at = from
      for (let channel = text(); channel !== ''; channel = text()) {
        const kind = view.getInt32(at, true)
        const isSampledWhole = view.getInt32(at + 8, true) === 1 && view.getInt32(at + 12, true) === 1
        if (SAMPLE_BYTES[kind] === undefined || !isSampledWhole) throw wrong(`its channel ${channel} is of a kind that is not read`) // prettier-ignore
        if (header.channels.push({ name: channel, kind }) > MOST_CHANNELS) throw wrong('it has too many channels')
        at += 16
      }
    } else if (name === 'compression') header.compression = view.getUint8(from)
    else if (name === 'dataWindow') header.window = box(from)
    else if (name === 'displayWindow') header.display = box(from)
    at = from + size
  }
  const { channels, compression, window, display } = header
  if (!channels || compression === undefined || !window || !display)
    throw wrong('its header does not say what it has to')
  return { channels, compression, window, display, end: at }
}

const relativeTo = ({ left, top, right, bottom }: ExrWindow, to: ExrWindow): ExrWindow => ({
  left: left - to.left,
  top: top - to.top,
  right: right - to.left,
  bottom: bottom - to.top,
})

const wrong = (words: string) => new FormatError('not-exr', `The EXR cannot be read: ${words}`)
