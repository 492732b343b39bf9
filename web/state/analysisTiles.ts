import {
  ANALYSIS_PLANES,
  ANALYSIS_TILE,
  analysisHeaderBytes,
  decodeTile,
  readAnalysisIndex,
  tileRange,
  type AnalysisIndex,
  type AnalysisPlane,
} from '@tender-lasso/formats/analysis'
import type { Box } from '@tender-lasso/core/geometry'
import type { LumaImage } from '@tender-lasso/core/image'

/** Fetches stretches of analysis frames, lossless, tile by tile; keeps the last few tiles. */
export class AnalysisTiles {
  private readonly indices = new Map<number, Promise<AnalysisIndex>>()
  private readonly tiles = new Map<string, Float32Array>()

  constructor(
    private readonly shotId: string,
    private readonly width: number,
    private readonly height: number,
    private readonly mostTiles = 600,
  ) {}

  /** One plane of a box of a frame, values 0..1 as the plate encodes them, cut at the plate's edges. */
  async image(frame: number, box: Box, plane: AnalysisPlane = 'luma'): Promise<LumaImage> {
    const left = Math.max(0, box.left)
    const top = Math.max(0, box.top)
    const right = Math.min(this.width, box.right)
    const bottom = Math.min(this.height, box.bottom)
    const width = Math.max(0, right - left)
    const height = Math.max(0, bottom - top)
    const image: LumaImage = { left, top, width, height, data: new Float32Array(width * height) }
    if (width === 0 || height === 0) return image
    const index = await this.index(frame)
    const [firstColumn, lastColumn] = [Math.floor(left / ANALYSIS_TILE), Math.floor((right - 1) / ANALYSIS_TILE)]
    const [firstRow, lastRow] = [Math.floor(top / ANALYSIS_TILE), Math.floor((bottom - 1) / ANALYSIS_TILE)]
    const rows = Array.from({ length: lastRow - firstRow + 1 }, (_, i) => firstRow + i)
    await Promise.all(rows.map((row) => this.loadRow(index, frame, plane, row, firstColumn, lastColumn)))
    for (const row of rows) {
      for (let column = firstColumn; column <= lastColumn; column++) {
        copyTile(this.tiles.get(tileKey(frame, plane, column, row))!, index, column, row, image)
      }
    }
    this.forgetOldTiles()
    return image
  }

  private index(frame: number): Promise<AnalysisIndex> {
    let index = this.indices.get(frame)
    if (!index) {
      index = this.range(frame, 0, analysisHeaderBytes(this.width, this.height)).then(readAnalysisIndex)
      index.catch(() => this.indices.delete(frame))
      this.indices.set(frame, index)
    }
    return index
  }

  /** Tiles of one row lie one behind the other in the file, so one request brings them all. */
  private async loadRow(
    index: AnalysisIndex,
    frame: number,
    plane: AnalysisPlane,
    row: number,
    first: number,
    last: number,
  ) {
    const planeNumber = ANALYSIS_PLANES.indexOf(plane)
    const missing: number[] = []
    for (let column = first; column <= last; column++)
      if (!this.tiles.has(tileKey(frame, plane, column, row))) missing.push(column)
    if (missing.length === 0) return
    const start = tileRange(index, planeNumber, missing[0]!, row).offset
    const lastTile = tileRange(index, planeNumber, missing.at(-1)!, row)
    const bytes = await this.range(frame, start, lastTile.offset + lastTile.length - start)
    for (const column of missing) {
      const { offset, length } = tileRange(index, planeNumber, column, row)
      const tile = decodeTile(index, bytes.subarray(offset - start, offset - start + length), column, row)
      this.tiles.set(tileKey(frame, plane, column, row), tile.data)
    }
  }

  private async range(frame: number, offset: number, length: number): Promise<Uint8Array> {
    const response = await fetch(`/api/shots/${this.shotId}/frames/${frame}/analysis`, {
      headers: { Range: `bytes=${offset}-${offset + length - 1}` },
    })
    if (!response.ok) throw new Error(`Frame ${frame} cannot be read (status ${response.status})`)
    return new Uint8Array(await response.arrayBuffer())
  }

  private forgetOldTiles() {
    while (this.tiles.size > this.mostTiles) this.tiles.delete(this.tiles.keys().next().value!)
  }
}

const tileKey = (frame: number, plane: AnalysisPlane, column: number, row: number) =>
  `${frame}/${plane}/${row}/${column}`

function copyTile(tile: Float32Array, index: AnalysisIndex, column: number, row: number, image: LumaImage) {
  const tileLeft = column * ANALYSIS_TILE
  const tileTop = row * ANALYSIS_TILE
  const tileWidth = Math.min(ANALYSIS_TILE, index.width - tileLeft)
  const from = Math.max(tileLeft, image.left)
  const to = Math.min(tileLeft + tileWidth, image.left + image.width)
  const bottom = Math.min(tileTop + ANALYSIS_TILE, image.top + image.height)
  for (let y = Math.max(tileTop, image.top); y < bottom; y++) {
    const start = (y - tileTop) * tileWidth + from - tileLeft
    image.data.set(tile.subarray(start, start + to - from), (y - image.top) * image.width + from - image.left)
  }
}
