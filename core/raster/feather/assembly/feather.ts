// Feather in AssemblyScript: the alpha that plainFeather.ts computes, in 32-bit floats, four pixels at a time.
//
// The nearest piece of every pixel is found exactly: a block of pixels keeps of its parent's pieces those that can be the nearest
// of one of its pixels. A piece lies between two distances from the block's middle, those of its own middle less and plus half of its
// length; it is kept where the smaller one is at most the smallest of the larger ones plus twice the farthest that a pixel lies
// from the middle. Blocks are quartered down to 8 x 8 pixels, which look at what is left.

const ROOT: i32 = 64
const LEAF: i32 = 8
/** Sizes of blocks from ROOT to LEAF. */
const LEVELS: i32 = 4
const PIECE_BYTES: usize = 32
/** Direction and length of a piece, 64 bits. */
const COURSE_BYTES: usize = 24
/** Columns of a list of pieces. */
const COLUMNS: usize = 4
/** One piece as a leaf looks at it: a place on it, its direction, how far it runs back and on, how far it is; each 32 bits. */
const ROW_BYTES: usize = 32

/** First byte that the caller may use. */
export function firstFreeByte(): usize {
  return (__heap_base + 15) & ~15
}

/** Bytes of one column of a list: the middles' x, their y, half lengths, or indices; a multiple of four numbers. */
@inline
function columnBytes(count: i32): usize {
  return (<usize>(count + 3) & ~3) << 2
}

/** Bytes of scratch for so many pieces: the list of all and one of each level, distances, and the rows of a leaf. */
export function scratchBytes(count: i32): usize {
  return columnBytes(count) * (COLUMNS * (LEVELS + 1) + 1) + <usize>count * (ROW_BYTES + COURSE_BYTES) + 64
}

let pieces: usize = 0
let lists: usize = 0
let column: usize = 0
let distances: usize = 0
let rows: usize = 0
let courses: usize = 0
let width: i32 = 0
let height: i32 = 0
let stride: i32 = 0
let coverage: usize = 0
/** 1 at each pixel whose centre lies outside, -1 inside. */
let sides: usize = 0
/** Alpha of every pixel, added up. */
let sums: usize = 0
let weight: f32 = 0
let reach: f64 = 0
let outer: f32 = 0
let grow: f32 = 0
let rampWidth: f32 = 0
let perWidth: f32 = 0
let exactShare: f32 = 0

/**
 * Adds the alpha of a region's soft edge with a weight.
 *
 * @param from    pieces x0, y0, x1, y1, 64 bits, in pixels of the picture
 * @param inward  reach of the ramp inside, and `outward` outside, pixels; `growth` moves the edge outwards
 * @param share   of the exact coverage where the widths nearly vanish; 0: `covered` is not looked at
 * @param step    numbers from a row to the next in `covered`, `sided` and `to`, a multiple of 8; rows a multiple of 8 as well
 */
export function add(from: usize, count: i32, w: i32, h: i32, step: i32, inward: f64, outward: f64, growth: f64, farthest: f64, share: f64, by: f64, covered: usize, sided: usize, to: usize, scratch: usize): void {
  pieces = from
  width = w
  height = h
  stride = step
  coverage = covered
  sides = sided
  sums = to
  weight = <f32>by
  reach = farthest
  outer = <f32>outward
  grow = <f32>growth
  rampWidth = <f32>(inward + outward)
  perWidth = inward + outward < 1e-6 ? 0 : <f32>(1 / (inward + outward))
  exactShare = <f32>share
  column = columnBytes(count)
  lists = (scratch + 15) & ~15
  distances = lists + column * COLUMNS * (LEVELS + 1)
  rows = distances + column
  courses = rows + <usize>count * ROW_BYTES
  signs(count)
  const all = lists + column * COLUMNS * LEVELS
  for (let i = 0; i < count; i++) {
    const piece = pieces + <usize>i * PIECE_BYTES
    const entry = all + (<usize>i << 2)
    const dx = load<f64>(piece, 16) - load<f64>(piece)
    const dy = load<f64>(piece, 24) - load<f64>(piece, 8)
    store<f32>(entry, <f32>(load<f64>(piece) + 0.5 * dx))
    store<f32>(entry + column, <f32>(load<f64>(piece, 8) + 0.5 * dy))
    const length = Math.sqrt(dx * dx + dy * dy)
    store<f32>(entry + 2 * column, <f32>(0.5 * length))
    const course = courses + <usize>i * COURSE_BYTES
    // So short that its direction vanishes, a piece is as good as its first end.
    const inverse = length > 1e-15 ? 1 / length : 0
    store<f64>(course, dx * inverse)
    store<f64>(course, dy * inverse, 8)
    store<f64>(course, length > 1e-15 ? length : 0, 16)
    store<i32>(entry + 3 * column, i)
  }
  fill(all, count)
  for (let y = 0; y < height; y += ROOT) {
    for (let x = 0; x < width; x += ROOT) block(x, y, ROOT, 0, all, count)
  }
}

/** Entries up to a multiple of four that no block keeps. */
@inline
function fill(list: usize, count: i32): void {
  for (let n = count; n & 3; n++) {
    const entry = list + (<usize>n << 2)
    store<f32>(entry, Infinity)
    store<f32>(entry + column, 0)
    store<f32>(entry + 2 * column, 0)
  }
}

/** Finds on which side of the outline each pixel's centre lies. */
function signs(count: i32): void {
  memory.fill(sides, 0, (<usize>stride * <usize>((height + LEAF - 1) & ~(LEAF - 1))) << 2)
  for (let i = 0; i < count; i++) {
    const at = pieces + <usize>i * PIECE_BYTES
    const isDown = load<f64>(at, 24) > load<f64>(at, 8)
    const upper = isDown ? at : at + 16
    const lower = isDown ? at + 16 : at
    const x0 = load<f64>(upper)
    const y0 = load<f64>(upper, 8)
    const y1 = load<f64>(lower, 8)
    if (y0 == y1) continue
    const slope = (load<f64>(lower) - x0) / (y1 - y0)
    const end = <i32>Math.min(<f64>height, Math.ceil(y1 - 0.5))
    for (let row = <i32>Math.max(0, Math.ceil(y0 - 0.5)); row < end; row++) {
      const column = Math.max(0, Math.ceil(x0 + (<f64>row + 0.5 - y0) * slope - 0.5))
      if (column >= <f64>width) continue
      const pixel = sides + ((<usize>row * stride + <usize>column) << 2)
      store<f32>(pixel, load<f32>(pixel) + (isDown ? <f32>1 : <f32>-1))
    }
  }
  for (let row = 0; row < height; row++) {
    let winding: f32 = 0
    let pixel = sides + ((<usize>row * stride) << 2)
    for (const end = pixel + (<usize>stride << 2); pixel < end; pixel += 16) {
      const four = v128.load(pixel)
      if (!v128.any_true(four)) {
        v128.store(pixel, f32x4.splat(winding > 0 ? -1 : 1))
        continue
      }
      for (let i: usize = 0; i < 16; i += 4) {
        winding += load<f32>(pixel + i)
        store<f32>(pixel + i, winding > 0 ? -1 : 1)
      }
    }
  }
}

/** One block of pixels, from the pieces that its parent kept. */
function block(x: i32, y: i32, size: i32, level: i32, parent: usize, count: i32): void {
  const cx = f32x4.splat(<f32>x + 0.5 * <f32>size)
  const cy = f32x4.splat(<f32>y + 0.5 * <f32>size)
  let nearest = f32x4.splat(Infinity)
  let farthest = nearest
  const end = <usize>count << 2
  for (let n: usize = 0; n < end; n += 16) {
    const dx = f32x4.sub(cx, v128.load(parent + n))
    const dy = f32x4.sub(cy, v128.load(parent + column + n))
    const middle = f32x4.sqrt(f32x4.add(f32x4.mul(dx, dx), f32x4.mul(dy, dy)))
    const half = v128.load(parent + 2 * column + n)
    const near = f32x4.sub(middle, half)
    v128.store(distances + n, near)
    nearest = f32x4.pmin(nearest, near)
    farthest = f32x4.pmin(farthest, f32x4.add(middle, half))
  }
  const half: f32 = <f32>(0.5 * Math.SQRT2) * <f32>(size - 1)
  if (least(nearest) - half >= <f32>reach) return plain(x, y, size)
  // A hair more than the bound, for what rounding takes.
  const limit = min(least(farthest) + 2 * half, <f32>reach + half) + ROUNDING
  const own = lists + column * COLUMNS * level
  let kept: usize = 0
  const limits = f32x4.splat(limit)
  for (let four: usize = 0; four < end; four += 16) {
    const near = f32x4.le(v128.load(distances + four), limits)
    if (!v128.any_true(near)) continue
    const which = i32x4.bitmask(near)
    for (let i: usize = 0; i < 4; i++) {
      if (!((which >> <i32>i) & 1)) continue
      const entry = own + kept
      const from = parent + four + (i << 2)
      store<f32>(entry, load<f32>(from))
      store<f32>(entry + column, load<f32>(from + column))
      store<f32>(entry + 2 * column, load<f32>(from + 2 * column))
      store<i32>(entry + 3 * column, load<i32>(from + 3 * column))
      kept += 4
    }
  }
  const left = <i32>(kept >> 2)
  if (size == LEAF) return leaf(x, y, own + 3 * column, left)
  fill(own, left)
  const quarter = size >> 1
  for (let i = 0; i < 4; i++) {
    const qx = x + (i & 1) * quarter
    const qy = y + (i >> 1) * quarter
    if (qx < width && qy < height) block(qx, qy, quarter, level + 1, own, left)
  }
}

/** Pixels by which 32 bits may be wrong about where a piece of a large picture lies. */
const ROUNDING: f32 = 0.01

@inline
function least(four: v128): f32 {
  return min(
    min(f32x4.extract_lane(four, 0), f32x4.extract_lane(four, 1)),
    min(f32x4.extract_lane(four, 2), f32x4.extract_lane(four, 3)),
  )
}

/** Pixels out of the edge's reach are all inside or all outside. */
function plain(x: i32, y: i32, size: i32): void {
  if (load<f32>(sides + ((<usize>y * stride + <usize>x) << 2)) > 0) return
  const more = f32x4.splat(weight)
  const bottom = min(y + size, (height + LEAF - 1) & ~(LEAF - 1))
  const columns = min(size, stride - x)
  for (let row = y; row < bottom; row++) {
    let pixel = sums + ((<usize>row * stride + <usize>x) << 2)
    for (const end = pixel + (<usize>columns << 2); pixel < end; pixel += 16) {
      v128.store(pixel, f32x4.add(v128.load(pixel), more))
    }
  }
}

function leaf(x: i32, y: i32, list: usize, count: i32): void {
  const cx = <f64>x + 0.5 * <f64>LEAF
  const cy = <f64>y + 0.5 * <f64>LEAF
  let row = rows
  let nearest: f32 = Infinity
  for (let n = 0; n < count; n++) {
    const i = load<i32>(list + (<usize>n << 2))
    const piece = pieces + <usize>i * PIECE_BYTES
    const course = courses + <usize>i * COURSE_BYTES
    const ux = load<f64>(course)
    const uy = load<f64>(course, 8)
    const length = load<f64>(course, 16)
    // Seen from the piece's nearest place, so that all numbers are small however long the piece is.
    const ax = load<f64>(piece) - cx
    const ay = load<f64>(piece, 8) - cy
    const along = min(length, max(0, -ax * ux - ay * uy))
    const px = <f32>(ax + along * ux)
    const py = <f32>(ay + along * uy)
    store<f32>(row, px)
    store<f32>(row, py, 4)
    store<f32>(row, <f32>ux, 8)
    store<f32>(row, <f32>uy, 12)
    store<f32>(row, <f32>-along, 16)
    store<f32>(row, <f32>(length - along), 20)
    const distance = sqrt<f32>(px * px + py * py)
    store<f32>(row, distance, 24)
    nearest = min(nearest, distance)
    row += ROW_BYTES
  }
  // Now that the nearest is known exactly, fewer can be.
  const limit = nearest + <f32>(Math.SQRT2 * <f64>(LEAF - 1)) + ROUNDING
  let end = rows
  const last = row
  for (let from = rows; from < last; from += ROW_BYTES) {
    if (load<f32>(from, 24) > limit) continue
    if (from != end) memory.copy(end, from, ROW_BYTES)
    end += ROW_BYTES
  }
  const one = f32x4.splat(1)
  const left = f32x4(-3.5, -2.5, -1.5, -0.5)
  const right = f32x4(0.5, 1.5, 2.5, 3.5)
  for (let line: usize = 0; line < LEAF_BYTES; line += 16) v128.store(nearests + line, f32x4.splat(Infinity))
  for (let from = rows; from < end; from += ROW_BYTES) {
    const ux = v128.load32_splat(from, 8)
    const uy = v128.load32_splat(from, 12)
    const first = v128.load32_splat(from, 16)
    const past = v128.load32_splat(from, 20)
    const fromX = v128.load32_splat(from)
    const leftX = f32x4.sub(left, fromX)
    const rightX = f32x4.sub(right, fromX)
    // Along the piece and across it, by what the columns and what the row give.
    const leftAlong = f32x4.mul(leftX, ux)
    const rightAlong = f32x4.mul(rightX, ux)
    const leftAcross = f32x4.mul(leftX, uy)
    const rightAcross = f32x4.mul(rightX, uy)
    let fromY = f32x4.sub(f32x4.splat(-3.5), v128.load32_splat(from, 4))
    for (let line: usize = 0; line < LEAF_BYTES; line += 32) {
      const rowAlong = f32x4.mul(fromY, uy)
      const rowAcross = f32x4.mul(fromY, ux)
      const alongLeft = f32x4.add(leftAlong, rowAlong)
      const alongRight = f32x4.add(rightAlong, rowAlong)
      const acrossLeft = f32x4.sub(leftAcross, rowAcross)
      const acrossRight = f32x4.sub(rightAcross, rowAcross)
      let beyond = f32x4.sub(alongLeft, f32x4.pmin(past, f32x4.pmax(first, alongLeft)))
      let squared = f32x4.add(f32x4.mul(beyond, beyond), f32x4.mul(acrossLeft, acrossLeft))
      v128.store(nearests + line, f32x4.pmin(v128.load(nearests + line), squared))
      beyond = f32x4.sub(alongRight, f32x4.pmin(past, f32x4.pmax(first, alongRight)))
      squared = f32x4.add(f32x4.mul(beyond, beyond), f32x4.mul(acrossRight, acrossRight))
      v128.store(nearests + line, f32x4.pmin(v128.load(nearests + line, 16), squared), 16)
      fromY = f32x4.add(fromY, one)
    }
  }
  let at = (<usize>y * stride + <usize>x) << 2
  for (let line: usize = 0; line < LEAF_BYTES; line += 32, at += <usize>stride << 2) {
    put(at, v128.load(nearests + line))
    put(at + 16, v128.load(nearests + line, 16))
  }
}

/** Squared distances of a leaf's pixels. */
const LEAF_BYTES: usize = 4 * 64
const nearests: usize = memory.data(4 * 64, 16)

/** Alpha of four pixels by their squared distances; what lies out of reach is all or nothing. */
@inline
function put(at: usize, squared: v128): void {
  const sign = v128.load(sides + at)
  const none = f32x4.splat(0)
  const one = f32x4.splat(1)
  const half = f32x4.splat(0.5)
  const distance = f32x4.mul(f32x4.sqrt(squared), sign)
  const grown = f32x4.sub(distance, f32x4.splat(grow))
  let alpha: v128
  if (perWidth == 0) alpha = f32x4.sub(half, grown)
  else {
    const reached = f32x4.sub(f32x4.splat(outer), grown)
    const upper = integral(f32x4.mul(f32x4.add(reached, half), f32x4.splat(perWidth)))
    const lower = integral(f32x4.mul(f32x4.sub(reached, half), f32x4.splat(perWidth)))
    alpha = f32x4.mul(f32x4.splat(rampWidth), f32x4.sub(upper, lower))
  }
  alpha = f32x4.pmin(one, f32x4.pmax(none, alpha))
  if (exactShare > 0) {
    const hard = f32x4.pmin(one, f32x4.pmax(none, f32x4.sub(half, distance)))
    const more = f32x4.mul(f32x4.splat(exactShare), f32x4.sub(v128.load(coverage + at), hard))
    alpha = f32x4.pmin(one, f32x4.pmax(none, f32x4.add(alpha, more)))
  }
  const isFar = f32x4.ge(squared, f32x4.splat(<f32>(reach * reach)))
  alpha = v128.bitselect(f32x4.sub(half, f32x4.mul(half, sign)), alpha, isFar)
  v128.store(sums + at, f32x4.add(v128.load(sums + at), f32x4.mul(alpha, f32x4.splat(weight))))
}

/** Integral of the clamped smooth step from 0 to s. */
@inline
function integral(s: v128): v128 {
  const c = f32x4.pmin(f32x4.splat(1), f32x4.pmax(f32x4.splat(0), s))
  const cubed = f32x4.mul(f32x4.mul(c, c), c)
  const bent = f32x4.sub(cubed, f32x4.mul(f32x4.splat(0.5), f32x4.mul(cubed, c)))
  return f32x4.add(bent, f32x4.pmax(f32x4.splat(0), f32x4.sub(s, f32x4.splat(1))))
}
