import { zlibSync } from 'fflate'
import { HeaderBytes, writeSaid, type ExrSaid } from './attributes'
import { halfFromCoverage } from './halfFloat'

export interface ExrChannel {
  /** Letters, digits, `_`, `-`, `.`; at most 31. */
  name: string
  /** Of the pixels of its box, row-major, top row first. */
  data: Float32Array
  /** Missing: the pixels that are written. Of those beyond it the channel is 0. */
  box?: ExrWindow
}

/** Whole pixels of a picture; right and bottom are those beyond the last. */
export interface ExrWindow {
  left: number
  top: number
  right: number
  bottom: number
}

export interface ExrPicture {
  /** Pixels of the whole picture: the display window. */
  width: number
  height: number
  channels: readonly ExrChannel[]
  pixel: 'half' | 'float'
  compression: 'none' | 'zips' | 'zip'
  /** The pixels that are written: the data window; missing: all. */
  window?: ExrWindow
  said?: ExrSaid
}

/** By compression how many lines are packed together, and the number that the file layout gives it. */
const BLOCKS = { none: { lines: 1, code: 0 }, zips: { lines: 1, code: 2 }, zip: { lines: 16, code: 3 } } as const

/**
 * OpenEXR 2 scan-line file. After the published file layout of the OpenEXR project ("OpenEXR File Layout").
 *
 * @param deflate  zlib compressor; the server gives its native one
 */
export function writeExr(
  picture: ExrPicture,
  deflate: (bytes: Uint8Array) => Uint8Array = (bytes) => zlibSync(bytes, { level: 4 }),
): Uint8Array {
  const writing = exrWriting(picture)
  let step = writing.next()
  while (!step.done) step = writing.next(deflate(step.value))
  return step.value
}

/** The same with a compressor that takes its time, as browsers have one. */
export async function writeExrSlowly(
  picture: ExrPicture,
  deflate: (bytes: Uint8Array) => Promise<Uint8Array>,
): Promise<Uint8Array> {
  const writing = exrWriting(picture)
  let step = writing.next()
  while (!step.done) step = writing.next(await deflate(step.value))
  return step.value
}

/** Yields what is to be compressed, is given it compressed, and returns the file. */
function* exrWriting(picture: ExrPicture): Generator<Uint8Array, Uint8Array, Uint8Array> {
  const { width, height, pixel, compression } = picture
  const window = picture.window ?? { left: 0, top: 0, right: width, bottom: height }
  // Readers expect channels in alphabetical order.
  const channels = [...picture.channels].sort((a, b) => (a.name < b.name ? -1 : 1)).map((channel) => placed(channel, window)) // prettier-ignore
  const header = headerBytes(
    picture,
    window,
    channels.map((channel) => channel.name),
  )
  const columns = window.right - window.left
  const lineCount = window.bottom - window.top
  const linesPerBlock = BLOCKS[compression].lines
  const blockCount = Math.ceil(lineCount / linesPerBlock)
  const sampleBytes = pixel === 'half' ? 2 : 4
  const raw = pixel === 'half' ? rawHalves : rawFloats
  const packed = function* (first: number, lines: number): Generator<Uint8Array, Uint8Array, Uint8Array> {
    if (compression === 'none') return raw(channels, first, lines, columns)
    const body = yield pixel === 'half' ? predictedHalves(channels, first, lines, columns) : predicted(rawFloats(channels, first, lines, columns)) // prettier-ignore
    return body.length < lines * columns * channels.length * sampleBytes ? body : raw(channels, first, lines, columns)
  }
  const blocks: Uint8Array[] = []
  /** Blocks in which every channel is flat, mostly empty ones, are many and alike. */
  const flatBlocks = new Map<string, Uint8Array>()
  for (let block = 0; block < blockCount; block++) {
    const first = block * linesPerBlock
    const lines = Math.min(linesPerBlock, lineCount - first)
    const values = flatValues(channels, first, lines, columns)
    const key = values && `${values}/${lines}`
    let body = key === null ? undefined : flatBlocks.get(key)
    if (!body) {
      body = yield* packed(first, lines)
      if (key !== null) flatBlocks.set(key, body)
    }
    const bytes = new Uint8Array(8 + body.length)
    const view = new DataView(bytes.buffer)
    view.setInt32(0, window.top + first, true)
    view.setInt32(4, body.length, true)
    bytes.set(body, 8)
    blocks.push(bytes)
  }
  const table = new Uint8Array(blockCount * 8)
  const tableView = new DataView(table.buffer)
  let offset = header.length + table.length
  blocks.forEach((block, i) => {
    tableView.setBigUint64(i * 8, BigInt(offset), true)
    offset += block.length
  })
  const out = new Uint8Array(offset)
  let at = 0
  for (const piece of [header, table, ...blocks]) {
    out.set(piece, at)
    at += piece.length
  }
  return out
}

/** A channel as it lies in the window, whose numbers can be compared two at a time. */
interface PlacedChannel {
  name: string
  data: Float32Array
  /** The same memory as doubles; null where it does not begin at one. */
  pairs: Float64Array | null
  /** Numbers of a row of its box, and where the pixel at the corner of the window would be. */
  stride: number
  origin: number
  /** Lines and columns of the window that it has; beyond them it is 0. */
  top: number
  bottom: number
  left: number
  right: number
}

function placed({ name, data, box }: ExrChannel, window: ExrWindow): PlacedChannel {
  const own = box ?? window
  const { buffer, byteOffset, length } = data
  const stride = own.right - own.left
  const within = (x: number, most: number) => Math.max(0, Math.min(x, most))
  const [columns, lines] = [window.right - window.left, window.bottom - window.top]
  return {
    name,
    data,
    pairs: byteOffset % 8 ? null : new Float64Array(buffer, byteOffset, length >> 1),
    stride,
    origin: (window.top - own.top) * stride + window.left - own.left,
    top: within(own.top - window.top, lines),
    bottom: within(own.bottom - window.top, lines),
    left: within(own.left - window.left, columns),
    right: within(own.right - window.left, columns),
  }
}

/** The one value of each channel on some lines of the window, or null where one of them has more. */
function flatValues(channels: readonly PlacedChannel[], first: number, lines: number, columns: number): string | null {
  const values = channels.map((channel) => flatValue(channel, first, first + lines, columns))
  return values.includes(null) ? null : values.join()
}

function flatValue(channel: PlacedChannel, first: number, end: number, columns: number): number | null {
  const { data, pairs, stride, origin, top, bottom, left, right } = channel
  if (bottom <= first || top >= end || left >= right) return 0
  const isWhole = top <= first && bottom >= end && right - left === columns
  const value = isWhole ? data[origin + first * stride]! : 0
  for (let line = Math.max(first, top); line < Math.min(end, bottom); line++) {
    const from = origin + line * stride
    if (runEnd(data, pairs, from + left, from + right, value) < from + right) return null
  }
  return value
}

/**
 * What ZIP compresses in a block of EXR: the even bytes of the little-endian samples, so the lower ones, then the odd
 * ones, each the difference to the one before plus 128. Samples stand line by line, in a line channel by channel.
 */
function predictedHalves(channels: readonly PlacedChannel[], first: number, lines: number, width: number): Uint8Array {
  const count = lines * width * channels.length
  // No difference is 128, and mattes are flat nearly everywhere.
  const out = new Uint8Array(count * 2).fill(128)
  let at = 0
  let half = 0
  for (let line = first; line < first + lines; line++) {
    for (const channel of channels) {
      half = predictLine(channel, line, width, half, out, at, count)
      at += width
    }
  }
  // The very first byte stands as it is, and the first upper byte follows the last lower one.
  const start = halfFromCoverage(valueAt(channels[0]!, first, 0))
  out[0] = start & 0xff
  out[count] = (start >> 8) - (half & 0xff) + 128
  return out
}

/** One line of one channel; takes the half before it and returns its last one. */
function predictLine(
  { data, pairs, stride, origin, top, bottom, left, right }: PlacedChannel,
  line: number,
  columns: number,
  before: number,
  out: Uint8Array,
  at: number,
  upper: number,
): number {
  let half = before
  const change = (column: number, next: number) => {
    out[at + column] = (next & 0xff) - (half & 0xff) + 128
    out[upper + at + column] = (next >> 8) - (half >> 8) + 128
    half = next
  }
  if (line < top || line >= bottom || left >= right) {
    change(0, 0)
    return 0
  }
  if (left > 0) change(0, 0)
  const from = origin + line * stride
  const end = from + right
  for (let i = from + left; i < end;) {
    const value = data[i]!
    change(i - from, halfFromCoverage(value))
    i = runEnd(data, pairs, i + 1, end, value)
  }
  if (right < columns) change(right, 0)
  return half
}

const valueAt = ({ data, stride, origin, top, bottom, left, right }: PlacedChannel, line: number, column: number) =>
  line < top || line >= bottom || column < left || column >= right ? 0 : data[origin + line * stride + column]!

/** The first place from `start` on, before `end`, whose value is another one: mattes are flat nearly everywhere, and most of the time goes into passing over that. */
function runEnd(data: Float32Array, pairs: Float64Array | null, start: number, end: number, value: number): number {
  let i = start
  if (pairs) {
    if (i % 2 && i < end) {
      if (data[i] !== value) return i
      i++
    }
    if (i + 1 < end && data[i] === value && data[i + 1] === value) {
      const pair = pairs[i / 2]
      const last = end >> 1
      let p = i / 2 + 1
      while (p + 4 <= last && pairs[p] === pair && pairs[p + 1] === pair && pairs[p + 2] === pair && pairs[p + 3] === pair) p += 4 // prettier-ignore
      while (p < last && pairs[p] === pair) p++
      i = 2 * p
    }
  }
  while (i < end && data[i] === value) i++
  return i
}

/** The samples themselves, for a block that does not shrink. */
function rawHalves(channels: readonly PlacedChannel[], first: number, lines: number, columns: number): Uint8Array {
  const bytes = new Uint8Array(lines * columns * channels.length * 2)
  const view = new DataView(bytes.buffer)
  let at = 0
  for (let line = first; line < first + lines; line++) {
    for (const channel of channels) {
      for (let x = 0; x < columns; x++, at += 2) view.setUint16(at, halfFromCoverage(valueAt(channel, line, x)), true)
    }
  }
  return bytes
}

function rawFloats(channels: readonly PlacedChannel[], first: number, lines: number, columns: number): Uint8Array {
  // Numbers lie in memory as they do in the file: all that runs browsers and Node.js is little-endian.
  const values = new Float32Array(lines * columns * channels.length)
  let at = 0
  for (let line = first; line < first + lines; line++) {
    for (const { data, stride, origin, top, bottom, left, right } of channels) {
      const from = origin + line * stride
      if (line >= top && line < bottom) values.set(data.subarray(from + left, from + Math.max(left, right)), at + left)
      at += columns
    }
  }
  return new Uint8Array(values.buffer)
}

/** What ZIP compresses of any samples: the even bytes, then the odd ones, each the difference to the one before plus 128. */
function predicted(raw: Uint8Array): Uint8Array {
  const out = new Uint8Array(raw.length)
  let before = raw[0]!
  let at = 1
  for (const start of [2, 1]) {
    for (let i = start; i < raw.length; i += 2) {
      const byte = raw[i]!
      out[at++] = byte - before + 128
      before = byte
    }
  }
  out[0] = raw[0]!
  return out
}

function headerBytes(
  { width, height, pixel, compression, said = {} }: ExrPicture,
  window: ExrWindow,
  names: readonly string[],
): Uint8Array {
  const out = new HeaderBytes()
  out.byte(0x76, 0x2f, 0x31, 0x01, 2, 0, 0, 0)
  out.attribute('channels', 'chlist', (value) => {
    for (const name of names) {
      value.text(name)
      value.int(pixel === 'half' ? 1 : 2)
      value.int(1) // stored as linear
      value.int(1)
      value.int(1)
    }
    value.byte(0)
  })
  out.attribute('compression', 'compression', (value) => value.byte(BLOCKS[compression].code))
  out.attribute('dataWindow', 'box2i', (value) => [window.left, window.top, window.right - 1, window.bottom - 1].forEach((n) => value.int(n))) // prettier-ignore
  out.attribute('displayWindow', 'box2i', (value) => [0, 0, width - 1, height - 1].forEach((n) => value.int(n)))
  out.attribute('lineOrder', 'lineOrder', (value) => value.byte(0))
  out.attribute('pixelAspectRatio', 'float', (value) => value.float(said.pixelAspect ?? 1))
  out.attribute('screenWindowCenter', 'v2f', (value) => [0, 0].forEach((n) => value.float(n)))
  out.attribute('screenWindowWidth', 'float', (value) => value.float(1))
  writeSaid(out, said)
  out.byte(0)
  return out.toArray()
}
