import {
  ANALYSIS_PLANES,
  ANALYSIS_TILE,
  analysisHeaderBytes,
  eachTile,
  readAnalysisIndex,
  recutTiles,
  roomForTiles,
  tileRange,
  type AnalysisIndex,
  type TileBlock,
} from '@tender-lasso/formats/analysis'
import { notFound, Problem } from '../errors'
import { keys, type OpenValue, type Store } from '../store'

/** Holds header and table of four planes of 3000 x 2000 pixels; larger ones are read once more. */
const USUAL_HEADER_BYTES = 16384

/** The tiles of one frame: how long each is, and how they get to their places, one behind the other. */
interface FrameTiles {
  lengths: number[]
  putInto(bytes: Uint8Array): Promise<void>
}

/**
 * Packed tiles of a block of several analysis frames of any version, frame after frame, row after row, as
 * {@link roomForTiles} tells. They are read to where they will be sent from: what is copied is a load on the collector.
 *
 * @throws Problem 404 when there is no such frame, 416 `bad-range` when the block reaches over the picture's edge
 */
export async function readTiles(
  store: Store,
  shotId: string,
  numbers: readonly number[],
  block: TileBlock,
): Promise<Uint8Array> {
  const opened = await Promise.allSettled(numbers.map((frame) => store.open(keys.frame(shotId, frame, 'analysis'))))
  const handles = opened.flatMap((one) => (one.status === 'fulfilled' ? [one.value] : []))
  try {
    if (handles.length < numbers.length) throw notFound('The frame')
    const frames = await Promise.all(handles.map((handle) => tilesOf(handle, block)))
    const { bytes, places } = roomForTiles(frames.flatMap(({ lengths }) => lengths))
    const count = places.length / frames.length
    await Promise.all(frames.map((frame, i) => frame.putInto(bytes.subarray(places[i * count]))))
    return bytes
  } finally {
    await Promise.all(handles.map((handle) => handle.close()))
  }
}

async function tilesOf(handle: OpenValue, block: TileBlock): Promise<FrameTiles> {
  const index = await readIndex(handle)
  const [columns, rows] = [Math.ceil(index.width / ANALYSIS_TILE), Math.ceil(index.height / ANALYSIS_TILE)]
  if (block.lastColumn >= columns || block.lastRow >= rows) {
    throw new Problem(416, 'bad-range', `The picture has ${columns} x ${rows} tiles`)
  }
  const plane = ANALYSIS_PLANES.indexOf(block.plane)
  return index.tile === ANALYSIS_TILE ? tilesOfToday(handle, index, plane, block) : tilesOfBefore(handle, index, plane, block) // prettier-ignore
}

function tilesOfToday(handle: OpenValue, index: AnalysisIndex, plane: number, block: TileBlock): FrameTiles {
  const { firstColumn, lastColumn, firstRow, lastRow } = block
  return {
    lengths: [...eachTile(block)].map(([column, row]) => tileRange(index, plane, column, row).length),
    async putInto(bytes) {
      let at = 0
      const reads: Promise<unknown>[] = []
      for (let row = firstRow; row <= lastRow; row++) {
        // Tiles of one row lie one behind the other.
        const { offset } = tileRange(index, plane, firstColumn, row)
        const last = tileRange(index, plane, lastColumn, row)
        const length = last.offset + last.length - offset
        reads.push(handle.readInto(bytes, at, length, offset))
        at += length
      }
      await Promise.all(reads)
    },
  }
}

async function tilesOfBefore(
  handle: OpenValue,
  index: AnalysisIndex,
  plane: number,
  block: TileBlock,
): Promise<FrameTiles> {
  const tiles = await recutTiles(index, block, (column, row) => {
    const { offset, length } = tileRange(index, plane, column, row)
    return read(handle, offset, length)
  })
  return {
    lengths: tiles.map(({ length }) => length),
    async putInto(bytes) {
      let at = 0
      for (const tile of tiles) {
        bytes.set(tile, at)
        at += tile.length
      }
    },
  }
}

async function read(handle: OpenValue, offset: number, length: number): Promise<Uint8Array> {
  const bytes = new Uint8Array(length)
  return bytes.subarray(0, await handle.readInto(bytes, 0, length, offset))
}

async function readIndex(handle: OpenValue): Promise<AnalysisIndex> {
  const usual = await read(handle, 0, USUAL_HEADER_BYTES)
  const needed = analysisHeaderBytes(usual)
  return readAnalysisIndex(needed > usual.length ? await read(handle, 0, needed) : usual)
}
