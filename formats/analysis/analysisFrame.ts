import { unzlibSync } from 'fflate'
import { FormatError } from '../errors'
import { PACKED_MARK, unpackTile } from './packedTile'
import { rowPacker } from './packer'
import type { Interleaved, PictureRows, RowPacker } from './pictureRows'
import { ANALYSIS_TILE, type Size } from './tiles'
import { tileUnpacker } from './unpacker'

/**
 * Lossless frames for tracking, tightening, keying and read-out: 128 x 128 tiles of one channel, 16-bit encoded values,
 * so that a worker fetches only the tiles under a region.
 *
 * File: "TLAF", version, width, height, tile size, plane count, bytes of the tile table (6 x uint32), table (offset,
 * length as uint32 per tile, planes outermost, then rows, then columns), tiles, see `packedTile.ts`. Little-endian.
 * Tiles of versions 1 and 2 were 256 x 256, those of version 1 their values with the left neighbour subtracted, low bytes
 * then high bytes, deflated (zlib); they are still read. docs/formats.md tells the same.
 */
export const ANALYSIS_PLANES = ['luma', 'red', 'green', 'blue'] as const
export type AnalysisPlane = (typeof ANALYSIS_PLANES)[number]
/** Values are 16-bit; 65535 is 1. */
const UNIT = 1 / 65535
const MAGIC = 0x46414c54
const VERSION = 3
const TILE_OF_VERSIONS = [256, 256, ANALYSIS_TILE]
const HEADER_BYTES = 28

export interface AnalysisIndex {
  width: number
  height: number
  planes: number
  /** Width and height of a tile that is not cut by the picture's edge. */
  tile: number
  columns: number
  rows: number
  /** Offset in the file and length of every tile. */
  tiles: Uint32Array
  headerBytes: number
}

/** A whole picture in rows; the packer is the fastest that runs here, or another for tests. */
export function encodeAnalysisFrame(picture: PictureRows, packer: RowPacker = rowPacker()): Uint8Array {
  const { rgb, shown, width, height } = picture
  const columns = Math.ceil(width / ANALYSIS_TILE)
  const rows = Math.ceil(height / ANALYSIS_TILE)
  const planeCount = ANALYSIS_PLANES.length
  const headerBytes = HEADER_BYTES + 8 * planeCount * columns * rows
  const chunks = new Array<Uint8Array>(planeCount * columns * rows)
  for (let row = 0; row < rows; row++) {
    // A row of tiles at a time: they stay near the processor, and memory does not grow with the picture.
    const from = 3 * width * row * ANALYSIS_TILE
    const count = Math.min(ANALYSIS_TILE, height - row * ANALYSIS_TILE)
    const stretch = (values: Interleaved) => values.subarray(from, from + 3 * width * count)
    const part = stretch(rgb)
    const tiles = packer.packRows({ rgb: part, shown: shown === rgb ? part : stretch(shown), width, height: count }, ANALYSIS_TILE) // prettier-ignore
    tiles.forEach((ofPlane, plane) => ofPlane.forEach((tile, column) => (chunks[(plane * rows + row) * columns + column] = tile))) // prettier-ignore
  }
  const table = new Uint32Array(chunks.length * 2)
  let offset = headerBytes
  chunks.forEach((chunk, i) => {
    table[2 * i] = offset
    table[2 * i + 1] = chunk.length
    offset += chunk.length
  })
  const out = new Uint8Array(offset)
  const view = new DataView(out.buffer)
  ;[MAGIC, VERSION, width, height, ANALYSIS_TILE, planeCount, table.byteLength].forEach((value, i) =>
    view.setUint32(i * 4, value, true),
  )
  out.set(new Uint8Array(table.buffer), HEADER_BYTES)
  let at = headerBytes
  for (const chunk of chunks) {
    out.set(chunk, at)
    at += chunk.length
  }
  return out
}

/**
 * Bytes of header and table.
 *
 * @param bytes  the first 28 of the file, or more
 * @throws FormatError `not-an-analysis-frame`
 */
export const analysisHeaderBytes = (bytes: Uint8Array): number => readHeader(bytes).headerBytes

function readHeader(bytes: Uint8Array) {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const field = (i: number) => view.getUint32(i * 4, true)
  if (bytes.length < HEADER_BYTES || field(0) !== MAGIC || field(4) !== TILE_OF_VERSIONS[field(1) - 1]) {
    throw new FormatError('not-an-analysis-frame', `These bytes are not an analysis frame of version 1 to ${VERSION}`)
  }
  const [width, height, tile, planes] = [field(2), field(3), field(4), field(5)]
  const columns = Math.ceil(width / tile)
  const rows = Math.ceil(height / tile)
  return { width, height, tile, planes, columns, rows, headerBytes: HEADER_BYTES + 8 * planes * columns * rows }
}

/**
 * @param bytes  the file, or as much of its beginning as {@link analysisHeaderBytes} tells
 * @throws FormatError `not-an-analysis-frame`
 */
export function readAnalysisIndex(bytes: Uint8Array): AnalysisIndex {
  const header = readHeader(bytes)
  if (bytes.length < header.headerBytes) {
    throw new FormatError('not-an-analysis-frame', 'The analysis frame is cut short')
  }
  return {
    ...header,
    // A Node Buffer's own slice would be a view of a pool; the typed array's copies.
    tiles: new Uint32Array(Uint8Array.prototype.slice.call(bytes, HEADER_BYTES, header.headerBytes).buffer),
  }
}

/** Place of one tile in the file. */
export function tileRange(index: AnalysisIndex, plane: number, column: number, row: number) {
  const entry = ((plane * index.rows + row) * index.columns + column) * 2
  return { offset: index.tiles[entry]!, length: index.tiles[entry + 1]! }
}

/**
 * Values 0..1 of one tile, row after row.
 *
 * @param into  room for them
 * @throws FormatError `not-a-packed-tile`
 */
export function decodeTile(
  bytes: Uint8Array,
  { width, height }: Size,
  into: Float32Array = new Float32Array(width * height),
): Float32Array {
  if (bytes[0] === PACKED_MARK) return unpackTile(bytes, width, height, UNIT, tileUnpacker(), into)
  inflate(bytes, width, height, into)
  return into
}

/** A tile of version 1: low bytes, then high bytes, of values with the left neighbour subtracted. */
function inflate(bytes: Uint8Array, width: number, height: number, into: Float32Array) {
  const count = width * height
  const raw = unzlibSync(bytes, { out: new Uint8Array(2 * count) })
  for (let y = 0, at = 0; y < height; y++) {
    let value = 0
    for (const end = at + width; at < end; at++) {
      value = (value + (raw[at]! | (raw[count + at]! << 8))) & 0xffff
      into[at] = value * UNIT
    }
  }
}

/** What was stored for a value of {@link decodeTile}. */
export const storedValue = (value: number) => Math.round(value / UNIT)
