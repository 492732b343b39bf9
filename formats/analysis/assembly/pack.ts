// The inner loops of packing a picture in AssemblyScript: the same bytes as plain.ts and packedTile.ts give. Pointers are multiples of 4.

/** First byte that the caller may use. */
export function firstFreeByte(): usize {
  return (__heap_base + 15) & ~15
}

/** Red, green and blue out of interleaved values, brought to 16 bits. @param rgb  uint8 or uint16 */
export function channels(rgb: usize, isBytes: bool, count: i32, red: usize, green: usize, blue: usize): void {
  const end = red + (<usize>count << 1)
  if (isBytes) {
    for (; red < end; red += 2, green += 2, blue += 2, rgb += 3) {
      store<u16>(red, <u16>(257 * <u32>load<u8>(rgb)))
      store<u16>(green, <u16>(257 * <u32>load<u8>(rgb, 1)))
      store<u16>(blue, <u16>(257 * <u32>load<u8>(rgb, 2)))
    }
    return
  }
  for (; red < end; red += 2, green += 2, blue += 2, rgb += 6) {
    store<u16>(red, load<u16>(rgb))
    store<u16>(green, load<u16>(rgb, 2))
    store<u16>(blue, load<u16>(rgb, 4))
  }
}

/**
 * The weighted mean of interleaved values, rounded.
 *
 * @param red  weight of red in ten thousandths, times 257 for bytes; the others alike
 */
export function luma(rgb: usize, isBytes: bool, count: i32, red: u32, green: u32, blue: u32, out: usize): void {
  const end = out + (<usize>count << 1)
  if (isBytes) {
    for (; out < end; out += 2, rgb += 3) {
      const sum = red * load<u8>(rgb) + green * load<u8>(rgb, 1) + blue * load<u8>(rgb, 2)
      store<u16>(out, <u16>((sum + 5000) / 10000))
    }
    return
  }
  for (; out < end; out += 2, rgb += 6) {
    const sum = red * load<u16>(rgb) + green * load<u16>(rgb, 2) + blue * load<u16>(rgb, 4)
    store<u16>(out, <u16>((sum + 5000) / 10000))
  }
}

/**
 * Whether all values of a tile are multiples of 257, as those of 8-bit plates are: both bytes alike.
 *
 * @param values  uint16
 * @param stride  bytes from a row to the next
 */
export function areOf8Bits(values: usize, stride: i32, width: i32, height: i32): bool {
  const low = v128.splat<u16>(255)
  const rowBytes = <usize>width << 1
  for (let y = 0; y < height; y++, values += <usize>stride) {
    let differing = v128.splat<u16>(0)
    let at = values
    for (const end = values + rowBytes - 14; at < end; at += 16) {
      const eight = v128.load(at)
      differing = v128.or(differing, v128.xor(v128.shr<u16>(eight, 8), v128.and(eight, low)))
    }
    if (v128.any_true(differing)) return false
    for (const end = values + rowBytes; at < end; at += 2) {
      const value = load<u16>(at)
      if (value >>> 8 != (value & 255)) return false
    }
  }
  return true
}

/**
 * Differences to the mean of the left and upper neighbours, as whole numbers without sign.
 *
 * @param values   uint16, row after row, with 8 bytes behind them that may be read
 * @param stride   bytes from a row to the next
 * @param mask     255 for values that are multiples of 257, which are divided by that, otherwise 65535
 * @param numbers  room for width x height uint32, and 16 bytes more
 */
export function differences(values: usize, stride: i32, width: i32, height: i32, mask: i32, numbers: usize): void {
  let left = 0
  for (let x = 0; x < width; x++) {
    const value = <i32>load<u16>(values + (<usize>x << 1)) & mask
    store<i32>(numbers + (<usize>x << 2), unsigned(value - left))
    left = value
  }
  const masks = v128.splat<i32>(mask)
  const row = <usize>stride
  for (let y = 1; y < height; y++) {
    values += row
    numbers += <usize>width << 2
    const first = (<i32>load<u16>(values) & mask) - (<i32>load<u16>(values - row) & mask)
    store<i32>(numbers, unsigned(first))
    // Four at a time; what the last four have too much is written over by the next row.
    for (let x: usize = 1; x < <usize>width; x += 4) {
      const at = values + (x << 1)
      const here = v128.and(v128.load_ext<u16>(at), masks)
      const beside = v128.and(v128.load_ext<u16>(at - 2), masks)
      const above = v128.and(v128.load_ext<u16>(at - row), masks)
      const difference = v128.sub<i32>(here, v128.shr<i32>(v128.add<i32>(beside, above), 1))
      const number = v128.xor(v128.shl<i32>(difference, 1), v128.shr<i32>(difference, 31))
      v128.store(numbers + (x << 2), number)
    }
  }
}

// @ts-ignore: a decorator of the compiler's
@inline
function unsigned(difference: i32): i32 {
  return (difference << 1) ^ (difference >> 31)
}

/**
 * Runs of 32 numbers, each stored with as many bits as its largest needs.
 *
 * @param numbers  count uint32, with room for as many as fill the last run up
 * @param widths   room for a byte of bits for each run
 * @param words    room for 17 uint32 a run, as much as there can be, and 8 bytes more
 * @returns bytes of words that were written
 */
export function pack(numbers: usize, count: i32, runs: i32, widths: usize, words: usize): i32 {
  memory.fill(numbers + (<usize>count << 2), 0, (<usize>runs << 7) - (<usize>count << 2))
  let place = words
  for (let run: usize = 0; run < <usize>runs; run++) {
    const start = numbers + (run << 7)
    let all = v128.load(start)
    for (let at: usize = 16; at < 128; at += 16) all = v128.or(all, v128.load(start + at))
    all = v128.or(all, v128.shuffle<u8>(all, all, 8, 9, 10, 11, 12, 13, 14, 15, 0, 1, 2, 3, 4, 5, 6, 7))
    const either = v128.extract_lane<u64>(all, 0)
    const bits = <u64>(32 - clz<u32>(<u32>either | <u32>(either >>> 32)))
    store<u8>(widths + run, <u8>bits)
    if (bits == 0) continue
    if (bits <= 8) place = packedByFours(start, <i32>bits, place)
    else place = bits <= 16 ? packedInPairs(start, <i32>bits, place) : packedOneByOne(start, bits, place)
  }
  return <i32>(place - words)
}

// @ts-ignore: a decorator of the compiler's
@inline
function packedByFours(start: usize, bits: i32, place: usize): usize {
  const low = v128.splat<u64>(0xffffffff)
  const pairBits = <u64>(2 * bits)
  let waiting: u64 = 0
  let filled: u64 = 0
  for (let at = start; at < start + 128; at += 16) {
    const four = v128.load(at)
    const pairs = v128.or(v128.and(four, low), v128.shl<u64>(v128.shr<u64>(four, 32), bits))
    // Four numbers of up to 8 bits beside up to 31 bits that wait: stored whether or not a word is full.
    waiting |= (v128.extract_lane<u64>(pairs, 0) | (v128.extract_lane<u64>(pairs, 1) << pairBits)) << filled
    store<u64>(place, waiting)
    filled += 2 * pairBits
    place += <usize>((filled >>> 5) << 2)
    waiting >>>= filled & 32
    filled &= 31
  }
  return place
}

// @ts-ignore: a decorator of the compiler's
@inline
function packedInPairs(start: usize, bits: i32, place: usize): usize {
  const low = v128.splat<u64>(0xffffffff)
  const pairBits = <u64>(2 * bits)
  let waiting: u64 = 0
  let filled: u64 = 0
  for (let at = start; at < start + 128; at += 16) {
    const four = v128.load(at)
    const pairs = v128.or(v128.and(four, low), v128.shl<u64>(v128.shr<u64>(four, 32), bits))
    // Two numbers of up to 16 bits beside up to 31 bits that wait: stored whether or not a word is full.
    waiting |= v128.extract_lane<u64>(pairs, 0) << filled
    store<u64>(place, waiting)
    filled += pairBits
    place += <usize>((filled >>> 5) << 2)
    waiting >>>= filled & 32
    filled &= 31
    waiting |= v128.extract_lane<u64>(pairs, 1) << filled
    store<u64>(place, waiting)
    filled += pairBits
    place += <usize>((filled >>> 5) << 2)
    waiting >>>= filled & 32
    filled &= 31
  }
  return place
}

function packedOneByOne(start: usize, bits: u64, place: usize): usize {
  let waiting: u64 = 0
  let filled: u64 = 0
  for (let at = start; at < start + 128; at += 4) {
    waiting |= <u64>load<u32>(at) << filled
    filled += bits
    if (filled >= 32) {
      store<u32>(place, <u32>waiting)
      place += 4
      waiting >>= 32
      filled -= 32
    }
  }
  return place
}
