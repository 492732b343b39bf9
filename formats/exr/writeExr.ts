import { zlibSync } from 'fflate'
import { halfFromCoverage } from './halfFloat'

export interface ExrChannel {
  /** Letters, digits, `_`, `-`, `.`; at most 31. */
  name: string
  /** Row-major, top row first. */
  data: Float32Array
}

const LINES_PER_BLOCK = 16

/**
 * OpenEXR 2 scan-line file, half floats, ZIP compression (blocks of 16 lines), one channel per matte.
 * After the published file layout of the OpenEXR project ("OpenEXR File Layout").
 *
 * @param deflate  zlib compressor; the server gives its native one
 */
export function writeExr(
  width: number,
  height: number,
  channels: readonly ExrChannel[],
  deflate: (bytes: Uint8Array) => Uint8Array = (bytes) => zlibSync(bytes, { level: 4 }),
): Uint8Array {
  // Readers expect channels in alphabetical order.
  const ordered = [...channels].sort((a, b) => (a.name < b.name ? -1 : 1))
  const header = headerBytes(
    width,
    height,
    ordered.map((channel) => channel.name),
  )
  const blockCount = Math.ceil(height / LINES_PER_BLOCK)
  const blocks: Uint8Array[] = []
  /** Blocks of one value, mostly empty ones, are many and all alike. */
  const flatBlocks = new Map<string, Uint8Array>()
  for (let block = 0; block < blockCount; block++) {
    const first = block * LINES_PER_BLOCK
    const lines = Math.min(LINES_PER_BLOCK, height - first)
    const value = flatValue(ordered, first * width, lines * width)
    let body = value === null ? undefined : flatBlocks.get(`${value}/${lines}`)
    if (!body) {
      const packed = deflate(predictedBlock(ordered, first, lines, width))
      body = packed.length < lines * width * ordered.length * 2 ? packed : rawBlock(ordered, first, lines, width)
      if (value !== null) flatBlocks.set(`${value}/${lines}`, body)
    }
    const bytes = new Uint8Array(8 + body.length)
    const view = new DataView(bytes.buffer)
    view.setInt32(0, first, true)
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

/** The one value of all channels on a stretch of pixels, or null. */
function flatValue(channels: readonly ExrChannel[], from: number, count: number): number | null {
  const value = channels[0]!.data[from]!
  return channels.every(({ data }) => isFlat(data, from, count)) && channels.every(({ data }) => data[from] === value)
    ? value
    : null
}

/** Pairs of floats are compared as doubles: the same bits are the same value, and a not-a-number only costs the shortcut. */
function isFlat(data: Float32Array, from: number, count: number): boolean {
  if ((data.byteOffset + from * 4) % 8 || count % 2) return isFlatByOnes(data, from, count)
  const pairs = new Float64Array(data.buffer, data.byteOffset + from * 4, count / 2)
  const value = pairs[0]!
  for (let i = 1; i < pairs.length; i++) if (pairs[i]! !== value) return false
  return data[from] === data[from + 1]
}

function isFlatByOnes(data: Float32Array, from: number, count: number): boolean {
  const value = data[from]!
  for (let i = from + 1; i < from + count; i++) if (data[i]! !== value) return false
  return true
}

/**
 * What ZIP compresses in a block of EXR: the even bytes of the little-endian samples, so the lower ones, then the odd
 * ones, each the difference to the one before plus 128. Samples stand line by line, in a line channel by channel.
 */
function predictedBlock(channels: readonly ExrChannel[], first: number, lines: number, width: number): Uint8Array {
  const count = lines * width * channels.length
  // No difference is 128, and mattes are flat nearly everywhere.
  const out = new Uint8Array(count * 2).fill(128)
  let at = 0
  let half = 0
  for (let line = first; line < first + lines; line++) {
    for (const { data } of channels) {
      half = predictLine(data, line * width, width, half, out, at, count)
      at += width
    }
  }
  // The very first byte stands as it is, and the first upper byte follows the last lower one.
  const start = halfFromCoverage(channels[0]!.data[first * width]!)
  out[0] = start & 0xff
  out[count] = (start >> 8) - (half & 0xff) + 128
  return out
}

/** One line of one channel; takes the half before it and returns its last one. */
function predictLine(
  data: Float32Array,
  from: number,
  width: number,
  before: number,
  out: Uint8Array,
  at: number,
  upper: number,
): number {
  let half = before
  let value = NaN
  for (let i = 0; i < width; i++) {
    const next = data[from + i]!
    if (next === value) continue
    value = next
    const nextHalf = halfFromCoverage(next)
    out[at + i] = (nextHalf & 0xff) - (half & 0xff) + 128
    out[upper + at + i] = (nextHalf >> 8) - (half >> 8) + 128
    half = nextHalf
  }
  return half
}

/** The samples themselves, for a block that does not shrink. */
function rawBlock(channels: readonly ExrChannel[], first: number, lines: number, width: number): Uint8Array {
  const bytes = new Uint8Array(lines * width * channels.length * 2)
  const view = new DataView(bytes.buffer)
  let at = 0
  for (let line = first; line < first + lines; line++) {
    for (const { data } of channels) {
      for (let x = 0; x < width; x++, at += 2) view.setUint16(at, halfFromCoverage(data[line * width + x]!), true)
    }
  }
  return bytes
}

function headerBytes(width: number, height: number, names: readonly string[]): Uint8Array {
  const bytes: number[] = [0x76, 0x2f, 0x31, 0x01, 2, 0, 0, 0]
  const text = (value: string) => bytes.push(...new TextEncoder().encode(value), 0)
  const int = (value: number) =>
    bytes.push(value & 0xff, (value >> 8) & 0xff, (value >> 16) & 0xff, (value >> 24) & 0xff)
  const float = (value: number) => bytes.push(...new Uint8Array(Float32Array.of(value).buffer))
  const attribute = (name: string, type: string, size: number, write: () => void) => {
    text(name)
    text(type)
    int(size)
    write()
  }
  const channelList = names.reduce((sum, name) => sum + new TextEncoder().encode(name).length + 17, 1)
  attribute('channels', 'chlist', channelList, () => {
    for (const name of names) {
      text(name)
      int(1) // half
      int(1) // stored as linear
      int(1)
      int(1)
    }
    bytes.push(0)
  })
  attribute('compression', 'compression', 1, () => bytes.push(3)) // ZIP, 16 lines
  for (const name of ['dataWindow', 'displayWindow']) {
    attribute(name, 'box2i', 16, () => [0, 0, width - 1, height - 1].forEach(int))
  }
  attribute('lineOrder', 'lineOrder', 1, () => bytes.push(0))
  attribute('pixelAspectRatio', 'float', 4, () => float(1))
  attribute('screenWindowCenter', 'v2f', 8, () => [0, 0].forEach(float))
  attribute('screenWindowWidth', 'float', 4, () => float(1))
  bytes.push(0)
  return Uint8Array.from(bytes)
}
