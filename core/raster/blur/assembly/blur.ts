// Gaussians over 32-bit floats in AssemblyScript, four pixels at a time: what plainBlur.ts computes.

/** First byte that the caller may use. */
export function firstFreeByte(): usize {
  return (__heap_base + 15) & ~15
}

/**
 * Convolves rows, then columns, where all of the kernel lies within the picture.
 *
 * @param from    `height` rows of `stride` numbers; 16 bytes behind them may be read
 * @param kernel  `taps` weights
 * @param middle  room for as many rows as the picture has
 * @param to      gets `height - taps + 1` rows of `stride` numbers, of which the first `width - taps + 1` are good
 */
export function even(from: usize, width: i32, height: i32, stride: i32, kernel: usize, taps: i32, middle: usize, to: usize): void {
  const rowBytes = <usize>stride << 2
  const columns = width - taps + 1
  for (let y = 0; y < height; y++) {
    const row = from + <usize>y * rowBytes
    const out = middle + <usize>y * rowBytes
    for (let x = 0; x < columns; x += 4) {
      let at = row + (<usize>x << 2)
      let sum = f32x4.splat(0)
      for (let i = 0; i < taps; i++, at += 4) sum = f32x4.add(sum, f32x4.mul(v128.load32_splat(kernel + (<usize>i << 2)), v128.load(at)))
      v128.store(out + (<usize>x << 2), sum)
    }
  }
  for (let y = 0; y <= height - taps; y++) {
    const row = middle + <usize>y * rowBytes
    const out = to + <usize>y * rowBytes
    for (let x = 0; x < columns; x += 4) {
      let at = row + (<usize>x << 2)
      let sum = f32x4.splat(0)
      for (let j = 0; j < taps; j++, at += rowBytes) sum = f32x4.add(sum, f32x4.mul(v128.load32_splat(kernel + (<usize>j << 2)), v128.load(at)))
      v128.store(out + (<usize>x << 2), sum)
    }
  }
}

/**
 * Mean about one pixel, weighted both ways.
 *
 * @param corner  the number that the first weight of both ways belongs to
 * @param step    pixels from one weight to the next
 * @param kernel  `taps` weights, filled up with noughts to a multiple of four
 */
export function around(corner: usize, stride: i32, step: i32, kernel: usize, taps: i32): f32 {
  const rowBytes = (<usize>stride * <usize>step) << 2
  let row = corner
  if (step == 1) {
    let sum = f32x4.splat(0)
    for (let j = 0; j < taps; j++, row += rowBytes) {
      let across = f32x4.splat(0)
      for (let i = 0; i < taps; i += 4) {
        const at = <usize>i << 2
        across = f32x4.add(across, f32x4.mul(v128.load(kernel + at), v128.load(row + at)))
      }
      sum = f32x4.add(sum, f32x4.mul(across, v128.load32_splat(kernel + (<usize>j << 2))))
    }
    return f32x4.extract_lane(sum, 0) + f32x4.extract_lane(sum, 1) + f32x4.extract_lane(sum, 2) + f32x4.extract_lane(sum, 3)
  }
  const stepBytes = <usize>step << 2
  let sum: f32 = 0
  for (let j = 0; j < taps; j++, row += rowBytes) {
    let across: f32 = 0
    let at = row
    for (let i = 0; i < taps; i++, at += stepBytes) across += load<f32>(kernel + (<usize>i << 2)) * load<f32>(at)
    sum += across * load<f32>(kernel + (<usize>j << 2))
  }
  return sum
}
