import { decodeTile, storedValue, type AnalysisIndex } from './analysisFrame'
import { packTile } from './packedTile'
import { ANALYSIS_TILE, cutTile, eachTile, pasteTile, tileSize, tilesUnder, type TileRectangle } from './tiles'

/**
 * Tiles of today's size out of a frame of an earlier version, whose tiles are larger.
 *
 * @param tiles  columns and rows as today's tiles count them
 * @param read   the bytes of a tile of the frame
 * @returns packed tiles, row after row
 */
export async function recutTiles(
  index: AnalysisIndex,
  tiles: TileRectangle,
  read: (column: number, row: number) => Promise<Uint8Array>,
): Promise<Uint8Array[]> {
  const box = {
    left: tiles.firstColumn * ANALYSIS_TILE,
    top: tiles.firstRow * ANALYSIS_TILE,
    right: Math.min(index.width, (tiles.lastColumn + 1) * ANALYSIS_TILE),
    bottom: Math.min(index.height, (tiles.lastRow + 1) * ANALYSIS_TILE),
  }
  const [width, height] = [box.right - box.left, box.bottom - box.top]
  const whole = { left: box.left, top: box.top, width, height, data: new Float32Array(width * height) }
  for (const [column, row] of eachTile(tilesUnder(index, box, index.tile)!)) {
    const tile = decodeTile(await read(column, row), tileSize(index, column, row, index.tile))
    pasteTile(index, tile, column, row, whole, index.tile)
  }
  const stored = { ...whole, data: Uint16Array.from(whole.data, storedValue) }
  return [...eachTile(tiles)].map(([column, row]) => {
    const { width, height } = tileSize(index, column, row)
    return packTile(cutTile(index, stored, column, row), width, height)
  })
}
