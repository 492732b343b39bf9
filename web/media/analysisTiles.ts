import {
  ANALYSIS_PLANES,
  decodeTile,
  eachTile,
  MOST_FRAMES_AT_ONCE,
  pasteTile,
  splitTiles,
  stretchUnder,
  tileSize,
  tilesUnder,
  type AnalysisPlane,
  type TileRectangle,
} from '@tender-lasso/formats/analysis'
import type { Box } from '@tender-lasso/core/geometry'
import type { LumaImage } from '@tender-lasso/core/image'

/** Unpacked tiles that are kept, 64 kilobytes each: those of a region, or of the points on one frame. */
const MOST_UNPACKED = 128
/** What the server says of a frame that is still to be read. */
const NOT_READ_YET = 425
/** Milliseconds after which such a frame is asked for again. */
const WAIT_MS = 500

/** Fetches stretches of analysis frames, lossless, tile by tile; keeps the last few tiles. */
export class AnalysisTiles {
  /** Packed, as they came. */
  private readonly tiles = new Map<number, Uint8Array>()
  private readonly unpackedTiles = new Map<number, Float32Array>()
  /** What brings a tile that is on its way, so that nothing is asked for twice. */
  private readonly underWay = new Map<number, Promise<void>>()

  constructor(
    private readonly shotId: string,
    readonly width: number,
    readonly height: number,
    /** Packed ones: 6 to 30 kilobytes each. */
    private readonly mostTiles = 4000,
    /** Whether a frame that is not read yet is waited for; asked again and again while it is. */
    private readonly isWorthWaiting: () => boolean = () => false,
  ) {}

  /** One plane of a box of a frame, values 0..1 as the plate encodes them, cut at the plate's edges. */
  async image(frame: number, box: Box, plane: AnalysisPlane = 'luma'): Promise<LumaImage> {
    const image: LumaImage = stretchUnder(this, box)
    const under = tilesUnder(this, box)
    if (!under) return image
    if (!this.areHere(frame, under, plane)) await this.load(frame, under, plane)
    for (const [column, row] of eachTile(under)) {
      pasteTile(this, this.unpacked(tileKey(frame, plane, column, row), column, row), column, row, image)
    }
    this.forgetOldTiles()
    return image
  }

  /** Whether nothing of a box of a frame would have to be asked for. */
  isExpected(frame: number, box: Box, plane: AnalysisPlane): boolean {
    const under = tilesUnder(this, box)
    return !under || this.missing(frame, under, plane) === null
  }

  /**
   * Begins to fetch a box of frames that will be asked for soon, in as few requests as there are different rectangles
   * missing; what goes wrong is told when it is asked for.
   */
  expect(frames: readonly number[], box: Box, plane: AnalysisPlane) {
    const under = tilesUnder(this, box)
    if (!under) return
    const requests = new Map<string, { missing: TileRectangle; frames: number[] }>()
    for (const frame of frames) {
      const missing = this.missing(frame, under, plane)
      if (!missing) continue
      const key = Object.values(missing).join()
      const request = requests.get(key) ?? { missing, frames: [] }
      request.frames.push(frame)
      requests.set(key, request)
    }
    for (const { missing, frames } of requests.values()) {
      for (let i = 0; i < frames.length; i += MOST_FRAMES_AT_ONCE) {
        this.request(frames.slice(i, i + MOST_FRAMES_AT_ONCE), missing, plane).catch(() => undefined)
      }
    }
  }

  /** The rectangle of tiles that are neither here nor on their way; null when there is none. */
  private missing(frame: number, tiles: TileRectangle, plane: AnalysisPlane): TileRectangle | null {
    const missing = [...eachTile(tiles)].filter(([column, row]) => {
      const key = tileKey(frame, plane, column, row)
      return !this.tiles.has(key) && !this.underWay.has(key)
    })
    if (missing.length === 0) return null
    const columns = missing.map(([column]) => column)
    return {
      firstColumn: Math.min(...columns),
      lastColumn: Math.max(...columns),
      firstRow: missing[0]![1],
      lastRow: missing.at(-1)![1],
    }
  }

  private areHere(frame: number, tiles: TileRectangle, plane: AnalysisPlane): boolean {
    for (const [column, row] of eachTile(tiles)) if (!this.tiles.has(tileKey(frame, plane, column, row))) return false
    return true
  }

  private async load(frame: number, tiles: TileRectangle, plane: AnalysisPlane) {
    const missing = this.missing(frame, tiles, plane)
    if (missing) await this.request([frame], missing, plane)
    const coming = [...eachTile(tiles)].map(([column, row]) => this.underWay.get(tileKey(frame, plane, column, row)))
    await Promise.allSettled(new Set(coming))
    // What was to bring some of them may have failed for the sake of another frame.
    const lost = this.missing(frame, tiles, plane)
    if (lost) await this.request([frame], lost, plane)
  }

  private request(frames: readonly number[], tiles: TileRectangle, plane: AnalysisPlane): Promise<void> {
    const keys = frames.flatMap((frame) =>
      [...eachTile(tiles)].map(([column, row]) => tileKey(frame, plane, column, row)),
    )
    const fetched = this.fetchTiles(frames, tiles, plane).finally(() => {
      for (const key of keys) if (this.underWay.get(key) === fetched) this.underWay.delete(key)
    })
    for (const key of keys) this.underWay.set(key, fetched)
    return fetched
  }

  private async fetchTiles(frames: readonly number[], tiles: TileRectangle, plane: AnalysisPlane) {
    const query = new URLSearchParams({ frames: frames.join(), plane })
    for (const [name, value] of Object.entries(tiles)) query.set(name, String(value))
    const ask = () => fetch(`/api/shots/${this.shotId}/tiles?${query}`)
    let response = await ask()
    while (response.status === NOT_READ_YET && this.isWorthWaiting()) {
      await new Promise((resolve) => setTimeout(resolve, WAIT_MS))
      response = await ask()
    }
    if (response.status === NOT_READ_YET) throw new Error(`Frame ${frames.join(', ')} is not read yet`)
    if (!response.ok) throw new Error(`Frame ${frames.join(', ')} cannot be read (status ${response.status})`)
    const packed = splitTiles(new Uint8Array(await response.arrayBuffer()))
    let i = 0
    for (const frame of frames) {
      for (const [column, row] of eachTile(tiles)) {
        this.tiles.set(tileKey(frame, plane, column, row), packed[i++]!)
      }
    }
  }

  private unpacked(key: number, column: number, row: number): Float32Array {
    const known = this.unpackedTiles.get(key)
    if (known) return known
    let room: Float32Array | undefined
    if (this.unpackedTiles.size >= MOST_UNPACKED) {
      // The oldest tile's room is warm; new room by the megabyte a frame costs more than what is put there.
      const [oldest, values] = this.unpackedTiles.entries().next().value!
      this.unpackedTiles.delete(oldest)
      room = values
    }
    const size = tileSize(this, column, row)
    if (room?.length !== size.width * size.height) room = undefined
    const values = decodeTile(this.tiles.get(key)!, size, room)
    this.unpackedTiles.set(key, values)
    return values
  }

  private forgetOldTiles() {
    while (this.tiles.size > this.mostTiles) this.tiles.delete(this.tiles.keys().next().value!)
  }
}

/** A number for each tile of all frames; columns, rows and planes stay below their factors. */
const tileKey = (frame: number, plane: AnalysisPlane, column: number, row: number) =>
  ((frame * 4 + ANALYSIS_PLANES.indexOf(plane)) * 4096 + row) * 4096 + column
