import { boundsOf } from '../geometry'

/** One byte a pixel, 1 where something is; pixel (i, j) is that of a picture with the same box. */
export interface PixelMask {
  width: number
  height: number
  data: Uint8Array
}

interface PixelBox {
  left: number
  top: number
  width: number
  height: number
}

/**
 * Pixels whose centre lies inside closed polygons.
 *
 * @param polygons  x0, y0, x1, y1 ... in plate pixels
 * @param rule      even-odd: where two lie over one another is a hole; any: inside one of them (non-zero winding)
 */
export function polygonMask(
  polygons: readonly ArrayLike<number>[],
  box: PixelBox,
  rule: 'even-odd' | 'any',
): PixelMask {
  const mask: PixelMask = { width: box.width, height: box.height, data: new Uint8Array(box.width * box.height) }
  const groups = rule === 'even-odd' ? [polygons] : polygons.map((polygon) => [polygon])
  for (const group of groups) fillRows(mask, box, group, rule)
  return mask
}

function fillRows(mask: PixelMask, box: PixelBox, group: readonly ArrayLike<number>[], rule: 'even-odd' | 'any') {
  const bounds = group.map(boundsOf)
  const first = Math.max(0, Math.floor(Math.min(...bounds.map((b) => b.top)) - box.top))
  const last = Math.min(box.height - 1, Math.ceil(Math.max(...bounds.map((b) => b.bottom)) - box.top))
  const crossings: { x: number; way: number }[] = []
  for (let row = first; row <= last; row++) {
    const y = box.top + row + 0.5
    crossings.length = 0
    for (const polygon of group) {
      let [px, py] = [polygon[polygon.length - 2]!, polygon[polygon.length - 1]!]
      for (let i = 0; i < polygon.length; i += 2) {
        const [qx, qy] = [polygon[i]!, polygon[i + 1]!]
        if (py <= y !== qy <= y) crossings.push({ x: px + ((y - py) / (qy - py)) * (qx - px), way: qy > py ? 1 : -1 })
        px = qx
        py = qy
      }
    }
    crossings.sort((a, b) => a.x - b.x)
    let winding = 0
    for (let i = 0; i + 1 < crossings.length; i++) {
      winding += crossings[i]!.way
      if (rule === 'even-odd' ? i % 2 === 1 : winding === 0) continue
      const from = Math.max(0, Math.ceil(crossings[i]!.x - box.left - 0.5))
      const to = Math.min(box.width, Math.ceil(crossings[i + 1]!.x - box.left - 0.5))
      if (to > from) mask.data.fill(1, row * box.width + from, row * box.width + to)
    }
  }
}

/** The mask at half size: a pixel is set when one of the four it stands for is. */
export function halvedMask(mask: PixelMask): PixelMask {
  const width = Math.max(1, mask.width >> 1)
  const height = Math.max(1, mask.height >> 1)
  const data = new Uint8Array(width * height)
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const at = 2 * y * mask.width + 2 * x
      const [right, below] = [2 * x + 1 < mask.width ? 1 : 0, 2 * y + 1 < mask.height ? mask.width : 0]
      data[y * width + x] =
        mask.data[at]! | mask.data[at + right]! | mask.data[at + below]! | mask.data[at + right + below]!
    }
  }
  return { width, height, data }
}

/** The mask with every set pixel grown to a square of 2 * by + 1. */
export function grownMask(mask: PixelMask, by: number): PixelMask {
  const { width, height } = mask
  const across = new Uint8Array(mask.data.length)
  const data = new Uint8Array(mask.data.length)
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      if (!mask.data[y * width + x]) continue
      across.fill(1, y * width + Math.max(0, x - by), y * width + Math.min(width, x + by + 1))
    }
  }
  for (let y = 0; y < height; y++) {
    const [from, to] = [Math.max(0, y - by), Math.min(height - 1, y + by)]
    for (let x = 0; x < width; x++) {
      for (let row = from; row <= to; row++) {
        if (!across[row * width + x]) continue
        data[y * width + x] = 1
        break
      }
    }
  }
  return { width, height, data }
}
