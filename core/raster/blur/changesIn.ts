/** Whether a picture changes within a rectangle of columns and rows, from one pixel to the next. */
export type ChangesIn = (left: number, top: number, right: number, bottom: number) => boolean

/** Sums of areas (Crow, Summed-area tables for texture mapping, 1984), so that any rectangle is asked in the same time. */
export function changesIn(data: Float32Array, width: number, height: number): ChangesIn {
  const stride = width + 1
  const sums = new Int32Array(stride * (height + 1))
  for (let y = 0; y < height; y++) {
    // The row above the first one is itself.
    let above = y > 0 ? (y - 1) * width : 0
    let before = data[y * width]!
    let count = 0
    let sum = (y + 1) * stride + 1
    for (let at = y * width; at < (y + 1) * width; at++, above++, sum++) {
      const here = data[at]!
      if (here !== before || here !== data[above]!) count++
      before = here
      sums[sum] = sums[sum - stride]! + count
    }
  }
  return (left, top, right, bottom) => {
    const [l, r] = [Math.min(width, Math.max(0, left)), Math.min(width, Math.max(0, right))]
    const [t, b] = [Math.min(height, Math.max(0, top)) * stride, Math.min(height, Math.max(0, bottom)) * stride]
    return sums[b + r]! - sums[t + r]! - sums[b + l]! + sums[t + l]! > 0
  }
}
