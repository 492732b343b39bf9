/** Deterministic pseudo-random numbers: the demonstration is the same on every machine. */

/** What each of two whole numbers and a seed add to a hash. */
const ofX = (x: number) => Math.imul(x | 0, 374761393)
const ofY = (y: number) => Math.imul(y | 0, 668265263)
const ofSeed = (seed: number) => Math.imul(seed | 0, 2147483647)

/** The hash of those three, put together, to 0..1. */
function mixed(together: number): number {
  let h = Math.imul(together ^ (together >>> 13), 1274126177)
  h ^= h >>> 16
  return (h >>> 0) / 4294967296
}

/** Hash of two whole numbers and a seed to 0..1. */
export const hash2 = (x: number, y: number, seed = 0) => mixed(ofX(x) ^ ofY(y) ^ ofSeed(seed))

/** Smooth value noise of feature size 1, 0..1. */
export function valueNoise(x: number, y: number, seed = 0): number {
  const i = Math.floor(x)
  const j = Math.floor(y)
  const u = x - i
  const v = y - j
  const su = u * u * (3 - 2 * u)
  const sv = v * v * (3 - 2 * v)
  const [left, right] = [ofX(i), ofX(i + 1)]
  const [above, below] = [ofY(j) ^ ofSeed(seed), ofY(j + 1) ^ ofSeed(seed)]
  const top = mixed(left ^ above) * (1 - su) + mixed(right ^ above) * su
  const bottom = mixed(left ^ below) * (1 - su) + mixed(right ^ below) * su
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
  const place = ofX(x) ^ ofY(y)
  const sum =
    mixed(place ^ ofSeed(seed)) +
    mixed(place ^ ofSeed(seed + 1)) +
    mixed(place ^ ofSeed(seed + 2)) +
    mixed(place ^ ofSeed(seed + 3))
  return (sum - 2) * Math.sqrt(3)
}
