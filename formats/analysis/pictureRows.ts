import { BT709_LUMA } from '@tender-lasso/core/image'
import { packTile, STEP_OF_8_BITS } from './packedTile'

/** Encoded values, three channels interleaved, row after row. An 8-bit value stands for 257 times itself. */
export type Interleaved = Uint8Array | Uint16Array

/** Rows of a picture as the plate encodes it, and display-encoded, which may be the same. */
export interface PictureRows {
  rgb: Interleaved
  shown: Interleaved
  width: number
  height: number
}

/** Packs a row of tiles: for each plane, luma first, its tiles from left to right. */
export interface RowPacker {
  packRows(rows: PictureRows, tileWidth: number): Uint8Array[][]
}

const stepOf = (values: Interleaved) => (values instanceof Uint8Array ? STEP_OF_8_BITS : 1)

/** Luma's weights have four digits: in whole numbers it is exact, and rounded alike everywhere. */
const LUMA_UNIT = 10000

/** Weights of luma in parts of {@link LUMA_UNIT}, for values as they are stored. */
export const lumaWeights = (values: Interleaved) =>
  BT709_LUMA.map((weight) => Math.round(weight * LUMA_UNIT) * stepOf(values)) as [number, number, number]

/** In plain TypeScript: the reference for the other, and what runs where that cannot. */
export const PLAIN_PACKER: RowPacker = {
  packRows(rows, tileWidth) {
    const { width, height } = rows
    return planesOf(rows).map((plane) => {
      const tiles: Uint8Array[] = []
      for (let left = 0; left < width; left += tileWidth) {
        const columns = Math.min(tileWidth, width - left)
        const tile = new Uint16Array(columns * height)
        for (let y = 0; y < height; y++) {
          tile.set(plane.subarray(y * width + left, y * width + left + columns), y * columns)
        }
        tiles.push(packTile(tile, columns, height))
      }
      return tiles
    })
  },
}

/** Luma of what is shown, then red, green and blue as the plate has them, each 16 bit. */
function planesOf({ rgb, shown }: PictureRows): Uint16Array[] {
  const count = rgb.length / 3
  const [wr, wg, wb] = lumaWeights(shown)
  const sumAt = (i: number) => wr * shown[3 * i]! + wg * shown[3 * i + 1]! + wb * shown[3 * i + 2]!
  const luma = Uint16Array.from({ length: count }, (_, i) => Math.floor((sumAt(i) + LUMA_UNIT / 2) / LUMA_UNIT))
  const step = stepOf(rgb)
  const channels = [0, 1, 2].map((c) => Uint16Array.from({ length: count }, (_, i) => rgb[3 * i + c]! * step))
  return [luma, ...channels]
}
