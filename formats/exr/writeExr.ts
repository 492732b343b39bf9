import { zlibSync } from 'fflate'
import { halvesFromCoverage } from './halfFloat'

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
  const halves = ordered.map((channel) => {
    const out = new Uint16Array(width * height)
    halvesFromCoverage(channel.data, out)
    return out
  })
  const blockCount = Math.ceil(height / LINES_PER_BLOCK)
  const blocks: Uint8Array[] = []
  for (let block = 0; block < blockCount; block++) {
    const first = block * LINES_PER_BLOCK
    const lines = Math.min(LINES_PER_BLOCK, height - first)
    const raw = new Uint8Array(lines * width * 2 * ordered.length)
    const asHalves = new Uint16Array(raw.buffer)
    let at = 0
    for (let line = first; line < first + lines; line++) {
      for (const plane of halves) {
        asHalves.set(plane.subarray(line * width, (line + 1) * width), at)
        at += width
      }
    }
    const packed = deflate(predicted(raw))
    const body = packed.length < raw.length ? packed : raw
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

/** Even bytes then odd bytes, each the difference to the one before plus 128: what ZIP blocks of EXR hold. */
function predicted(raw: Uint8Array): Uint8Array {
  const out = new Uint8Array(raw.length)
  const half = (raw.length + 1) >> 1
  for (let i = 0; i < raw.length; i++) out[i & 1 ? half + (i >> 1) : i >> 1] = raw[i]!
  let previous = out[0]!
  for (let i = 1; i < out.length; i++) {
    const value = out[i]!
    out[i] = (value - previous + 384) & 0xff
    previous = value
  }
  return out
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
