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
  const { width, height, data } = level
  const halfWidth = Math.max(1, width >> 1)
  const halfHeight = Math.max(1, height >> 1)
  const rows = new Float32Array(halfWidth * height)
  for (let y = 0; y < height; y++) halveRow(data, y * width, width, rows, y * halfWidth, halfWidth)
  const out = new Float32Array(halfWidth * halfHeight)
  for (let y = 0; y < halfHeight; y++) {
    const a = Math.max(0, 2 * y - 1) * halfWidth
    const b = Math.min(height - 1, 2 * y) * halfWidth
    const c = Math.min(height - 1, 2 * y + 1) * halfWidth
    const d = Math.min(height - 1, 2 * y + 2) * halfWidth
    const start = y * halfWidth
    for (let x = 0; x < halfWidth; x++) {
      out[start + x] = (rows[a + x]! + 3 * (rows[b + x]! + rows[c + x]!) + rows[d + x]!) * 0.125
    }
  }
  return { left: level.left, top: level.top, width: halfWidth, height: halfHeight, data: out, scale: level.scale * 2 }
}

/** One row at half width; pixels beyond its ends are like those at its ends. */
function halveRow(from: Float32Array, start: number, width: number, to: Float32Array, at: number, halfWidth: number) {
  to[at] = halvedAtEnd(from, start, width, 0)
  for (let x = 1, i = start + 2; x < halfWidth - 1; x++, i += 2) {
    to[at + x] = (from[i - 1]! + 3 * (from[i]! + from[i + 1]!) + from[i + 2]!) * 0.125
  }
  if (halfWidth > 1) to[at + halfWidth - 1] = halvedAtEnd(from, start, width, halfWidth - 1)
}

function halvedAtEnd(from: Float32Array, start: number, width: number, x: number): number {
  const i = start + 2 * x
  const last = start + width - 1
  const next = Math.min(last, i + 1)
  return (from[Math.max(start, i - 1)]! + 3 * (from[i]! + from[next]!) + from[Math.min(last, i + 2)]!) * 0.125
}
