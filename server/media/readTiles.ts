import { open } from 'node:fs/promises'
import { ANALYSIS_PLANES, readAnalysisIndex, tileRange, type TileBlock } from '@tender-lasso/formats/analysis'
import { notFound, Problem } from '../errors'

/** Holds the table of four planes of 11 000 x 11 000 pixels; the disk's cache gives it as fast as less. */
const LARGEST_HEADER = 65536

/**
 * Packed tiles of a block, row after row, from an analysis frame.
 *
 * @throws Problem 404 when there is no such frame, 416 `bad-range` when the block reaches over the picture's edge
 */
export async function readTiles(path: string, block: TileBlock): Promise<Uint8Array[]> {
  const handle = await open(path).catch(() => {
    throw notFound('The frame')
  })
  const read = async (offset: number, length: number) => {
    const bytes = new Uint8Array(length)
    const { bytesRead } = await handle.read(bytes, 0, length, offset)
    return bytes.subarray(0, bytesRead)
  }
  try {
    const index = readAnalysisIndex(await read(0, LARGEST_HEADER))
    if (block.lastColumn >= index.columns || block.lastRow >= index.rows) {
      throw new Problem(416, 'bad-range', `The picture has ${index.columns} x ${index.rows} tiles`)
    }
    const plane = ANALYSIS_PLANES.indexOf(block.plane)
    const tiles: Uint8Array[] = []
    for (let row = block.firstRow; row <= block.lastRow; row++) {
      // Tiles of one row lie one behind the other.
      const last = tileRange(index, plane, block.lastColumn, row)
      const start = tileRange(index, plane, block.firstColumn, row).offset
      const bytes = await read(start, last.offset + last.length - start)
      for (let column = block.firstColumn; column <= block.lastColumn; column++) {
        const { offset, length } = tileRange(index, plane, column, row)
        tiles.push(bytes.subarray(offset - start, offset - start + length))
      }
    }
    return tiles
  } finally {
    await handle.close()
  }
}
