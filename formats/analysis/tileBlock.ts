import { z } from 'zod'
import { ANALYSIS_PLANES } from './analysisFrame'
import { FormatError } from '../errors'

const count = z.coerce.number().int().min(0).max(65535)

/** Tiles of one plane of an analysis frame that lie in a rectangle; the last column and row belong to it. */
export const tileBlockSchema = z
  .object({
    plane: z.enum(ANALYSIS_PLANES),
    firstColumn: count,
    lastColumn: count,
    firstRow: count,
    lastRow: count,
  })
  .refine(({ firstColumn, lastColumn }) => firstColumn <= lastColumn, 'the first column comes after the last')
  .refine(({ firstRow, lastRow }) => firstRow <= lastRow, 'the first row comes after the last')

export type TileBlock = z.infer<typeof tileBlockSchema>

/** Frames whose tiles may be asked for at once. */
export const MOST_FRAMES_AT_ONCE = 16

/** Numbers of frames with commas between them, as an address tells them. */
export const frameListSchema = z
  .string()
  .regex(/^-?\d{1,9}(,-?\d{1,9})*$/)
  .transform((words) => words.split(',').map(Number))
  .refine(({ length }) => length <= MOST_FRAMES_AT_ONCE, `more than ${MOST_FRAMES_AT_ONCE} frames at once`)

/**
 * Room for packed tiles on their way: their number, the length of each (little-endian uint32), then all of them.
 *
 * @returns `bytes` with all but the tiles, which are to be put where `places` say
 */
export function roomForTiles(lengths: readonly number[]): { bytes: Uint8Array<ArrayBuffer>; places: number[] } {
  const head = 4 * (1 + lengths.length)
  const bytes = new Uint8Array(lengths.reduce((sum, length) => sum + length, head))
  const view = new DataView(bytes.buffer)
  view.setUint32(0, lengths.length, true)
  let at = head
  const places = lengths.map((length, i) => {
    view.setUint32(4 * (i + 1), length, true)
    at += length
    return at - length
  })
  return { bytes, places }
}

/** @throws FormatError `not-a-tile-block` when the lengths do not add up to the bytes */
export function splitTiles(bytes: Uint8Array): Uint8Array[] {
  const bad = () => new FormatError('not-a-tile-block', 'These bytes are not a block of tiles')
  if (bytes.length < 4) throw bad()
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const tiles = view.getUint32(0, true)
  let at = 4 * (1 + tiles)
  if (at > bytes.length) throw bad()
  const out = Array.from({ length: tiles }, (_, i) => {
    const length = view.getUint32(4 * (i + 1), true)
    const tile = bytes.subarray(at, at + length)
    at += length
    return tile
  })
  if (at !== bytes.length) throw bad()
  return out
}
