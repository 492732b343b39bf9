/** One channel of a stretch of a plate. Pixel (i, j) has its centre at plate position (left + i + 0.5, top + j + 0.5). */
export interface LumaImage {
  left: number
  top: number
  width: number
  height: number
  /** Row-major, encoded values 0..1. */
  data: Float32Array
}

/** ITU-R BT.709 luma weights; applied to encoded values this is luma, to linear light it is luminance. */
export const BT709_LUMA = [0.2126, 0.7152, 0.0722] as const

/** Level of a pyramid: its pixel is `scale` plate pixels wide; centres lie at left + (i + 0.5) * scale. */
export interface PyramidLevel extends LumaImage {
  scale: number
}

/**
 * Pyramid of halved pictures. The kernel [1 3 3 1]/8 is even, so a coarse pixel's centre lies exactly between the four
 * pixels it stands for; an odd kernel would shift every level by half a pixel.
 */
export function pyramidOf(image: LumaImage, levels: number): PyramidLevel[] {
  const pyramid: PyramidLevel[] = [{ ...image, scale: 1 }]
  while (pyramid.length < levels) pyramid.push(halved(pyramid.at(-1)!))
  return pyramid
}

function halved(level: PyramidLevel): PyramidLevel {
  const width = Math.max(1, level.width >> 1)
  const height = Math.max(1, level.height >> 1)
  const rows = new Float32Array(width * level.height)
  for (let y = 0; y < level.height; y++) {
    const row = y * level.width
    for (let x = 0; x < width; x++) {
      const a = level.data[row + Math.max(0, 2 * x - 1)]!
      const b = level.data[row + Math.min(level.width - 1, 2 * x)]!
      const c = level.data[row + Math.min(level.width - 1, 2 * x + 1)]!
      const d = level.data[row + Math.min(level.width - 1, 2 * x + 2)]!
      rows[y * width + x] = (a + 3 * b + 3 * c + d) / 8
    }
  }
  const data = new Float32Array(width * height)
  for (let y = 0; y < height; y++) {
    const a = Math.max(0, 2 * y - 1) * width
    const b = Math.min(level.height - 1, 2 * y) * width
    const c = Math.min(level.height - 1, 2 * y + 1) * width
    const d = Math.min(level.height - 1, 2 * y + 2) * width
    for (let x = 0; x < width; x++) {
      data[y * width + x] = (rows[a + x]! + 3 * rows[b + x]! + 3 * rows[c + x]! + rows[d + x]!) / 8
    }
  }
  return { left: level.left, top: level.top, width, height, data, scale: level.scale * 2 }
}
