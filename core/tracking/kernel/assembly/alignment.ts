// The inner loops of alignment in AssemblyScript, four samples at a time. They compute what PlainKernel computes, in
// 32-bit floats; sums go over to 64 bits block by block. All pointers are 16-byte aligned; arrays of samples are padded
// to a multiple of four with positions that are not numbers, which count as outside the picture.

/** Samples whose sums are kept in 32 bits before they go over to 64. */
const BLOCK: i32 = 128
const BLOCK_BYTES: usize = 4 * 128
/** Most rows of the normal equations: eight parameters, gain and bias. */
const MOST_ROWS: i32 = 10

/** First byte that the caller may use. */
export function firstFreeByte(): usize {
  return (__heap_base + 15) & ~15
}

/** Bytes of room that {@link normalEquations} needs for the rows of a block, plain and weighted, and the residuals. */
export function scratchBytes(): usize {
  return (2 * MOST_ROWS + 1) * BLOCK_BYTES
}

// Catmull-Rom weights of the four neighbours at a fraction f.
// @ts-ignore: decorator
@inline
function weightA(f: v128): v128 {
  return f32x4.mul(f, f32x4.add(f32x4.splat(-0.5), f32x4.mul(f, f32x4.sub(f32x4.splat(1), f32x4.mul(f32x4.splat(0.5), f)))))
}
// @ts-ignore: decorator
@inline
function weightB(f: v128): v128 {
  return f32x4.add(f32x4.splat(1), f32x4.mul(f32x4.mul(f, f), f32x4.add(f32x4.splat(-2.5), f32x4.mul(f32x4.splat(1.5), f))))
}
// @ts-ignore: decorator
@inline
function weightC(f: v128): v128 {
  return f32x4.mul(f, f32x4.add(f32x4.splat(0.5), f32x4.mul(f, f32x4.sub(f32x4.splat(2), f32x4.mul(f32x4.splat(1.5), f)))))
}
// @ts-ignore: decorator
@inline
function weightD(f: v128): v128 {
  return f32x4.mul(f32x4.mul(f, f), f32x4.add(f32x4.splat(-0.5), f32x4.mul(f32x4.splat(0.5), f)))
}

/** Four neighbouring columns, each summed over its four rows. */
// @ts-ignore: decorator
@inline
function columns(at: usize, stride: usize, a: f32, b: f32, c: f32, d: f32): v128 {
  return f32x4.add(
    f32x4.add(f32x4.mul(v128.load(at), f32x4.splat(a)), f32x4.mul(v128.load(at + stride), f32x4.splat(b))),
    f32x4.add(
      f32x4.mul(v128.load(at + 2 * stride), f32x4.splat(c)),
      f32x4.mul(v128.load(at + 3 * stride), f32x4.splat(d)),
    ),
  )
}

/**
 * Residuals I(H x) - gain T(x) - bias of all samples, NaN outside the picture and where it is hidden; their absolute
 * values go to `distance` one behind the other.
 *
 * @param hidden  a byte for each pixel of the picture, or 0 when nothing is hidden
 * @param h00     and on: pattern coordinates to the picture's own pixels, centres on whole numbers
 * @returns how many samples are seen
 */
export function residuals(
  count: i32, u: usize, v: usize, value: usize,
  image: usize, width: i32, height: i32, hidden: usize,
  h00: f32, h01: f32, h02: f32, h10: f32, h11: f32, h12: f32, h20: f32, h21: f32, h22: f32,
  gain: f32, bias: f32, residual: usize, distance: usize,
): i32 {
  const one = f32x4.splat(1)
  const mostX = f32x4.splat(<f32>(width - 2))
  const mostY = f32x4.splat(<f32>(height - 2))
  const stride = <usize>width << 2
  const end = distance
  let next = distance
  for (let n: usize = 0; n < <usize>count << 2; n += 16) {
    const un = v128.load(u + n)
    const vn = v128.load(v + n)
    const w = f32x4.add(f32x4.add(f32x4.mul(f32x4.splat(h20), un), f32x4.mul(f32x4.splat(h21), vn)), f32x4.splat(h22))
    const px = f32x4.div(
      f32x4.add(f32x4.add(f32x4.mul(f32x4.splat(h00), un), f32x4.mul(f32x4.splat(h01), vn)), f32x4.splat(h02)), w)
    const py = f32x4.div(
      f32x4.add(f32x4.add(f32x4.mul(f32x4.splat(h10), un), f32x4.mul(f32x4.splat(h11), vn)), f32x4.splat(h12)), w)
    let seen = v128.and(
      v128.and(f32x4.ge(px, one), f32x4.ge(py, one)),
      v128.and(f32x4.lt(px, mostX), f32x4.lt(py, mostY)),
    )
    if (!v128.any_true(seen)) {
      v128.store(residual + n, f32x4.splat(NaN))
      continue
    }
    const x = v128.bitselect(px, one, seen)
    const y = v128.bitselect(py, one, seen)
    if (hidden != 0) {
      const half = f32x4.splat(0.5)
      const column = i32x4.trunc_sat_f32x4_s(f32x4.add(x, half))
      const row = i32x4.trunc_sat_f32x4_s(f32x4.add(y, half))
      const at = i32x4.add(i32x4.mul(row, i32x4.splat(width)), column)
      seen = v128.and(seen, i32x4.eq(i32x4(
        <i32>load<u8>(hidden + <usize>i32x4.extract_lane(at, 0)), <i32>load<u8>(hidden + <usize>i32x4.extract_lane(at, 1)),
        <i32>load<u8>(hidden + <usize>i32x4.extract_lane(at, 2)), <i32>load<u8>(hidden + <usize>i32x4.extract_lane(at, 3)),
      ), i32x4.splat(0)))
    }
    const wholeX = f32x4.floor(x)
    const wholeY = f32x4.floor(y)
    const fx = f32x4.sub(x, wholeX)
    const fy = f32x4.sub(y, wholeY)
    const first = i32x4.add(
      i32x4.mul(i32x4.sub(i32x4.trunc_sat_f32x4_s(wholeY), i32x4.splat(1)), i32x4.splat(width)),
      i32x4.sub(i32x4.trunc_sat_f32x4_s(wholeX), i32x4.splat(1)),
    )
    const ay = weightA(fy)
    const by = weightB(fy)
    const cy = weightC(fy)
    const dy = weightD(fy)
    const c0 = columns(image + (<usize>i32x4.extract_lane(first, 0) << 2), stride, f32x4.extract_lane(ay, 0), f32x4.extract_lane(by, 0), f32x4.extract_lane(cy, 0), f32x4.extract_lane(dy, 0))
    const c1 = columns(image + (<usize>i32x4.extract_lane(first, 1) << 2), stride, f32x4.extract_lane(ay, 1), f32x4.extract_lane(by, 1), f32x4.extract_lane(cy, 1), f32x4.extract_lane(dy, 1))
    const c2 = columns(image + (<usize>i32x4.extract_lane(first, 2) << 2), stride, f32x4.extract_lane(ay, 2), f32x4.extract_lane(by, 2), f32x4.extract_lane(cy, 2), f32x4.extract_lane(dy, 2))
    const c3 = columns(image + (<usize>i32x4.extract_lane(first, 3) << 2), stride, f32x4.extract_lane(ay, 3), f32x4.extract_lane(by, 3), f32x4.extract_lane(cy, 3), f32x4.extract_lane(dy, 3))
    // Turned, so that each vector holds one column of all four samples.
    const t0 = v128.shuffle<i32>(c0, c1, 0, 4, 1, 5)
    const t1 = v128.shuffle<i32>(c2, c3, 0, 4, 1, 5)
    const t2 = v128.shuffle<i32>(c0, c1, 2, 6, 3, 7)
    const t3 = v128.shuffle<i32>(c2, c3, 2, 6, 3, 7)
    const picture = f32x4.add(
      f32x4.add(
        f32x4.mul(weightA(fx), v128.shuffle<i64>(t0, t1, 0, 2)),
        f32x4.mul(weightB(fx), v128.shuffle<i64>(t0, t1, 1, 3)),
      ),
      f32x4.add(
        f32x4.mul(weightC(fx), v128.shuffle<i64>(t2, t3, 0, 2)),
        f32x4.mul(weightD(fx), v128.shuffle<i64>(t2, t3, 1, 3)),
      ),
    )
    const r = f32x4.sub(
      f32x4.sub(picture, f32x4.mul(f32x4.splat(gain), v128.load(value + n))),
      f32x4.splat(bias),
    )
    v128.store(residual + n, v128.bitselect(r, f32x4.splat(NaN), seen))
    const absolute = f32x4.abs(r)
    const lanes = i32x4.bitmask(seen)
    if (lanes == 15) {
      v128.store(next, absolute)
      next += 16
    } else {
      if (lanes & 1) { store<f32>(next, f32x4.extract_lane(absolute, 0)); next += 4 }
      if (lanes & 2) { store<f32>(next, f32x4.extract_lane(absolute, 1)); next += 4 }
      if (lanes & 4) { store<f32>(next, f32x4.extract_lane(absolute, 2)); next += 4 }
      if (lanes & 8) { store<f32>(next, f32x4.extract_lane(absolute, 3)); next += 4 }
    }
  }
  return <i32>((next - end) >> 2)
}

/** Median by Hoare's selection; reorders the values. */
export function median(values: usize, count: i32): f32 {
  let low: usize = values
  let high: usize = values + (<usize>(count - 1) << 2)
  const middle: usize = values + (<usize>(count >> 1) << 2)
  while (low < high) {
    const pivot = load<f32>(values + ((((low - values) + (high - values)) >> 3) << 2))
    let i = low
    let j = high
    while (i <= j) {
      while (load<f32>(i) < pivot) i += 4
      while (load<f32>(j) > pivot) j -= 4
      if (i <= j) {
        const swap = load<f32>(i)
        store<f32>(i, load<f32>(j))
        store<f32>(j, swap)
        i += 4
        j -= 4
      }
    }
    if (middle <= j) high = j
    else if (middle >= i) low = i
    else break
  }
  return load<f32>(middle)
}

/** Tukey's biweight of four residuals at four limits; 0 for NaN. */
// @ts-ignore: decorator
@inline
function biweight(r: v128, limit: v128): v128 {
  const ratio = f32x4.div(r, limit)
  const root = f32x4.sub(f32x4.splat(1), f32x4.mul(ratio, ratio))
  return v128.and(f32x4.mul(root, root), f32x4.lt(f32x4.abs(ratio), f32x4.splat(1)))
}

// @ts-ignore: decorator
@inline
function limitOf(steepness: usize, tukey: f32, noise: f32, slack: f32): v128 {
  return f32x4.mul(f32x4.splat(tukey),
    f32x4.add(f32x4.splat(noise), f32x4.mul(f32x4.splat(slack), v128.load(steepness))))
}

/** How far each cell is to be trusted, 0..1: 1 up to the share `trusted` of outliers, 0 from `distrusted` on. */
export function cellTrust(
  count: i32, residual: usize, steepness: usize, cell: usize, tukey: f32, noise: f32, slack: f32,
  cells: i32, trusted: f32, distrusted: f32, trust: usize, inCell: usize,
): void {
  memory.fill(trust, 0, <usize>cells << 2)
  memory.fill(inCell, 0, <usize>cells << 2)
  for (let n = 0; n < count; n++) {
    const r = load<f32>(residual + (<usize>n << 2))
    if (r != r) continue
    const at = <usize>load<u16>(cell + (<usize>n << 1)) << 2
    store<f32>(inCell + at, load<f32>(inCell + at) + 1)
    const limit = tukey * (noise + slack * load<f32>(steepness + (<usize>n << 2)))
    if (!(Mathf.abs(r) < limit)) store<f32>(trust + at, load<f32>(trust + at) + 1)
  }
  for (let c = 0; c < cells; c++) {
    const at = <usize>c << 2
    const outliers = load<f32>(trust + at) / max<f32>(1, load<f32>(inCell + at))
    store<f32>(trust + at, min<f32>(1, max<f32>(0, (distrusted - outliers) / (distrusted - trusted))))
  }
}

// @ts-ignore: decorator
@inline
function lanesSum(a: v128): f64 {
  return <f64>f32x4.extract_lane(a, 0) + <f64>f32x4.extract_lane(a, 1) + <f64>f32x4.extract_lane(a, 2) + <f64>f32x4.extract_lane(a, 3)
}

/** Adds a sum to an entry of 64-bit floats. */
// @ts-ignore: decorator
@inline
function addTo(at: usize, sum: v128): void {
  store<f64>(at, load<f64>(at) + lanesSum(sum))
}

/** Writes one row of a block, plain and weighted. */
// @ts-ignore: decorator
@inline
function putRow(plain: usize, weighted: usize, row: i32, at: usize, a: v128, w: v128): void {
  v128.store(plain + <usize>row * BLOCK_BYTES + at, a)
  v128.store(weighted + <usize>row * BLOCK_BYTES + at, f32x4.mul(w, a))
}

/**
 * Lower triangle of the weighted normal equations of a model's parameters, gain and bias, and their right side.
 *
 * @param parameters  2, 4, 6 or 8: position, similarity, affine, perspective
 * @param trust       weight of each cell, or 0 when all are trusted
 * @param normal      (parameters + 2)^2 64-bit floats; entries above the diagonal are not to be read
 */
export function normalEquations(
  parameters: i32, count: i32, u: usize, v: usize, gradientU: usize, gradientV: usize, value: usize,
  residual: usize, steepness: usize, cell: usize, trust: usize,
  gain: f32, tukey: f32, noise: f32, slack: f32, scratch: usize, normal: usize, right: usize,
): void {
  const rows = parameters + 2
  memory.fill(normal, 0, <usize>(rows * rows) << 3)
  memory.fill(right, 0, <usize>rows << 3)
  const plain = scratch
  const weighted = scratch + <usize>MOST_ROWS * BLOCK_BYTES
  const left = scratch + <usize>(2 * MOST_ROWS) * BLOCK_BYTES
  for (let start = 0; start < count; start += BLOCK) {
    const length = <usize>min(BLOCK, (count - start + 3) & ~3) << 2
    for (let at: usize = 0; at < length; at += 16) {
      const n = (<usize>start << 2) + at
      const r = v128.load(residual + n)
      let w = biweight(r, limitOf(steepness + n, tukey, noise, slack))
      if (trust != 0) {
        const cells = cell + (n >> 1)
        w = f32x4.mul(w, f32x4(
          load<f32>(trust + (<usize>load<u16>(cells) << 2)), load<f32>(trust + (<usize>load<u16>(cells, 2) << 2)),
          load<f32>(trust + (<usize>load<u16>(cells, 4) << 2)), load<f32>(trust + (<usize>load<u16>(cells, 6) << 2)),
        ))
      }
      // What is not seen has weight 0; times NaN that would be NaN again.
      v128.store(left + at, v128.and(r, f32x4.eq(r, r)))
      const seen = f32x4.eq(r, r)
      const un = v128.and(v128.load(u + n), seen)
      const vn = v128.and(v128.load(v + n), seen)
      const gu = f32x4.mul(v128.load(gradientU + n), f32x4.splat(gain))
      const gv = f32x4.mul(v128.load(gradientV + n), f32x4.splat(gain))
      if (parameters == 2) {
        putRow(plain, weighted, 0, at, gu, w)
        putRow(plain, weighted, 1, at, gv, w)
      } else if (parameters == 4) {
        putRow(plain, weighted, 0, at, gu, w)
        putRow(plain, weighted, 1, at, gv, w)
        putRow(plain, weighted, 2, at, f32x4.add(f32x4.mul(gu, un), f32x4.mul(gv, vn)), w)
        putRow(plain, weighted, 3, at, f32x4.sub(f32x4.mul(gv, un), f32x4.mul(gu, vn)), w)
      } else if (parameters == 6) {
        putRow(plain, weighted, 0, at, gu, w)
        putRow(plain, weighted, 1, at, gv, w)
        putRow(plain, weighted, 2, at, f32x4.mul(gu, un), w)
        putRow(plain, weighted, 3, at, f32x4.mul(gu, vn), w)
        putRow(plain, weighted, 4, at, f32x4.mul(gv, un), w)
        putRow(plain, weighted, 5, at, f32x4.mul(gv, vn), w)
      } else {
        const radial = f32x4.neg(f32x4.add(f32x4.mul(gu, un), f32x4.mul(gv, vn)))
        putRow(plain, weighted, 0, at, f32x4.mul(gu, un), w)
        putRow(plain, weighted, 1, at, f32x4.mul(gu, vn), w)
        putRow(plain, weighted, 2, at, gu, w)
        putRow(plain, weighted, 3, at, f32x4.mul(gv, un), w)
        putRow(plain, weighted, 4, at, f32x4.mul(gv, vn), w)
        putRow(plain, weighted, 5, at, gv, w)
        putRow(plain, weighted, 6, at, f32x4.mul(radial, un), w)
        putRow(plain, weighted, 7, at, f32x4.mul(radial, vn), w)
      }
      putRow(plain, weighted, parameters, at, v128.load(value + n), w)
      putRow(plain, weighted, parameters + 1, at, f32x4.splat(1), w)
    }
    for (let i = 0; i < rows; i++) {
      const weightedRow = weighted + <usize>i * BLOCK_BYTES
      const entries = normal + (<usize>(i * rows) << 3)
      let b = f32x4.splat(0)
      for (let at: usize = 0; at < length; at += 16) {
        b = f32x4.add(b, f32x4.mul(v128.load(weightedRow + at), v128.load(left + at)))
      }
      addTo(right + (<usize>i << 3), b)
      for (let j = 0; j <= i; j += 2) {
        const plainRow = plain + <usize>j * BLOCK_BYTES
        let s0 = f32x4.splat(0)
        let s1 = f32x4.splat(0)
        for (let at: usize = 0; at < length; at += 16) {
          const w = v128.load(weightedRow + at)
          s0 = f32x4.add(s0, f32x4.mul(w, v128.load(plainRow + at)))
          s1 = f32x4.add(s1, f32x4.mul(w, v128.load(plainRow + at, 4 * 128)))
        }
        addTo(entries + (<usize>j << 3), s0)
        // The number of rows is even, so the second entry is still one of this row.
        addTo(entries + (<usize>(j + 1) << 3), s1)
      }
    }
  }
}

/**
 * Sums for the judgement of a motion: samples that count, samples that agree, squares of the residuals of these, and of
 * those that count the sums of T, I, T^2, I^2, T I, as eight 64-bit floats.
 *
 * @param onlyAgreeing  whether only samples that agree count
 */
export function judgementSums(
  count: i32, residual: usize, steepness: usize, value: usize,
  gain: f32, bias: f32, tukey: f32, noise: f32, slack: f32, onlyAgreeing: bool, sums: usize,
): void {
  let seenCount = 0
  let agreeingCount = 0
  let squares = f64x2.splat(0)
  let st = f64x2.splat(0)
  let si = f64x2.splat(0)
  let stt = f64x2.splat(0)
  let sii = f64x2.splat(0)
  let sti = f64x2.splat(0)
  for (let n: usize = 0; n < <usize>count << 2; n += 16) {
    const r = v128.load(residual + n)
    const agrees = f32x4.lt(f32x4.abs(r), limitOf(steepness + n, tukey, noise, slack))
    const counts = onlyAgreeing ? agrees : f32x4.eq(r, r)
    agreeingCount += popcnt(i32x4.bitmask(agrees))
    seenCount += popcnt(i32x4.bitmask(counts))
    const value4 = v128.load(value + n)
    const t = v128.and(value4, counts)
    const i = v128.and(
      f32x4.add(f32x4.add(r, f32x4.mul(f32x4.splat(gain), value4)), f32x4.splat(bias)), counts)
    const own = v128.and(r, agrees)
    for (let half = 0; half < 2; half++) {
      const t2 = f64x2.promote_low_f32x4(half ? v128.shuffle<i64>(t, t, 1, 1) : t)
      const i2 = f64x2.promote_low_f32x4(half ? v128.shuffle<i64>(i, i, 1, 1) : i)
      const r2 = f64x2.promote_low_f32x4(half ? v128.shuffle<i64>(own, own, 1, 1) : own)
      squares = f64x2.add(squares, f64x2.mul(r2, r2))
      st = f64x2.add(st, t2)
      si = f64x2.add(si, i2)
      stt = f64x2.add(stt, f64x2.mul(t2, t2))
      sii = f64x2.add(sii, f64x2.mul(i2, i2))
      sti = f64x2.add(sti, f64x2.mul(t2, i2))
    }
  }
  store<f64>(sums, <f64>seenCount)
  store<f64>(sums + 8, <f64>agreeingCount)
  store<f64>(sums + 16, f64x2.extract_lane(squares, 0) + f64x2.extract_lane(squares, 1))
  store<f64>(sums + 24, f64x2.extract_lane(st, 0) + f64x2.extract_lane(st, 1))
  store<f64>(sums + 32, f64x2.extract_lane(si, 0) + f64x2.extract_lane(si, 1))
  store<f64>(sums + 40, f64x2.extract_lane(stt, 0) + f64x2.extract_lane(stt, 1))
  store<f64>(sums + 48, f64x2.extract_lane(sii, 0) + f64x2.extract_lane(sii, 1))
  store<f64>(sums + 56, f64x2.extract_lane(sti, 0) + f64x2.extract_lane(sti, 1))
}

/**
 * The picture at half its width and height by the kernel [1 3 3 1]/8; pixels beyond its edges are like those at them.
 *
 * @param rows  room for one row of the picture
 */
export function halve(from: usize, width: i32, height: i32, rows: usize, to: usize): void {
  const halfWidth = max(1, width >> 1)
  const halfHeight = max(1, height >> 1)
  const stride = <usize>width << 2
  const three = f32x4.splat(3)
  const eighth = f32x4.splat(0.125)
  for (let y = 0; y < halfHeight; y++) {
    const a = from + <usize>max(0, 2 * y - 1) * stride
    const b = from + <usize>min(height - 1, 2 * y) * stride
    const c = from + <usize>min(height - 1, 2 * y + 1) * stride
    const d = from + <usize>min(height - 1, 2 * y + 2) * stride
    let x: usize = 0
    for (; x + 16 <= stride; x += 16) {
      const middle = f32x4.add(v128.load(b + x), v128.load(c + x))
      const sum = f32x4.add(f32x4.add(v128.load(a + x), v128.load(d + x)), f32x4.mul(three, middle))
      v128.store(rows + x, f32x4.mul(sum, eighth))
    }
    for (; x < stride; x += 4) {
      store<f32>(rows + x, (load<f32>(a + x) + 3 * (load<f32>(b + x) + load<f32>(c + x)) + load<f32>(d + x)) * 0.125)
    }
    const out = to + (<usize>(y * halfWidth) << 2)
    store<f32>(out, halvedAt(rows, width, 0))
    let i = 1
    for (; i + 4 < halfWidth && 2 * i + 9 <= width; i += 4) {
      const at = rows + (<usize>(2 * i - 1) << 2)
      const first = v128.load(at)
      const second = v128.load(at, 16)
      const third = v128.load(at, 8)
      const fourth = v128.load(at, 24)
      const outer = f32x4.add(v128.shuffle<i32>(first, second, 0, 2, 4, 6), v128.shuffle<i32>(third, fourth, 1, 3, 5, 7))
      const inner = f32x4.add(v128.shuffle<i32>(first, second, 1, 3, 5, 7), v128.shuffle<i32>(third, fourth, 0, 2, 4, 6))
      v128.store(out + (<usize>i << 2), f32x4.mul(f32x4.add(outer, f32x4.mul(three, inner)), eighth))
    }
    for (; i < halfWidth; i++) store<f32>(out + (<usize>i << 2), halvedAt(rows, width, i))
  }
}

function halvedAt(row: usize, width: i32, x: i32): f32 {
  const last = width - 1
  const a = load<f32>(row + (<usize>max(0, 2 * x - 1) << 2))
  const b = load<f32>(row + (<usize>min(last, 2 * x) << 2))
  const c = load<f32>(row + (<usize>min(last, 2 * x + 1) << 2))
  const d = load<f32>(row + (<usize>min(last, 2 * x + 2) << 2))
  return (a + 3 * (b + c) + d) * 0.125
}
