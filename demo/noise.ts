/** Deterministic pseudo-random numbers: the demonstration is the same on every machine. */

/** Hash of two whole numbers and a seed to 0..1. */
export function hash2(x: number, y: number, seed = 0): number {
  let h = (Math.imul(x | 0, 374761393) ^ Math.imul(y | 0, 668265263) ^ Math.imul(seed | 0, 2147483647)) | 0
  h = Math.imul(h ^ (h >>> 13), 1274126177)
  h ^= h >>> 16
  return (h >>> 0) / 4294967296
}

/** Smooth value noise of feature size 1, 0..1. */
export function valueNoise(x: number, y: number, seed = 0): number {
  const i = Math.floor(x)
  const j = Math.floor(y)
  const u = x - i
  const v = y - j
  const su = u * u * (3 - 2 * u)
  const sv = v * v * (3 - 2 * v)
  const top = hash2(i, j, seed) * (1 - su) + hash2(i + 1, j, seed) * su
  const bottom = hash2(i, j + 1, seed) * (1 - su) + hash2(i + 1, j + 1, seed) * su
  return top * (1 - sv) + bottom * sv
}

/** Sum of three octaves of value noise, about 0..1. */
export function fractalNoise(x: number, y: number, seed = 0): number {
  let sum = 0
  let weight = 0.5
  for (let octave = 0; octave < 3; octave++) {
    sum += weight * valueNoise(x, y, seed + octave)
    x *= 2.03
    y *= 2.03
    weight /= 2
  }
  return sum / 0.875
}

/** Normal deviate from the hash (sum of four uniforms: plenty for grain). */
export function grainAt(x: number, y: number, seed: number): number {
  const sum = hash2(x, y, seed) + hash2(x, y, seed + 1) + hash2(x, y, seed + 2) + hash2(x, y, seed + 3)
  return (sum - 2) * Math.sqrt(3)
}
