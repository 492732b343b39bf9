import {
  ANALYSIS_TILE,
  decodeTile,
  splitTiles,
  type AnalysisPlane,
  type TileBlock,
} from '@tender-lasso/formats/analysis'
import type { Box } from '@tender-lasso/core/geometry'
import type { LumaImage } from '@tender-lasso/core/image'

/** Fetches stretches of analysis frames, lossless, tile by tile; keeps the last few tiles. */
export class AnalysisTiles {
  private readonly tiles = new Map<string, Float32Array>()
  /** Blocks that are on their way, by frame and plane, so that nothing is asked for twice. */
  private readonly underWay = new Map<string, Promise<void>>()

  constructor(
    private readonly shotId: string,
    readonly width: number,
    readonly height: number,
    private readonly mostTiles = 600,
  ) {}

  /** One plane of a box of a frame, values 0..1 as the plate encodes them, cut at the plate's edges. */
  async image(frame: number, box: Box, plane: AnalysisPlane = 'luma'): Promise<LumaImage> {
    const left = Math.max(0, box.left)
    const top = Math.max(0, box.top)
    const width = Math.max(0, Math.min(this.width, box.right) - left)
    const height = Math.max(0, Math.min(this.height, box.bottom) - top)
    const image: LumaImage = { left, top, width, height, data: new Float32Array(width * height) }
    const block = this.blockUnder(box, plane)
    if (!block) return image
    await this.load(frame, block)
    for (const [column, row] of tilesOf(block)) {
      copyTile(this.tiles.get(tileKey(frame, plane, column, row))!, this.width, column, row, image)
    }
    this.forgetOldTiles()
    return image
  }

  /** Begins to fetch what will be asked for soon; what goes wrong is told when it is asked for. */
  expect(frame: number, box: Box, plane: AnalysisPlane) {
    const block = this.blockUnder(box, plane)
    if (block) this.load(frame, block).catch(() => undefined)
  }

  private blockUnder(box: Box, plane: AnalysisPlane): TileBlock | null {
    const [left, top] = [Math.max(0, box.left), Math.max(0, box.top)]
    const [right, bottom] = [Math.min(this.width, box.right), Math.min(this.height, box.bottom)]
    if (right <= left || bottom <= top) return null
    return {
      plane,
      firstColumn: Math.floor(left / ANALYSIS_TILE),
      lastColumn: Math.floor((right - 1) / ANALYSIS_TILE),
      firstRow: Math.floor(top / ANALYSIS_TILE),
      lastRow: Math.floor((bottom - 1) / ANALYSIS_TILE),
    }
  }

  private async load(frame: number, block: TileBlock) {
    const key = `${frame}/${block.plane}`
    // A request on its way may bring some of them.
    for (let other = this.underWay.get(key); other; other = this.underWay.get(key)) await other.catch(() => undefined)
    const missing = [...tilesOf(block)].filter(
      ([column, row]) => !this.tiles.has(tileKey(frame, block.plane, column, row)),
    )
    if (missing.length === 0) return
    const columns = missing.map(([column]) => column)
    const rows = missing.map(([, row]) => row)
    const fetched = this.fetchBlock(frame, {
      plane: block.plane,
      firstColumn: Math.min(...columns),
      lastColumn: Math.max(...columns),
      firstRow: Math.min(...rows),
      lastRow: Math.max(...rows),
    })
    this.underWay.set(key, fetched)
    await fetched.finally(() => this.underWay.delete(key))
  }

  private async fetchBlock(frame: number, block: TileBlock) {
    const query = new URLSearchParams(Object.entries(block).map(([name, value]) => [name, String(value)]))
    const response = await fetch(`/api/shots/${this.shotId}/frames/${frame}/tiles?${query}`)
    if (!response.ok) throw new Error(`Frame ${frame} cannot be read (status ${response.status})`)
    const packed = splitTiles(new Uint8Array(await response.arrayBuffer()))
    let i = 0
    for (const [column, row] of tilesOf(block)) {
      const { data } = decodeTile(this, packed[i++]!, column, row)
      this.tiles.set(tileKey(frame, block.plane, column, row), data)
    }
  }

  private forgetOldTiles() {
    while (this.tiles.size > this.mostTiles) this.tiles.delete(this.tiles.keys().next().value!)
  }
}

/** Columns and rows of a block's tiles, row after row. */
function* tilesOf({ firstColumn, lastColumn, firstRow, lastRow }: TileBlock): Generator<[number, number]> {
  for (let row = firstRow; row <= lastRow; row++) {
    for (let column = firstColumn; column <= lastColumn; column++) yield [column, row]
  }
}

const tileKey = (frame: number, plane: AnalysisPlane, column: number, row: number) =>
  `${frame}/${plane}/${row}/${column}`

function copyTile(tile: Float32Array, plateWidth: number, column: number, row: number, image: LumaImage) {
  const tileLeft = column * ANALYSIS_TILE
  const tileTop = row * ANALYSIS_TILE
  const tileWidth = Math.min(ANALYSIS_TILE, plateWidth - tileLeft)
  const from = Math.max(tileLeft, image.left)
  const to = Math.min(tileLeft + tileWidth, image.left + image.width)
  const bottom = Math.min(tileTop + ANALYSIS_TILE, image.top + image.height)
  for (let y = Math.max(tileTop, image.top); y < bottom; y++) {
    const start = (y - tileTop) * tileWidth + from - tileLeft
    image.data.set(tile.subarray(start, start + to - from), (y - image.top) * image.width + from - image.left)
  }
}
