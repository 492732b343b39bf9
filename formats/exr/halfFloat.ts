const floatView = new Float32Array(1)
const bitsView = new Uint32Array(floatView.buffer)

/** IEEE 754-2008 binary16 nearest to a number, ties to even. */
export function halfFromFloat(value: number): number {
  floatView[0] = value
  const bits = bitsView[0]!
  const sign = (bits >>> 16) & 0x8000
  const exponent = (bits >>> 23) & 0xff
  const mantissa = bits & 0x7fffff
  if (exponent === 0xff) return sign | 0x7c00 | (mantissa ? 0x200 : 0)
  const unbiased = exponent - 127
  if (unbiased > 15) return sign | 0x7c00
  if (unbiased >= -14) {
    const half = ((unbiased + 15) << 10) | (mantissa >> 13)
    return sign | (half + roundUp(mantissa, 13, half))
  }
  if (unbiased < -25) return sign
  const shift = 13 + (-14 - unbiased)
  const full = mantissa | 0x800000
  const half = full >> shift
  return sign | (half + roundUp(full, shift, half))
}

/** 1 when the bits cut off are more than half of the last kept one, or half and that one is odd. */
function roundUp(value: number, shift: number, kept: number): number {
  const rest = value & ((1 << shift) - 1)
  const half = 1 << (shift - 1)
  return rest > half || (rest === half && (kept & 1) === 1) ? 1 : 0
}

export function floatFromHalf(half: number): number {
  const sign = half & 0x8000 ? -1 : 1
  const exponent = (half >> 10) & 0x1f
  const mantissa = half & 0x3ff
  if (exponent === 0x1f) return mantissa ? NaN : sign * Infinity
  if (exponent === 0) return sign * mantissa * 2 ** -24
  return sign * (1 + mantissa / 1024) * 2 ** (exponent - 15)
}

/** Half of a linear coverage; nearly all are 0 or 1. */
export function halfFromCoverage(value: number): number {
  return value <= 0 ? 0 : value >= 1 ? 0x3c00 : halfFromFloat(value)
}
