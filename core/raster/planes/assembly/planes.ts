// Planes of 32-bit coverage in AssemblyScript: what plainCoverage.ts and plainArithmetic.ts compute.

/** First byte that the caller may use. */
export function firstFreeByte(): usize {
  return (__heap_base + 15) & ~15
}

/** Log2 of the pixels in a block: blocks that no piece touches are filled at once. */
const BLOCK_BITS: i32 = 4
/** Pieces that go less far to the side than this, in pixels, count as upright. */
const NARROWEST: f64 = 1e-9
/** What many additions in 32 bits may leave of a coverage of nothing, or take from one of all. */
const ROUNDING: f64 = 1e-6

@inline
function change(at: usize, by: f64): void {
  store<f32>(at, <f32>(<f64>load<f32>(at) + by))
}

/**
 * Adds the change of coverage that boundary pieces make, from each pixel of a row to the next.
 *
 * @param pieces       `count` of x0, y0, x1, y1, 64 bits
 * @param changes      `height` rows of `stride` numbers, at least one more than `width`
 * @param touched      a byte for each block of pixels, `blocksInRow` of them a row: set where anything changes
 */
export function add(pieces: usize, count: i32, weight: f64, left: f64, top: f64, width: i32, height: i32, stride: i32, blocksInRow: i32, changes: usize, touched: usize): void {
  const w = <f64>width
  const h = <f64>height
  for (const end = pieces + (<usize>count << 5); pieces < end; pieces += 32) {
    const isDown = load<f64>(pieces, 8) < load<f64>(pieces, 24)
    const upper = isDown ? pieces : pieces + 16
    const lower = isDown ? pieces + 16 : pieces
    let y = load<f64>(upper, 8) - top
    let yEnd = load<f64>(lower, 8) - top
    // A level piece changes the coverage of nothing.
    if (yEnd <= 0 || y >= h || y == yEnd) continue
    let x = load<f64>(upper) - left
    const xLast = load<f64>(lower) - left
    if (x >= w && xLast >= w) continue
    const sign = isDown ? weight : -weight
    const slope = (xLast - x) / (yEnd - y)
    let isCut = false
    if (y < 0) {
      x -= y * slope
      y = 0
    }
    if (yEnd > h) {
      yEnd = h
      isCut = true
    }
    let row = <i32>y
    let first = changes + (<usize>(row * stride) << 2)
    let blocks = touched + <usize>(row * blocksInRow)
    for (; y < yEnd; row++, first += <usize>stride << 2, blocks += blocksInRow) {
      const isLastRow = <f64>(row + 1) >= yEnd
      const yNext = isLastRow ? yEnd : <f64>(row + 1)
      const xNext = isLastRow && !isCut ? xLast : x + (yNext - y) * slope
      // The piece within this row, from a to b from left to right, carries the signed height d.
      let d = (yNext - y) * sign
      let a = Math.min(x, xNext)
      let b = Math.max(x, xNext)
      x = xNext
      y = yNext
      if (a >= w) continue
      if (b <= 0) {
        store<u8>(blocks, 1)
        change(first, d)
        continue
      }
      if (b - a < NARROWEST) {
        // As good as upright, and the division below could overflow.
        a = (a + b) / 2
        a = b = a < 0 ? 0 : a > w ? w : a
      } else if (a < 0 || b > w) {
        // Cut at the buffer's sides: what lies left covers the whole row, what lies right covers nothing of it.
        const perX = d / (b - a)
        if (a < 0) {
          store<u8>(blocks, 1)
          change(first, -a * perX)
          d += a * perX
          a = 0
        }
        if (b > w) {
          d -= (b - w) * perX
          b = w
        }
      }
      if (a >= w) continue
      // Both are in 0..width here, so cutting the fraction off is rounding down.
      const p = <i32>a
      let q = <i32>b
      if (<f64>q == b) q--
      store<u8>(blocks + <usize>(p >> BLOCK_BITS), 1)
      let at = first + (<usize>p << 2)
      if (q <= p) {
        store<u8>(blocks + <usize>((p + 1) >> BLOCK_BITS), 1)
        const middle = (a + b) / 2 - <f64>p
        change(at, d * (1 - middle))
        change(at + 4, d * middle)
        continue
      }
      for (let block = (p >> BLOCK_BITS) + 1; block <= (q + 1) >> BLOCK_BITS; block++) store<u8>(blocks + <usize>block, 1)
      const perPixel = d / (b - a)
      const inFirst = <f64>(p + 1) - a
      // Coverage reached so far inside a pixel is the integral of the height passed up to its right side.
      let covered = 0.5 * perPixel * inFirst * inFirst
      change(at, covered)
      at += 4
      for (let pixel = p + 1; pixel < q; pixel++, at += 4) {
        const area = perPixel * (<f64>pixel + 0.5 - a)
        change(at, area - covered)
        covered = area
      }
      const inLast = b - <f64>q
      const area = d - 0.5 * perPixel * inLast * inLast
      change(at, area - covered)
      change(at + 4, d - area)
    }
  }
}

/**
 * Turns changes into coverage 0..1 and leaves them all zero.
 *
 * @param out        gets `height` rows of `width` numbers, `outStride` apart
 * @param isCleared  all of it is 0: what is not covered is passed over
 */
export function finish(width: i32, height: i32, stride: i32, blocksInRow: i32, changes: usize, touched: usize, out: usize, outStride: i32, isCleared: bool): void {
  const none = f32x4.splat(0)
  for (let row = 0; row < height; row++) {
    let sum: f64 = 0
    const from = changes + (<usize>(row * stride) << 2)
    const to = out + (<usize>(row * outStride) << 2)
    const blocks = touched + <usize>(row * blocksInRow)
    let x = 0
    while (x < width) {
      let block = x >> BLOCK_BITS
      if (load<u8>(blocks + <usize>block)) {
        const end = min(width, (block + 1) << BLOCK_BITS)
        for (; x + 4 <= end; x += 4) {
          const at = <usize>x << 2
          let four = v128.load(from + at)
          v128.store(from + at, none)
          // Running sums of four, then what came before them.
          four = f32x4.add(four, v128.shuffle<f32>(none, four, 0, 4, 5, 6))
          four = f32x4.add(four, v128.shuffle<f32>(none, four, 0, 1, 4, 5))
          v128.store(to + at, clamped(f32x4.add(four, f32x4.splat(<f32>sum))))
          sum += <f64>f32x4.extract_lane(four, 3)
        }
        for (; x < end; x++) {
          const at = <usize>x << 2
          sum += <f64>load<f32>(from + at)
          store<f32>(from + at, 0)
          store<f32>(to + at, <f32>Math.min(1, Math.max(0, sum)))
        }
        continue
      }
      do block++
      while (block << BLOCK_BITS < width && !load<u8>(blocks + <usize>block))
      const end = min(width, block << BLOCK_BITS)
      if (sum < ROUNDING) sum = 0
      else if (sum > 1 - ROUNDING) sum = 1
      if (!isCleared || sum != 0) fill(to + (<usize>x << 2), end - x, <f32>Math.min(1, Math.max(0, sum)))
      x = end
    }
    store<f32>(from + (<usize>width << 2), 0)
  }
  memory.fill(touched, 0, <usize>(blocksInRow * height))
}

@inline
function clamped(values: v128): v128 {
  return f32x4.pmin(f32x4.splat(1), f32x4.pmax(f32x4.splat(0), values))
}

function fill(to: usize, count: i32, value: f32): void {
  const four = f32x4.splat(value)
  let i = 0
  for (; i + 4 <= count; i += 4, to += 16) v128.store(to, four)
  for (; i < count; i++, to += 4) store<f32>(to, value)
}

/** Adds a share of `count` values. */
export function addShare(sum: usize, values: usize, count: i32, share: f32): void {
  const shares = f32x4.splat(share)
  let i = 0
  for (; i + 4 <= count; i += 4, sum += 16, values += 16) {
    v128.store(sum, f32x4.add(v128.load(sum), f32x4.mul(v128.load(values), shares)))
  }
  for (; i < count; i++, sum += 4, values += 4) store<f32>(sum, load<f32>(sum) + load<f32>(values) * share)
}

/** What is left of `columns` pixels of each row where another plane stands in front; each with its own length of rows. */
export function cut(own: usize, ownStride: i32, front: usize, frontStride: i32, out: usize, outStride: i32, columns: i32, rows: i32): void {
  const one = f32x4.splat(1)
  for (let row = 0; row < rows; row++) {
    let i = 0
    let at: usize = 0
    for (; i + 4 <= columns; i += 4, at += 16) {
      v128.store(out + at, f32x4.mul(v128.load(own + at), f32x4.sub(one, v128.load(front + at))))
    }
    for (; i < columns; i++, at += 4) store<f32>(out + at, load<f32>(own + at) * (1 - load<f32>(front + at)))
    own += <usize>ownStride << 2
    front += <usize>frontStride << 2
    out += <usize>outStride << 2
  }
}

/** Adds a share of the same. */
export function addCut(sum: usize, own: usize, stride: i32, front: usize, frontStride: i32, columns: i32, rows: i32, share: f32): void {
  const one = f32x4.splat(1)
  const shares = f32x4.splat(share)
  for (let row = 0; row < rows; row++) {
    let i = 0
    let at: usize = 0
    for (; i + 4 <= columns; i += 4, at += 16) {
      const left = f32x4.mul(v128.load(own + at), f32x4.sub(one, v128.load(front + at)))
      v128.store(sum + at, f32x4.add(v128.load(sum + at), f32x4.mul(left, shares)))
    }
    for (; i < columns; i++, at += 4) {
      store<f32>(sum + at, load<f32>(sum + at) + load<f32>(own + at) * (1 - load<f32>(front + at)) * share)
    }
    sum += <usize>stride << 2
    own += <usize>stride << 2
    front += <usize>frontStride << 2
  }
}
