import { unzlibSync } from 'fflate'
import { FormatError } from '../errors'
import { PACKED_MARK, packTile, unpackTile } from './packedTile'
import { tileUnpacker } from './unpacker'

/**
 * Lossless frames for tracking, tightening, keying and read-out: 256 x 256 tiles of one channel, 16-bit encoded values,
 * so that a worker fetches only the tiles under a region.
 *
 * File: "TLAF", version, width, height, tile size, plane count, bytes of the tile table (6 x uint32), table (offset,
 * length as uint32 per tile, planes outermost, then rows, then columns), tiles, see `packedTile.ts`. Little-endian.
 * Tiles of version 1 were their values with the left neighbour subtracted, low bytes then high bytes, deflated (zlib);
 * they are still read. docs/formats.md tells the same.
 */
export const ANALYSIS_TILE = 256
export const ANALYSIS_PLANES = ['luma', 'red', 'green', 'blue'] as const
export type AnalysisPlane = (typeof ANALYSIS_PLANES)[number]
const MAGIC = 0x46414c54
const VERSION = 2
const HEADER_BYTES = 28
/** Values are 16-bit; 65535 is 1. */
const UNIT = 1 / 65535

export interface AnalysisIndex {
  width: number
  height: number
  planes: number
  columns: number
  rows: number
  /** Offset in the file and length of every tile. */
  tiles: Uint32Array
  headerBytes: number
}

/** Bytes that hold header and table of a picture of this size. */
export function analysisHeaderBytes(width: number, height: number, planes: number = ANALYSIS_PLANES.length): number {
  return HEADER_BYTES + 8 * planes * Math.ceil(width / ANALYSIS_TILE) * Math.ceil(height / ANALYSIS_TILE)
}

/** @param planes  one array of width x height 16-bit values for each of {@link ANALYSIS_PLANES} */
export function encodeAnalysisFrame(planes: readonly Uint16Array[], width: number, height: number): Uint8Array {
  const columns = Math.ceil(width / ANALYSIS_TILE)
  const rows = Math.ceil(height / ANALYSIS_TILE)
  const headerBytes = analysisHeaderBytes(width, height, planes.length)
  const chunks: Uint8Array[] = []
  for (const plane of planes) {
    for (let row = 0; row < rows; row++) {
      for (let column = 0; column < columns; column++) {
        const { tileWidth, tileHeight } = tileSize(width, height, column, row)
        chunks.push(packTile(cutTile(plane, width, column, row, tileWidth, tileHeight), tileWidth, tileHeight))
      }
    }
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
  ;[MAGIC, VERSION, width, height, ANALYSIS_TILE, planes.length, table.byteLength].forEach((value, i) =>
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

function tileSize(width: number, height: number, column: number, row: number) {
  return {
    tileWidth: Math.min(ANALYSIS_TILE, width - column * ANALYSIS_TILE),
    tileHeight: Math.min(ANALYSIS_TILE, height - row * ANALYSIS_TILE),
  }
}

function cutTile(
  plane: Uint16Array,
  width: number,
  column: number,
  row: number,
  tileWidth: number,
  tileHeight: number,
): Uint16Array {
  const out = new Uint16Array(tileWidth * tileHeight)
  for (let y = 0; y < tileHeight; y++) {
    const from = (row * ANALYSIS_TILE + y) * width + column * ANALYSIS_TILE
    out.set(plane.subarray(from, from + tileWidth), y * tileWidth)
  }
  return out
}

/** @throws FormatError `not-an-analysis-frame` */
export function readAnalysisIndex(bytes: Uint8Array): AnalysisIndex {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const field = (i: number) => view.getUint32(i * 4, true)
  if (
    bytes.length < HEADER_BYTES ||
    field(0) !== MAGIC ||
    !(field(1) >= 1 && field(1) <= VERSION) ||
    field(4) !== ANALYSIS_TILE
  ) {
    throw new FormatError('not-an-analysis-frame', 'These bytes are not an analysis frame of version 1 or 2')
  }
  const [width, height, planes] = [field(2), field(3), field(5)]
  const headerBytes = analysisHeaderBytes(width, height, planes)
  if (bytes.length < headerBytes) throw new FormatError('not-an-analysis-frame', 'The analysis frame is cut short')
  return {
    width,
    height,
    planes,
    columns: Math.ceil(width / ANALYSIS_TILE),
    rows: Math.ceil(height / ANALYSIS_TILE),
    // A Node Buffer's own slice would be a view of a pool; the typed array's copies.
    tiles: new Uint32Array(Uint8Array.prototype.slice.call(bytes, HEADER_BYTES, headerBytes).buffer),
    headerBytes,
  }
}

/** Place of one tile in the file. */
export function tileRange(index: AnalysisIndex, plane: number, column: number, row: number) {
  const entry = ((plane * index.rows + row) * index.columns + column) * 2
  return { offset: index.tiles[entry]!, length: index.tiles[entry + 1]! }
}

/**
 * Values 0..1 of one tile, row-major; its width and height follow from those of the picture.
 *
 * @throws FormatError `not-a-packed-tile`
 */
export function decodeTile(picture: { width: number; height: number }, bytes: Uint8Array, column: number, row: number) {
  const { tileWidth: width, tileHeight: height } = tileSize(picture.width, picture.height, column, row)
  const data =
    bytes[0] === PACKED_MARK ? unpackTile(bytes, width, height, UNIT, tileUnpacker()) : inflated(bytes, width, height)
  return { width, height, data }
}

/** A tile of version 1: low bytes, then high bytes, of values with the left neighbour subtracted. */
function inflated(bytes: Uint8Array, width: number, height: number): Float32Array {
  const count = width * height
  const raw = unzlibSync(bytes, { out: new Uint8Array(2 * count) })
  const data = new Float32Array(count)
  for (let y = 0, at = 0; y < height; y++) {
    let value = 0
    for (const end = at + width; at < end; at++) {
      value = (value + (raw[at]! | (raw[count + at]! << 8))) & 0xffff
      data[at] = value * UNIT
    }
  }
  return data
}
