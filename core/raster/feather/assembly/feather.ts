// Feather in AssemblyScript: the alpha that plainFeather.ts computes, in 32-bit floats, four pixels at a time.
//
// The nearest piece of every pixel is found exactly, and each pixel looks at few: the nearest place of a pixel lies inside a
// piece, between the normals at its two ends, or it is the corner of two pieces, and then the pixel lies between the normal at the
// end of the one and that at the start of the next (Mauch, "A Fast Algorithm for Computing the Closest Point and Distance
// Transform", 2000). So each piece looks at the pixels from its first normal to the first normal of the next piece.

const PIECE_BYTES: usize = 32

/** First byte that the caller may use. */
export function firstFreeByte(): usize {
  return (__heap_base + 15) & ~15
}

let pieces: usize = 0
/** Squared distance of every pixel's centre to the nearest piece, at most the square of the reach. */
let squares: usize = 0
let width: i32 = 0
let height: i32 = 0
let stride: i32 = 0
let coverage: usize = 0
/** By how much the winding number changes from the centre of the pixel before to that of each pixel; all 0 between two calls. */
let turns: usize = 0
/** Alpha of every pixel, added up. */
let sums: usize = 0
let weight: f32 = 0
let isFirst: bool = false
let reach: f64 = 0
let outer: f32 = 0
let grow: f32 = 0
/** The integral of the ramp from 0 to s is s^2 (a + b s + c s^2). */
let squareShare: f32 = 0
let cubeShare: f32 = 0
let fourthShare: f32 = 0
let isSmooth: bool = true
let rampWidth: f32 = 0
let perWidth: f32 = 0
let exactShare: f32 = 0

/**
 * Adds the alpha of a region's soft edge with a weight.
 *
 * @param from    pieces x0, y0, x1, y1, 64 bits, in pixels of the picture, in place moved by `left` and `top`; `next` of each the index of the one that goes on from
 *                its end, -1 where that is not known of both of its ends
 * @param inward  reach of the ramp inside, and `outward` outside, pixels; `growth` moves the edge outwards
 * @param a, b, c  of the integral of the ramp: s^2 (a + b s + c s^2)
 * @param share   of the exact coverage where the widths nearly vanish; 0: `covered` is not looked at
 * @param step    numbers from a row to the next in `covered`, `turned`, `squared` and `to`, a multiple of 4
 * @param turned  all 0, and so again afterwards
 * @param first   whatever is in `to` is written over
 */
export function add(from: usize, next: usize, count: i32, left: f64, top: f64, w: i32, h: i32, step: i32, inward: f64, outward: f64, growth: f64, a: f64, b: f64, c: f64, farthest: f64, share: f64, by: f64, covered: usize, turned: usize, squared: usize, to: usize, first: bool): void {
  pieces = from
  width = w
  height = h
  stride = step
  coverage = covered
  turns = turned
  isFirst = first
  sums = to
  weight = <f32>by
  reach = farthest
  outer = <f32>outward
  grow = <f32>growth
  squareShare = <f32>a
  cubeShare = <f32>b
  fourthShare = <f32>c
  isSmooth = a == 0 && b == 1 && c == -0.5
  rampWidth = <f32>(inward + outward)
  perWidth = inward + outward < 1e-6 ? 0 : <f32>(1 / (inward + outward))
  exactShare = <f32>share
  squares = squared
  const box = f64x2(left, top)
  for (let at = pieces, last = pieces + <usize>count * PIECE_BYTES; at < last; at += 16) v128.store(at, f64x2.sub(v128.load(at), box)) // prettier-ignore
  markTurns(count)
  const end = <usize>(stride * height) << 2
  const farSquared = f32x4.splat(<f32>(reach * reach))
  for (let at: usize = 0; at < end; at += 16) v128.store(squares + at, farSquared)
  for (let i = 0; i < count; i++) look(pieces + <usize>i * PIECE_BYTES, load<i32>(next + (<usize>i << 2)))
  for (let row = 0; row < height; row++) putRow(<usize>(row * stride) << 2)
}

/** Pixels by which a piece looks farther than it must. */
const MARGIN: f64 = 0.01
/** Directions that go less far to the side than this bound no row. */
const UPRIGHT: f64 = 0.02
/** A piece longer than this, in pixels, is looked at in parts, so that 32 bits are enough for what is measured from its start. */
const LONGEST: f64 = 16
/** Farther than any pixel. */
const BEYOND: f64 = 1e6

function look(piece: usize, next: i32): void {
  const ay = load<f64>(piece, 8)
  const by = load<f64>(piece, 24)
  if (min(ay, by) - reach > <f64>height || max(ay, by) + reach < 0) return
  const ax = load<f64>(piece)
  const bx = load<f64>(piece, 16)
  const length = Math.sqrt((bx - ax) * (bx - ax) + (by - ay) * (by - ay))
  // So short that its direction vanishes, a piece is as good as its first end.
  const inverse = length > 1e-15 ? 1 / length : 0
  const ux = (bx - ax) * inverse
  const uy = (by - ay) * inverse
  const isJoined = next >= 0 && length > 1e-15
  let vx = ux
  let vy = uy
  if (isJoined) {
    const follower = pieces + <usize>next * PIECE_BYTES
    vx = load<f64>(follower, 16) - load<f64>(follower)
    vy = load<f64>(follower, 24) - load<f64>(follower, 8)
    const perLength = 1 / Math.sqrt(vx * vx + vy * vy)
    vx *= perLength
    vy *= perLength
  }
  const parts = <i32>Math.ceil(length / LONGEST)
  if (parts <= 1) return lookPart(ax, ay, length > 1e-15 ? length : 0, ux, uy, vx, vy, isJoined)
  const part = length / <f64>parts
  for (let i = 0; i < parts - 1; i++) {
    lookPart(ax + <f64>i * part * ux, ay + <f64>i * part * uy, part, ux, uy, ux, uy, isJoined)
  }
  lookPart(bx - part * ux, by - part * uy, part, ux, uy, vx, vy, isJoined)
}

/**
 * Gives the pixels that a piece, or its corner with the next one, can be nearest to their squared distances.
 *
 * @param ax, ay    first end; `ux, uy` the direction of the piece, `vx, vy` that of the next one
 * @param isJoined  false: nothing is known of what lies at its ends, so it looks everywhere in reach
 */
function lookPart(ax: f64, ay: f64, length: f64, ux: f64, uy: f64, vx: f64, vy: f64, isJoined: bool): void {
  const bx = ax + length * ux
  const by = ay + length * uy
  const turnsLittle = isJoined && ux * vx + uy * vy > 0
  // Between two normals of one quadrant none rises higher than the steeper of them.
  const rise = turnsLittle && uy * vy > 0 ? reach * Math.max(Math.abs(ux), Math.abs(vx)) : reach
  const first = max(0, <i32>Math.ceil(Math.min(ay, by) - rise - MARGIN - 0.5))
  const last = min(height - 1, <i32>Math.floor(Math.max(ay, by) + rise + MARGIN - 0.5))
  const isBounded = turnsLittle && ux * vx > 0 && Math.abs(ux) > UPRIGHT && Math.abs(vx) > UPRIGHT
  const isRightward = ux > 0
  const way: f64 = isRightward ? 1 : -1
  // Bounds of a row, from the whole pixels of the first end: where they are at its height, and how they move with every row.
  const wholeX = Math.floor(ax)
  const wholeY = Math.floor(ay)
  const originX = ax - wholeX
  const ownSlope = isBounded ? -uy / ux : 0
  const nextSlope = isBounded ? -vy / vx : 0
  const start = isBounded ? originX - MARGIN / ux : -BEYOND * way
  const own = isBounded ? bx - wholeX - (by - ay) * ownSlope + MARGIN / ux : BEYOND * way
  const then = isBounded ? bx - wholeX - (by - ay) * nextSlope + MARGIN / vx : BEYOND * way
  const isBanded = Math.abs(uy) > UPRIGHT
  const bandSlope = isBanded ? ux / uy : 0
  const bandHalf = isBanded ? (reach + MARGIN) / Math.abs(uy) : BEYOND
  const starts = f32x4.splat(<f32>start)
  const owns = f32x4.splat(<f32>own)
  const thens = f32x4.splat(<f32>then)
  const ownSlopes = f32x4.splat(<f32>ownSlope)
  const nextSlopes = f32x4.splat(<f32>nextSlope)
  const bandSlopes = f32x4.splat(<f32>bandSlope)
  const bandLefts = f32x4.splat(<f32>(originX - bandHalf))
  const bandRights = f32x4.splat(<f32>(originX + bandHalf))
  const leftmost = f32x4.splat(<f32>(Math.min(ax, bx) - reach - wholeX))
  const rightmost = f32x4.splat(<f32>(Math.max(ax, bx) + reach - wholeX))
  const column = <i32>wholeX
  const columns = i32x4.splat(column)
  const lastColumn = i32x4.splat(width - 1)
  const centreX = f64x2.splat(0.5 - originX)
  const centreY = f64x2(0.5 - ay, 1.5 - ay)
  const exactRight = f64x2.splat(ux)
  const exactDown = f64x2.splat(uy)
  const exactLength = f64x2.splat(length)
  const half = f32x4.splat(0.5)
  const right = f32x4.splat(<f32>ux)
  const down = f32x4.splat(<f32>uy)
  const bytes = <usize>stride << 2
  let y = f32x4.add(f32x4.splat(<f32>(<f64>first - wholeY + (0.5 - (ay - wholeY)))), f32x4(0, 1, 2, 3))
  for (let row = first; row <= last; row += 4) {
    const start = f32x4.add(starts, f32x4.mul(y, ownSlopes))
    const own = f32x4.add(owns, f32x4.mul(y, ownSlopes))
    const then = f32x4.add(thens, f32x4.mul(y, nextSlopes))
    const middle = f32x4.mul(y, bandSlopes)
    let lo = f32x4.pmax(leftmost, f32x4.add(middle, bandLefts))
    let hi = f32x4.pmin(rightmost, f32x4.add(middle, bandRights))
    if (isRightward) {
      lo = f32x4.pmax(lo, start)
      hi = f32x4.pmin(hi, f32x4.pmax(own, then))
    } else {
      lo = f32x4.pmax(lo, f32x4.pmin(own, then))
      hi = f32x4.pmin(hi, start)
    }
    const low = i32x4.add(columns, i32x4.trunc_sat_f32x4_s(f32x4.floor(f32x4.add(lo, half))))
    const high = i32x4.add(columns, i32x4.trunc_sat_f32x4_s(f32x4.floor(f32x4.sub(hi, half))))
    const from = v128.and(i32x4.max_s(low, i32x4.splat(0)), i32x4.splat(~3))
    const to = i32x4.min_s(high, lastColumn)
    // Along the piece and across it at the first pixel of each row, in 64 bits; what the others add is small.
    const offset = i32x4.sub(from, columns)
    const x0 = f64x2.add(f64x2.convert_low_i32x4_s(offset), centreX)
    const x2 = f64x2.add(f64x2.convert_low_i32x4_s(i32x4.shuffle(offset, offset, 2, 3, 2, 3)), centreX)
    const y0 = f64x2.add(f64x2.splat(<f64>row), centreY)
    const y2 = f64x2.add(y0, f64x2.splat(2))
    const along0 = f64x2.add(f64x2.mul(x0, exactRight), f64x2.mul(y0, exactDown))
    const along2 = f64x2.add(f64x2.mul(x2, exactRight), f64x2.mul(y2, exactDown))
    const across0 = f64x2.sub(f64x2.mul(x0, exactDown), f64x2.mul(y0, exactRight))
    const across2 = f64x2.sub(f64x2.mul(x2, exactDown), f64x2.mul(y2, exactRight))
    const before = f32x4.neg(inFour(along0, along2))
    const after = inFour(f64x2.sub(along0, exactLength), f64x2.sub(along2, exactLength))
    const across = inFour(across0, across2)
    const at = squares + <usize>row * bytes
    lookAlong(at, i32x4.extract_lane(from, 0), i32x4.extract_lane(to, 0), f32x4.shuffle(before, before, 0, 0, 0, 0), f32x4.shuffle(after, after, 0, 0, 0, 0), f32x4.shuffle(across, across, 0, 0, 0, 0), right, down) // prettier-ignore
    if (row + 1 <= last) lookAlong(at + bytes, i32x4.extract_lane(from, 1), i32x4.extract_lane(to, 1), f32x4.shuffle(before, before, 1, 1, 1, 1), f32x4.shuffle(after, after, 1, 1, 1, 1), f32x4.shuffle(across, across, 1, 1, 1, 1), right, down) // prettier-ignore
    if (row + 2 <= last) lookAlong(at + 2 * bytes, i32x4.extract_lane(from, 2), i32x4.extract_lane(to, 2), f32x4.shuffle(before, before, 2, 2, 2, 2), f32x4.shuffle(after, after, 2, 2, 2, 2), f32x4.shuffle(across, across, 2, 2, 2, 2), right, down) // prettier-ignore
    if (row + 3 <= last) lookAlong(at + 3 * bytes, i32x4.extract_lane(from, 3), i32x4.extract_lane(to, 3), f32x4.shuffle(before, before, 3, 3, 3, 3), f32x4.shuffle(after, after, 3, 3, 3, 3), f32x4.shuffle(across, across, 3, 3, 3, 3), right, down) // prettier-ignore
    y = f32x4.add(y, f32x4.splat(4))
  }
}

@inline
function inFour(low: v128, high: v128): v128 {
  return i64x2.shuffle(f32x4.demote_f64x2_zero(low), f32x4.demote_f64x2_zero(high), 0, 2)
}

/** Pixels from the column `from`, a multiple of four, to `to` of a row; `before`, `after` and `across` of its first one. */
@inline
function lookAlong(row: usize, from: i32, to: i32, before: v128, after: v128, across: v128, right: v128, down: v128): void {
  let on = f32x4(0, 1, 2, 3)
  let at = row + (<usize>from << 2)
  for (let column = from; column <= to; column += 4, at += 16) {
    const onward = f32x4.mul(on, right)
    const off = f32x4.add(across, f32x4.mul(on, down))
    const beyond = f32x4.pmax(f32x4.splat(0), f32x4.pmax(f32x4.sub(before, onward), f32x4.add(after, onward)))
    v128.store(at, f32x4.pmin(v128.load(at), f32x4.add(f32x4.mul(off, off), f32x4.mul(beyond, beyond))))
    on = f32x4.add(on, f32x4.splat(4))
  }
}

/** Marks where the rows of pixel centres pass an outline. */
function markTurns(count: i32): void {
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
      const pixel = turns + ((<usize>row * stride + <usize>column) << 2)
      store<f32>(pixel, load<f32>(pixel) + (isDown ? <f32>1 : <f32>-1))
    }
  }
}

/** Alpha of a row of pixels, four at a time: 1 for the sign of those whose centre lies outside, -1 inside. */
@inline
function putRow(from: usize): void {
  const outside = f32x4.splat(1)
  const inside = f32x4.splat(-1)
  let winding: f32 = 0
  for (let at = from, end = from + (<usize>stride << 2); at < end; at += 16) {
    const turned = v128.load(turns + at)
    let sign = winding > 0 ? inside : outside
    if (v128.any_true(turned)) {
      v128.store(turns + at, i32x4.splat(0))
      const one = winding + f32x4.extract_lane(turned, 0)
      const two = one + f32x4.extract_lane(turned, 1)
      const three = two + f32x4.extract_lane(turned, 2)
      winding = three + f32x4.extract_lane(turned, 3)
      let windings = f32x4.replace_lane(f32x4.splat(one), 1, two)
      windings = f32x4.replace_lane(f32x4.replace_lane(windings, 2, three), 3, winding)
      sign = v128.bitselect(inside, outside, f32x4.gt(windings, f32x4.splat(0)))
    }
    const alpha = f32x4.mul(alphaOf(at, v128.load(squares + at), sign), f32x4.splat(weight))
    v128.store(sums + at, isFirst ? alpha : f32x4.add(v128.load(sums + at), alpha))
  }
}

/** Alpha of four pixels by their squared distances; what lies out of reach is all or nothing. */
@inline
function alphaOf(at: usize, squared: v128, sign: v128): v128 {
  const none = f32x4.splat(0)
  const one = f32x4.splat(1)
  const half = f32x4.splat(0.5)
  const isFar = f32x4.ge(squared, f32x4.splat(<f32>(reach * reach)))
  const whole = f32x4.sub(half, f32x4.mul(half, sign))
  if (v128.all_true<i32>(isFar)) return whole
  const distance = f32x4.mul(f32x4.sqrt(squared), sign)
  const grown = f32x4.sub(distance, f32x4.splat(grow))
  let alpha: v128
  if (perWidth == 0) alpha = f32x4.sub(half, grown)
  else alpha = ramp(f32x4.mul(f32x4.sub(f32x4.splat(outer), grown), f32x4.splat(perWidth)))
  alpha = f32x4.pmin(one, f32x4.pmax(none, alpha))
  if (exactShare > 0) {
    const hard = f32x4.pmin(one, f32x4.pmax(none, f32x4.sub(half, distance)))
    const more = f32x4.mul(f32x4.splat(exactShare), f32x4.sub(v128.load(coverage + at), hard))
    alpha = f32x4.pmin(one, f32x4.pmax(none, f32x4.add(alpha, more)))
  }
  return v128.bitselect(whole, alpha, isFar)
}

/** Mean of the ramp over a pixel around s. */
@inline
function ramp(s: v128): v128 {
  if (isSmooth) return smoothRamp(s)
  const d = f32x4.splat(0.5 * perWidth)
  return f32x4.mul(f32x4.splat(rampWidth), f32x4.sub(integral(f32x4.add(s, d)), integral(f32x4.sub(s, d))))
}

/**
 * Mean of the smooth step over a pixel around s, of which the pixel takes 1 / rampWidth. Taken from the nearer end, so that
 * small differences are not those of large numbers; away from the ends the mean is s^2 (3 - 2s) + d^2 (1 - 2s) with d half of
 * the pixel.
 */
@inline
function smoothRamp(s: v128): v128 {
  const one = f32x4.splat(1)
  const d = f32x4.splat(0.5 * perWidth)
  const isUpper = f32x4.gt(s, f32x4.splat(0.5))
  const m = v128.bitselect(f32x4.sub(one, s), s, isUpper)
  const rest = f32x4.sub(one, f32x4.add(m, m))
  let mean = f32x4.add(f32x4.mul(f32x4.mul(m, m), f32x4.add(rest, f32x4.splat(2))), f32x4.mul(f32x4.mul(d, d), rest))
  const isAtEnd = f32x4.lt(m, d)
  if (v128.any_true(isAtEnd)) {
    const ends = f32x4.mul(f32x4.splat(rampWidth), f32x4.sub(integral(f32x4.add(m, d)), integral(f32x4.sub(m, d))))
    mean = v128.bitselect(ends, mean, isAtEnd)
  }
  return v128.bitselect(f32x4.sub(one, mean), mean, isUpper)
}

/** Integral of the clamped ramp from 0 to s. */
@inline
function integral(s: v128): v128 {
  const c = f32x4.pmin(f32x4.splat(1), f32x4.pmax(f32x4.splat(0), s))
  const bent = f32x4.add(f32x4.splat(cubeShare), f32x4.mul(c, f32x4.splat(fourthShare)))
  const shares = f32x4.add(f32x4.splat(squareShare), f32x4.mul(c, bent))
  return f32x4.add(f32x4.mul(f32x4.mul(c, c), shares), f32x4.pmax(f32x4.splat(0), f32x4.sub(s, f32x4.splat(1))))
}
