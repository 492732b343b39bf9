import type { Box } from '@tender-lasso/core/geometry'

/** Width and height of a tile that the picture's edge does not cut. */
export const ANALYSIS_TILE = 128

export interface Size {
  width: number
  height: number
}

/** Columns and rows of tiles, the last of each with them. */
export interface TileRectangle {
  firstColumn: number
  lastColumn: number
  firstRow: number
  lastRow: number
}

/** A tile's size, which the picture's edge may cut. */
export const tileSize = (picture: Size, column: number, row: number, side = ANALYSIS_TILE): Size => ({
  width: Math.min(side, picture.width - column * side),
  height: Math.min(side, picture.height - row * side),
})

/** The tiles under a box of a picture, null when it lies beside it. */
export function tilesUnder(picture: Size, box: Box, side: number = ANALYSIS_TILE): TileRectangle | null {
  const [left, top] = [Math.max(0, box.left), Math.max(0, box.top)]
  const [right, bottom] = [Math.min(picture.width, box.right), Math.min(picture.height, box.bottom)]
  if (right <= left || bottom <= top) return null
  return {
    firstColumn: Math.floor(left / side),
    lastColumn: Math.floor((right - 1) / side),
    firstRow: Math.floor(top / side),
    lastRow: Math.floor((bottom - 1) / side),
  }
}

/** Columns and rows, row after row. */
export function* eachTile(tiles: TileRectangle): Generator<[column: number, row: number]> {
  for (let row = tiles.firstRow; row <= tiles.lastRow; row++) {
    for (let column = tiles.firstColumn; column <= tiles.lastColumn; column++) yield [column, row]
  }
}

/** A rectangle of a picture, its pixels row after row. */
interface Stretch<Data> {
  left: number
  top: number
  width: number
  height: number
  data: Data
}

/** Room for a box of a picture, cut at its edges. */
export function stretchUnder(picture: Size, box: Box): Stretch<Float32Array> {
  const left = Math.max(0, box.left)
  const top = Math.max(0, box.top)
  const width = Math.max(0, Math.min(picture.width, box.right) - left)
  const height = Math.max(0, Math.min(picture.height, box.bottom) - top)
  return { left, top, width, height, data: new Float32Array(width * height) }
}

/** Puts what a tile and a stretch of the picture have in common into the stretch. */
export function pasteTile(
  picture: Size,
  tile: Float32Array,
  column: number,
  row: number,
  into: Stretch<Float32Array>,
  side: number = ANALYSIS_TILE,
) {
  const [tileLeft, tileTop] = [column * side, row * side]
  const size = tileSize(picture, column, row, side)
  const { data } = into
  const from = Math.max(tileLeft, into.left)
  const to = Math.min(tileLeft + size.width, into.left + into.width)
  const bottom = Math.min(tileTop + size.height, into.top + into.height)
  for (let y = Math.max(tileTop, into.top); y < bottom; y++) {
    // One by one: rows are short, and a view of each costs more than what is in it.
    let at = (y - tileTop) * size.width + from - tileLeft
    let place = (y - into.top) * into.width + from - into.left
    for (const end = at + to - from; at < end; at++) data[place++] = tile[at]!
  }
}

/** A whole tile out of a stretch of its picture that holds it. */
export function cutTile(picture: Size, from: Stretch<Uint16Array>, column: number, row: number): Uint16Array {
  const { width, height } = tileSize(picture, column, row)
  const [left, top] = [column * ANALYSIS_TILE - from.left, row * ANALYSIS_TILE - from.top]
  const out = new Uint16Array(width * height)
  for (let y = 0; y < height; y++) {
    const start = (top + y) * from.width + left
    out.set(from.data.subarray(start, start + width), y * width)
  }
  return out
}
