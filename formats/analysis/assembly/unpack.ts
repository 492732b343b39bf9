// The inner loops of unpackTile in AssemblyScript: the same numbers as packedTile.ts gives. Pointers are multiples of 4.

/** First byte that the caller may use. */
export function firstFreeByte(): usize {
  return (__heap_base + 15) & ~15
}

/**
 * Runs of 32 numbers, each run with its own number of bits, brought back to signed differences.
 *
 * @param widths   a byte of bits for each run
 * @param words    the runs' bits, lowest first
 * @param numbers  room for 32 int32 a run
 */
export function differences(widths: usize, runs: i32, words: usize, numbers: usize): void {
  let next = words
  for (let run: usize = 0; run < <usize>runs; run++) {
    const bits = <u32>load<u8>(widths + run)
    const start = numbers + run * 128
    if (bits == 0) {
      memory.fill(start, 0, 128)
      continue
    }
    const mask = (<u64>1 << bits) - 1
    let waiting: u64 = 0
    let filled: u32 = 0
    for (let at = start; at < start + 128; at += 4) {
      if (filled < bits) {
        waiting |= <u64>load<u32>(next) << filled
        next += 4
        filled += 32
      }
      const number = <i32>(waiting & mask)
      waiting >>= bits
      filled -= bits
      store<i32>(at, (number >>> 1) ^ -(number & 1))
    }
  }
}

/**
 * Values from differences to the mean of the left and upper neighbours, times `scale`; differences become whole values.
 *
 * @param numbers  width x height differences
 * @param out      room for as many float32
 */
export function values(numbers: usize, width: i32, height: i32, scale: f64, out: usize): void {
  const row = <usize>width << 2
  let left = 0
  for (let at: usize = 0; at < row; at += 4) {
    left += load<i32>(numbers + at)
    store<i32>(numbers + at, left)
    store<f32>(out + at, <f32>(<f64>left * scale))
  }
  let from = numbers + row
  let to = out + row
  for (let y = 1; y < height; y++) {
    const end = from + row
    left = load<i32>(from - row) + load<i32>(from)
    store<i32>(from, left)
    store<f32>(to, <f32>(<f64>left * scale))
    from += 4
    to += 4
    for (; from < end; from += 4, to += 4) {
      left = ((left + load<i32>(from - row)) >> 1) + load<i32>(from)
      store<i32>(from, left)
      store<f32>(to, <f32>(<f64>left * scale))
    }
  }
}
