import { FormatError } from '../errors'

/**
 * Lossless packing of 16-bit pictures that a browser's worker unpacks at the rate of memory, not of an entropy coder:
 * grain does not compress, and inflating it costs more than aligning it.
 *
 * Every value less the mean of its left and upper neighbours (of those there are; before all others 0) is brought to a
 * whole number without sign (0, -1, 1, -2 ... become 0, 1, 2, 3 ...); runs of 32 of these are stored with as many bits
 * each as the largest of the run needs. Values of 8-bit plates are all multiples of 257 and are divided by that first.
 *
 * Bytes: a mark (0xb1), 0, the step (uint16, 1 or 257), a byte of bits for each run, zeros up to a multiple of 4, and for
 * each run its 32 numbers, lowest bits first, in as many little-endian uint32 as they have bits. The last run is filled up
 * with zeros.
 */
export const PACKED_MARK = 0xb1
const RUN = 32
export const HEAD = 4
/** 65535 / 255: what steps an 8-bit value has in 16 bits. */
export const STEP_OF_8_BITS = 257
const MOST_BITS = 17

export const runsIn = (count: number) => Math.ceil(count / RUN)
export const wordsAt = (runs: number) => (HEAD + runs + 3) & ~3

/** In plain TypeScript: the reference for the other, and what runs where that cannot. */
export function packTile(values: Uint16Array, width: number, height: number): Uint8Array {
  const count = width * height
  const runs = runsIn(count)
  const step = values.every((value) => value % STEP_OF_8_BITS === 0) ? STEP_OF_8_BITS : 1
  const numbers = new Int32Array(runs * RUN)
  for (let y = 0, at = 0; y < height; y++) {
    for (let x = 0; x < width; x++, at++) {
      const left = x > 0 ? values[at - 1]! / step : -1
      const above = y > 0 ? values[at - width]! / step : -1
      const difference = values[at]! / step - expected(left, above)
      numbers[at] = (difference << 1) ^ (difference >> 31)
    }
  }
  const widths = new Uint8Array(runs)
  let words = 0
  for (let run = 0; run < runs; run++) {
    let all = 0
    for (let i = run * RUN; i < (run + 1) * RUN; i++) all |= numbers[i]!
    words += widths[run] = 32 - Math.clz32(all)
  }
  const start = wordsAt(runs)
  const out = new Uint8Array(start + 4 * words)
  const view = new DataView(out.buffer)
  out[0] = PACKED_MARK
  view.setUint16(2, step, true)
  out.set(widths, HEAD)
  let place = start
  for (let run = 0; run < runs; run++) {
    const bits = widths[run]!
    let word = 0
    let filled = 0
    for (let i = run * RUN; bits > 0 && i < (run + 1) * RUN; i++) {
      const number = numbers[i]!
      word |= number << filled
      filled += bits
      if (filled < 32) continue
      view.setUint32(place, word >>> 0, true)
      place += 4
      filled -= 32
      // What did not fit any more; a shift by 32 would be one by nothing.
      word = filled > 0 ? number >>> (bits - filled) : 0
    }
  }
  return out
}

/** The mean of the neighbours there are; -1 stands for one that is not. */
const expected = (left: number, above: number) =>
  left < 0 ? Math.max(0, above) : above < 0 ? left : (left + above) >> 1

/** Unpacks a tile whose head has been found right. */
export interface TileUnpacker {
  unpack(tile: PackedTile, width: number, height: number, scale: number, into: Float32Array): void
}

/** A packed tile taken apart: the bits of each run, and all of them. */
export interface PackedTile {
  widths: Uint8Array
  words: Uint8Array
}

/**
 * @param unit  what a stored 1 is
 * @param into  room for the values, row after row
 * @returns the same
 * @throws FormatError `not-a-packed-tile` when the bytes are not just those of a tile of this size
 */
export function unpackTile(
  bytes: Uint8Array,
  width: number,
  height: number,
  unit: number,
  unpacker: TileUnpacker = PLAIN_UNPACKER,
  into: Float32Array = new Float32Array(width * height),
): Float32Array {
  const count = width * height
  const runs = runsIn(count)
  const start = wordsAt(runs)
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  if (bytes.length < start || bytes[0] !== PACKED_MARK) throw notPacked()
  const step = view.getUint16(2, true)
  if (step !== 1 && step !== STEP_OF_8_BITS) throw notPacked()
  let words = 0
  for (let run = 0; run < runs; run++) {
    const bits = bytes[HEAD + run]!
    if (bits > MOST_BITS) throw notPacked()
    words += bits
  }
  if (bytes.length !== start + 4 * words) throw notPacked()
  const tile = { widths: bytes.subarray(HEAD, HEAD + runs), words: bytes.subarray(start) }
  unpacker.unpack(tile, width, height, unit * step, into)
  return into
}

/** In plain TypeScript: the reference for the other, and what runs where that cannot. */
export const PLAIN_UNPACKER: TileUnpacker = {
  unpack({ widths, words }, width, height, scale, into) {
    const numbers = unpackedNumbers(widths, words)
    // Whole numbers of the row above, since a 32-bit float would round their mean.
    const row = new Int32Array(width)
    for (let y = 0, at = 0; y < height; y++) {
      let left = -1
      for (let x = 0; x < width; x++, at++) {
        const number = numbers[at]!
        left = expected(left, y > 0 ? row[x]! : -1) + ((number >>> 1) ^ -(number & 1))
        row[x] = left
        into[at] = left * scale
      }
    }
  },
}

const notPacked = () => new FormatError('not-a-packed-tile', 'These bytes are not a packed tile of this size')

function unpackedNumbers(widths: Uint8Array, bytes: Uint8Array): Int32Array {
  const words = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  let place = 0
  const nextWord = () => {
    place += 4
    return words.getInt32(place - 4, true)
  }
  const numbers = new Int32Array(widths.length * RUN)
  for (let run = 0, at = 0; run < widths.length; run++) {
    const bits = widths[run]!
    if (bits === 0) {
      at += RUN
      continue
    }
    const mask = (1 << bits) - 1
    let word = nextWord()
    let read = 0
    for (const end = at + RUN; at < end; at++) {
      let number = word >>> read
      read += bits
      if (read >= 32) {
        read -= 32
        if (at + 1 < end) {
          word = nextWord()
          if (read > 0) number |= word << (bits - read)
        }
      }
      numbers[at] = number & mask
    }
  }
  return numbers
}
