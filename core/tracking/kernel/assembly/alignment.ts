// The inner loops of alignment in AssemblyScript, four samples at a time. They compute what PlainKernel computes, in
// 32-bit floats; sums go over to 64 bits block by block. All pointers are 16-byte aligned; arrays of samples are padded
// to a multiple of four with positions that are not numbers, which count as outside the picture.

/** Samples whose sums are kept in 32 bits before they go over to 64. */
const BLOCK: i32 = 128
const BLOCK_BYTES: usize = 4 * 128

/** What the other functions work on: a level's samples and the picture they are compared with. Pointers, counts, sizes. */
@unmanaged
class Level {
  /** Samples, and the same made a multiple of four. */
  samples: i32
  count: i32
  u: usize
  v: usize
  value: usize
  gradientU: usize
  gradientV: usize
  steepness: usize
  residual: usize
  distance: usize
  cell: usize
  cells: i32
  trust: usize
  inCell: usize
  /** The picture's values, or the coefficients of its cubic B-spline. */
  image: usize
  isSpline: i32
  width: i32
  height: i32
  /** A byte for each pixel of the picture, or 0 when nothing is hidden. */
  hidden: usize
}

/** A motion, pattern coordinates to the picture's own pixels with centres on whole numbers, and the exposure. */
@unmanaged
class Motion {
  h00: f64
  h01: f64
  h02: f64
  h10: f64
  h11: f64
  h12: f64
  h20: f64
  h21: f64
  h22: f64
  gain: f64
  bias: f64
}

const level = changetype<Level>(memory.data(19 * 4, 16))
const motion = changetype<Motion>(memory.data(11 * 8, 16))
const sums: usize = memory.data(8 * 8, 16)
// Normal equations of ten rows at most: eight parameters, gain and bias.
const normal: usize = memory.data(10 * 10 * 8, 16)
const right: usize = memory.data(10 * 8, 16)
/** Rows of a block, plain and weighted, and its residuals. */
const plain: usize = memory.data(10 * 4 * 128, 16)
const weighted: usize = memory.data(10 * 4 * 128, 16)
const left: usize = memory.data(4 * 128, 16)

/** First byte that the caller may use. */
export function firstFreeByte(): usize {
  return (__heap_base + 15) & ~15
}

/** The one {@link Level}, whose fields the caller writes. */
export function levelPlace(): usize {
  return changetype<usize>(level)
}

/** The one {@link Motion}, which the caller writes and {@link align} changes. */
export function motionPlace(): usize {
  return changetype<usize>(motion)
}

/** Eight 64-bit floats for results. */
export function sumsPlace(): usize {
  return sums
}

let tukey: f32
let slack: f32
let trusted: f32
let distrusted: f32
let smallestNoise: f32
let leastSeen: i32
let leastShare: f64
let trustingIterations: i32
let damping: f64

/** The limits that AlignmentKernel names, given once. */
export function configure(
  ofTukey: f32, ofSlack: f32, ofTrusted: f32, ofDistrusted: f32, ofSmallestNoise: f32,
  ofLeastSeen: i32, ofLeastShare: f64, ofTrustingIterations: i32, ofDamping: f64,
): void {
  tukey = ofTukey
  slack = ofSlack
  trusted = ofTrusted
  distrusted = ofDistrusted
  smallestNoise = ofSmallestNoise
  leastSeen = ofLeastSeen
  leastShare = ofLeastShare
  trustingIterations = ofTrustingIterations
  damping = ofDamping
}

// Weights of four neighbours at a fraction f between the two middle ones, of cubics that are f^2 (a + b f) at an outer and
// c + f^2 (d + e f) at an inner neighbour.
// @ts-ignore: decorator
@inline
function outerWeight(f: v128, a: f32, b: f32): v128 {
  return f32x4.mul(f32x4.mul(f, f), f32x4.add(f32x4.splat(a), f32x4.mul(f32x4.splat(b), f)))
}
// @ts-ignore: decorator
@inline
function innerWeight(f: v128, c: f32, d: f32, e: f32): v128 {
  return f32x4.add(
    f32x4.splat(c),
    f32x4.mul(f32x4.mul(f, f), f32x4.add(f32x4.splat(d), f32x4.mul(f32x4.splat(e), f))),
  )
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
 * @returns how many samples are seen
 */
export function residuals(): i32 {
  const u = level.u
  const v = level.v
  const value = level.value
  const image = level.image
  const width = level.width
  const height = level.height
  const hidden = level.hidden
  const residual = level.residual
  const distance = level.distance
  const h00 = <f32>motion.h00
  const h01 = <f32>motion.h01
  const h02 = <f32>motion.h02
  const h10 = <f32>motion.h10
  const h11 = <f32>motion.h11
  const h12 = <f32>motion.h12
  const h20 = <f32>motion.h20
  const h21 = <f32>motion.h21
  const h22 = <f32>motion.h22
  const gain = <f32>motion.gain
  const bias = <f32>motion.bias
  // The uniform cubic B-spline, or Catmull and Rom's cubic.
  const isSpline = level.isSpline
  const a: f32 = isSpline ? 0 : -0.5
  const b: f32 = isSpline ? 1.0 / 6 : 0.5
  const c: f32 = isSpline ? 2.0 / 3 : 1
  const d: f32 = isSpline ? -1 : -2.5
  const e: f32 = isSpline ? 0.5 : 1.5
  const one = f32x4.splat(1)
  const mostX = f32x4.splat(<f32>(width - 2))
  const mostY = f32x4.splat(<f32>(height - 2))
  const stride = <usize>width << 2
  const end = distance
  let next = distance
  for (let n: usize = 0; n < <usize>level.count << 2; n += 16) {
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
    const gx = f32x4.sub(one, fx)
    const gy = f32x4.sub(one, fy)
    const ay = outerWeight(gy, a, b)
    const by = innerWeight(fy, c, d, e)
    const cy = innerWeight(gy, c, d, e)
    const dy = outerWeight(fy, a, b)
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
        f32x4.mul(outerWeight(gx, a, b), v128.shuffle<i64>(t0, t1, 0, 2)),
        f32x4.mul(innerWeight(fx, c, d, e), v128.shuffle<i64>(t0, t1, 1, 3)),
      ),
      f32x4.add(
        f32x4.mul(innerWeight(gx, c, d, e), v128.shuffle<i64>(t2, t3, 0, 2)),
        f32x4.mul(outerWeight(fx, a, b), v128.shuffle<i64>(t2, t3, 1, 3)),
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

/** Robust noise of the last residuals, of which so many are seen. */
export function noiseOf(seen: i32): f32 {
  return seen == 0 ? smallestNoise : max<f32>(smallestNoise, <f32>1.4826 * median(level.distance, seen))
}

/** Median of what the samples show under the motion, and median absolute deviation, into sums; how many are seen. */
export function shown(): i32 {
  motion.gain = 0
  motion.bias = 0
  const seen = residuals()
  if (seen == 0) return 0
  const values = level.distance
  let next = values
  for (let n: usize = 0; n < <usize>level.samples << 2; n += 4) {
    const value = load<f32>(level.residual + n)
    if (value != value) continue
    store<f32>(next, value)
    next += 4
  }
  const middle = selected(values, next - 4, values + (<usize>(seen >> 1) << 2))
  for (let at = values; at < next; at += 4) store<f32>(at, Mathf.abs(load<f32>(at) - middle))
  store<f64>(sums, <f64>middle)
  store<f64>(sums + 8, <f64>median(values, seen))
  return seen
}

/** Bits of a float that name its bin, 32 bins to a doubling; values from 2^-14, below which all share one, to 2^2. */
const BIN_SHIFT: i32 = 18
const FIRST_BIN: i32 = (127 - 14) << 5
const BINS: i32 = 16 << 5
const bins: usize = memory.data(4 * 512, 16)

// @ts-ignore: decorator
@inline
function binOf(at: usize): i32 {
  return min(BINS - 1, max(0, (load<i32>(at) >> BIN_SHIFT) - FIRST_BIN))
}

/**
 * Median of values that are not negative, exactly; reorders them. They are counted by bins, and only those of the
 * middle one are told apart: choosing by comparison alone has the processor guess wrong at every second value.
 */
function median(values: usize, count: i32): f32 {
  const end = values + (<usize>count << 2)
  memory.fill(bins, 0, <usize>BINS << 2)
  for (let at = values; at < end; at += 4) {
    const bin = bins + (<usize>binOf(at) << 2)
    store<i32>(bin, load<i32>(bin) + 1)
  }
  let left = count >> 1
  let middle = 0
  for (; middle < BINS - 1; middle++) {
    const inBin = load<i32>(bins + (<usize>middle << 2))
    if (left < inBin) break
    left -= inBin
  }
  // Those of the middle bin go to the front.
  let next = values
  for (let at = values; at < end; at += 4) {
    if (binOf(at) != middle) continue
    const value = load<f32>(at)
    store<f32>(at, load<f32>(next))
    store<f32>(next, value)
    next += 4
  }
  return selected(values, next - 4, values + (<usize>left << 2))
}

/** What would stand at a place if all from low to high were sorted, by Hoare's selection; reorders them. */
function selected(low: usize, high: usize, place: usize): f32 {
  while (low < high) {
    const pivot = load<f32>(low + (((high - low) >> 3) << 2))
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
    if (place <= j) high = j
    else if (place >= i) low = i
    else break
  }
  return load<f32>(place)
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
function limitOf(steepness: usize, noise: f32): v128 {
  return f32x4.mul(f32x4.splat(tukey),
    f32x4.add(f32x4.splat(noise), f32x4.mul(f32x4.splat(slack), v128.load(steepness))))
}

/** How far each cell is to be trusted, 0..1: 1 up to the share `trusted` of outliers, 0 from `distrusted` on. */
function cellTrust(noise: f32): void {
  const residual = level.residual
  const steepness = level.steepness
  const cell = level.cell
  const cells = level.cells
  const trust = level.trust
  const inCell = level.inCell
  memory.fill(trust, 0, <usize>cells << 2)
  memory.fill(inCell, 0, <usize>cells << 2)
  for (let n = 0; n < level.samples; n++) {
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
function putRow(row: i32, at: usize, a: v128, w: v128): void {
  v128.store(plain + <usize>row * BLOCK_BYTES + at, a)
  v128.store(weighted + <usize>row * BLOCK_BYTES + at, f32x4.mul(w, a))
}

/**
 * Lower triangle of the weighted normal equations of a model's parameters, gain and bias, and their right side; entries
 * above the diagonal are not to be read.
 *
 * @param parameters  2, 4, 6 or 8: position, similarity, affine, perspective
 * @param trust       weight of each cell, or 0 when all are trusted
 */
function normalEquations(parameters: i32, noise: f32, trust: usize): void {
  const u = level.u
  const v = level.v
  const value = level.value
  const gradientU = level.gradientU
  const gradientV = level.gradientV
  const residual = level.residual
  const steepness = level.steepness
  const cell = level.cell
  const count = level.count
  const gain = <f32>motion.gain
  const rows = parameters + 2
  memory.fill(normal, 0, <usize>(rows * rows) << 3)
  memory.fill(right, 0, <usize>rows << 3)
  for (let start = 0; start < count; start += BLOCK) {
    const length = <usize>min(BLOCK, (count - start + 3) & ~3) << 2
    for (let at: usize = 0; at < length; at += 16) {
      const n = (<usize>start << 2) + at
      const r = v128.load(residual + n)
      let w = biweight(r, limitOf(steepness + n, noise))
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
        putRow(0, at, gu, w)
        putRow(1, at, gv, w)
      } else if (parameters == 4) {
        putRow(0, at, gu, w)
        putRow(1, at, gv, w)
        putRow(2, at, f32x4.add(f32x4.mul(gu, un), f32x4.mul(gv, vn)), w)
        putRow(3, at, f32x4.sub(f32x4.mul(gv, un), f32x4.mul(gu, vn)), w)
      } else if (parameters == 6) {
        putRow(0, at, gu, w)
        putRow(1, at, gv, w)
        putRow(2, at, f32x4.mul(gu, un), w)
        putRow(3, at, f32x4.mul(gu, vn), w)
        putRow(4, at, f32x4.mul(gv, un), w)
        putRow(5, at, f32x4.mul(gv, vn), w)
      } else {
        const radial = f32x4.neg(f32x4.add(f32x4.mul(gu, un), f32x4.mul(gv, vn)))
        putRow(0, at, f32x4.mul(gu, un), w)
        putRow(1, at, f32x4.mul(gu, vn), w)
        putRow(2, at, gu, w)
        putRow(3, at, f32x4.mul(gv, un), w)
        putRow(4, at, f32x4.mul(gv, vn), w)
        putRow(5, at, gv, w)
        putRow(6, at, f32x4.mul(radial, un), w)
        putRow(7, at, f32x4.mul(radial, vn), w)
      }
      putRow(parameters, at, v128.load(value + n), w)
      putRow(parameters + 1, at, f32x4.splat(1), w)
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
 * Solves A x = b for a symmetric positive definite A by Cholesky's factorisation, in place; false when A is not.
 *
 * @param a  lower triangle, read and overwritten
 * @param b  overwritten with x
 */
function solveSymmetric(a: usize, b: usize, size: i32): bool {
  const at = (base: usize, i: i32, j: i32, size: i32): usize => base + (<usize>(i * size + j) << 3)
  for (let j = 0; j < size; j++) {
    for (let i = j; i < size; i++) {
      let sum = load<f64>(at(a, i, j, size))
      for (let k = 0; k < j; k++) sum -= load<f64>(at(a, i, k, size)) * load<f64>(at(a, j, k, size))
      if (i == j) {
        if (!(sum > 0)) return false
        sum = Math.sqrt(sum)
      } else sum /= load<f64>(at(a, j, j, size))
      store<f64>(at(a, i, j, size), sum)
    }
  }
  for (let i = 0; i < size; i++) {
    let sum = load<f64>(at(b, i, 0, 1))
    for (let k = 0; k < i; k++) sum -= load<f64>(at(a, i, k, size)) * load<f64>(at(b, k, 0, 1))
    store<f64>(at(b, i, 0, 1), sum / load<f64>(at(a, i, i, size)))
  }
  for (let i = size - 1; i >= 0; i--) {
    let sum = load<f64>(at(b, i, 0, 1))
    for (let k = i + 1; k < size; k++) sum -= load<f64>(at(a, k, i, size)) * load<f64>(at(b, k, 0, 1))
    store<f64>(at(b, i, 0, 1), sum / load<f64>(at(a, i, i, size)))
  }
  return true
}

/** One of the solved parameters. */
// @ts-ignore: decorator
@inline
function solved(i: i32): f64 {
  return load<f64>(right + (<usize>i << 3))
}

/** The motion times the inverse of the step that the solved parameters make. */
function takeStep(parameters: i32): void {
  let a: f64 = 1
  let b: f64 = 0
  let c: f64 = solved(0)
  let d: f64 = 0
  let e: f64 = 1
  let f: f64 = solved(1)
  let g: f64 = 0
  let h: f64 = 0
  if (parameters == 4) {
    a = e = 1 + solved(2)
    d = solved(3)
    b = -d
  } else if (parameters == 6) {
    a = 1 + solved(2)
    b = solved(3)
    d = solved(4)
    e = 1 + solved(5)
  } else if (parameters == 8) {
    a = 1 + solved(0)
    b = solved(1)
    c = solved(2)
    d = solved(3)
    e = 1 + solved(4)
    f = solved(5)
    g = solved(6)
    h = solved(7)
  }
  const i00 = e - f * h
  const i10 = f * g - d
  const i20 = d * h - e * g
  const scale = 1 / (a * i00 + b * i10 + c * i20)
  const i01 = c * h - b
  const i02 = b * f - c * e
  const i11 = a - c * g
  const i12 = c * d - a * f
  const i21 = b * g - a * h
  const i22 = a * e - b * d
  const m = motion
  const x0 = (m.h00 * i00 + m.h01 * i10 + m.h02 * i20) * scale
  const x1 = (m.h00 * i01 + m.h01 * i11 + m.h02 * i21) * scale
  m.h02 = (m.h00 * i02 + m.h01 * i12 + m.h02 * i22) * scale
  m.h00 = x0
  m.h01 = x1
  const y0 = (m.h10 * i00 + m.h11 * i10 + m.h12 * i20) * scale
  const y1 = (m.h10 * i01 + m.h11 * i11 + m.h12 * i21) * scale
  m.h12 = (m.h10 * i02 + m.h11 * i12 + m.h12 * i22) * scale
  m.h10 = y0
  m.h11 = y1
  const w0 = (m.h20 * i00 + m.h21 * i10 + m.h22 * i20) * scale
  const w1 = (m.h20 * i01 + m.h21 * i11 + m.h22 * i21) * scale
  m.h22 = (m.h20 * i02 + m.h21 * i12 + m.h22 * i22) * scale
  m.h20 = w0
  m.h21 = w1
}

/**
 * Brings the motion and the exposure to where the picture agrees with the samples, step by step.
 *
 * @param parameters    2, 4, 6 or 8: position, similarity, affine, perspective
 * @param smallestStep  largest change of a motion parameter below which it stops
 * @param mostSteps     steps after which it stops in any case
 * @returns whether there was enough to see, and it held the motion in all directions
 */
export function align(parameters: i32, smallestStep: f64, mostSteps: i32): bool {
  const size = parameters + 2
  for (let iteration = 0; iteration < mostSteps; iteration++) {
    const seen = residuals()
    if (seen < leastSeen || <f64>seen < leastShare * <f64>level.samples) return false
    const noise = noiseOf(seen)
    const isCellwise = iteration >= trustingIterations
    if (isCellwise) cellTrust(noise)
    normalEquations(parameters, noise, isCellwise ? level.trust : 0)
    for (let i = 0; i < size; i++) {
      const at = normal + (<usize>(i * size + i) << 3)
      store<f64>(at, load<f64>(at) * (1 + damping))
    }
    if (!solveSymmetric(normal, right, size)) return false
    takeStep(parameters)
    motion.gain += solved(size - 2)
    motion.bias += solved(size - 1)
    let largest: f64 = 0
    for (let i = 0; i < parameters; i++) largest = max(largest, Math.abs(solved(i)))
    if (largest < smallestStep) break
  }
  return true
}

/**
 * Sums for the judgement of a motion: samples that count, samples that agree, squares of the residuals of these, and of
 * those that count the sums of T, I, T^2, I^2, T I, as eight 64-bit floats.
 *
 * @param onlyAgreeing  whether only samples that agree count
 */
export function judgementSums(noise: f32, onlyAgreeing: bool): void {
  const residual = level.residual
  const steepness = level.steepness
  const value = level.value
  const gain = <f32>motion.gain
  const bias = <f32>motion.bias
  let seenCount = 0
  let agreeingCount = 0
  let squares = f64x2.splat(0)
  let st = f64x2.splat(0)
  let si = f64x2.splat(0)
  let stt = f64x2.splat(0)
  let sii = f64x2.splat(0)
  let sti = f64x2.splat(0)
  for (let n: usize = 0; n < <usize>level.count << 2; n += 16) {
    const r = v128.load(residual + n)
    const agrees = f32x4.lt(f32x4.abs(r), limitOf(steepness + n, noise))
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

/** Pole of the cubic B-spline's inverse filter, the square root of 3 less 2, and pixels after which it has died away. */
const POLE: f32 = -0.26794919
const POLE_REACH: i32 = 12
const LAST: f32 = POLE / (POLE * POLE - 1)

/**
 * Turns a picture into the coefficients of the cubic B-spline that goes through its pixels, in place; beyond its edges
 * it is mirrored. Pictures of fewer than four pixels across or down, in which nothing can be looked up, stay as they are.
 */
export function toCoefficients(image: usize, width: i32, height: i32): void {
  if (width < 4 || height < 4) return
  const stride = <usize>width << 2
  let y = 0
  for (; y + 4 <= height; y += 4) filterFourRows(image + <usize>y * stride, stride, width)
  for (; y < height; y++) filterRow(image + <usize>y * stride, width)
  filterColumns(image, stride, height)
}

/** The filter down all columns at once, row by row. */
function filterColumns(image: usize, stride: usize, height: i32): void {
  addRow(image, image, stride, 0, 6)
  let power: f32 = 6
  for (let k = 1; k < min(height, POLE_REACH); k++) {
    power *= POLE
    addRow(image, image + <usize>k * stride, stride, 1, power)
  }
  let row = image
  for (let k = 1; k < height; k++) {
    row += stride
    addRow(row, row - stride, stride, 6, POLE)
  }
  addRow(row, row - stride, stride, LAST, LAST * POLE)
  for (let k = height - 2; k >= 0; k--) {
    row -= stride
    addRow(row, row + stride, stride, -POLE, POLE)
  }
}

/** to = own * to + other * from, value by value. */
function addRow(to: usize, from: usize, bytes: usize, own: f32, other: f32): void {
  let x: usize = 0
  for (; x + 16 <= bytes; x += 16) {
    v128.store(
      to + x,
      f32x4.add(f32x4.mul(f32x4.splat(own), v128.load(to + x)), f32x4.mul(f32x4.splat(other), v128.load(from + x))),
    )
  }
  for (; x < bytes; x += 4) store<f32>(to + x, own * load<f32>(to + x) + other * load<f32>(from + x))
}

// @ts-ignore: decorator
@inline
function loadColumn(at: usize, stride: usize): v128 {
  return f32x4(load<f32>(at), load<f32>(at + stride), load<f32>(at + 2 * stride), load<f32>(at + 3 * stride))
}

// @ts-ignore: decorator
@inline
function storeColumn(at: usize, stride: usize, values: v128): void {
  v128.store_lane<f32>(at, values, 0)
  v128.store_lane<f32>(at + stride, values, 1)
  v128.store_lane<f32>(at + 2 * stride, values, 2)
  v128.store_lane<f32>(at + 3 * stride, values, 3)
}

/** The filter along four rows side by side: each step waits for the one before it. */
function filterFourRows(rows: usize, stride: usize, width: i32): void {
  const six = f32x4.splat(6)
  const pole = f32x4.splat(POLE)
  let sum = f32x4.splat(0)
  let power: f32 = 1
  for (let k = 0; k < min(width, POLE_REACH); k++) {
    sum = f32x4.add(sum, f32x4.mul(f32x4.splat(power), loadColumn(rows + (<usize>k << 2), stride)))
    power *= POLE
  }
  let now = f32x4.mul(six, sum)
  let before = now
  storeColumn(rows, stride, now)
  let at = rows
  for (let k = 1; k < width; k++) {
    at += 4
    before = now
    now = f32x4.add(f32x4.mul(six, loadColumn(at, stride)), f32x4.mul(pole, before))
    storeColumn(at, stride, now)
  }
  now = f32x4.mul(f32x4.splat(LAST), f32x4.add(now, f32x4.mul(pole, before)))
  storeColumn(at, stride, now)
  for (let k = width - 2; k >= 0; k--) {
    at -= 4
    now = f32x4.mul(pole, f32x4.sub(now, loadColumn(at, stride)))
    storeColumn(at, stride, now)
  }
}

/** The filter along one row. */
function filterRow(row: usize, width: i32): void {
  let sum: f32 = 0
  let power: f32 = 1
  for (let k = 0; k < min(width, POLE_REACH); k++) {
    sum += power * load<f32>(row + (<usize>k << 2))
    power *= POLE
  }
  let now: f32 = 6 * sum
  store<f32>(row, now)
  let at = row
  for (let k = 1; k < width; k++) {
    at += 4
    now = 6 * load<f32>(at) + POLE * now
    store<f32>(at, now)
  }
  now = LAST * (now + POLE * load<f32>(at - 4))
  store<f32>(at, now)
  for (let k = width - 2; k >= 0; k--) {
    at -= 4
    now = POLE * (now - load<f32>(at))
    store<f32>(at, now)
  }
}

/**
 * Normalised cross-correlation of samples with a picture, for whole-pixel shifts in a row: 64-bit floats in `scores`.
 *
 * @param values   of the samples; `sum` and `squares` are theirs
 * @param places   pixel of each sample under the first shift, counted from the picture's first one; all lie inside
 * @param picture  its values
 * @param shifts   how many, to the right
 * @param work     room for three rows of 32-bit floats, as many as there are shifts and four more
 */
export function correlations(
  values: usize, places: usize, count: i32, sum: f64, squares: f64, picture: usize, shifts: i32, work: usize,
  scores: usize,
): void {
  const row = <usize>((shifts + 3) & ~3) << 2
  memory.fill(work, 0, 3 * row)
  for (let n: usize = 0; n < <usize>count << 2; n += 4) {
    const value = f32x4.splat(load<f32>(values + n))
    const from = picture + (<usize>load<i32>(places + n) << 2)
    for (let x: usize = 0; x < row; x += 16) {
      const i = v128.load(from + x)
      const at = work + x
      v128.store(at, f32x4.add(v128.load(at), i))
      v128.store(at + row, f32x4.add(v128.load(at + row), f32x4.mul(i, i)))
      v128.store(at + 2 * row, f32x4.add(v128.load(at + 2 * row), f32x4.mul(i, value)))
    }
  }
  const spread = squares - (sum * sum) / <f64>count
  for (let x = 0; x < shifts; x++) {
    const at = work + (<usize>x << 2)
    const b = <f64>load<f32>(at)
    const bb = <f64>load<f32>(at + row)
    const ab = <f64>load<f32>(at + 2 * row)
    const own = bb - (b * b) / <f64>count
    // Less than this is the rounding of 32-bit sums: the picture does not vary there.
    const varies = spread > 0 && own > 3e-5 * bb
    store<f64>(scores + (<usize>x << 3), varies ? (ab - (sum * b) / <f64>count) / Math.sqrt(spread * own) : 0)
  }
}
