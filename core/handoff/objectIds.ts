import murmur from 'murmurhash3js-revisited'

/**
 * Object-id mattes after the open Cryptomatte specification 1.2: each pixel lists what covers it, ranked by coverage, as pairs of an id and its share. The
 * id of a name is its 32-bit MurmurHash3, its bits taken for a float.
 */
export const OBJECT_ID_LAYER = 'CryptoObject'

/** What is nothing's: the rest of a pixel. */
const NOTHING = 0

/** Pairs a pixel can list: two in each picture of four channels. */
const MOST_RANKS = 8

/** Shares below this are left out: they are less than half a step of any file that a matte comes from. */
const LEAST_SHARE = 1 / 131072

/** MurmurHash3 (x86, 32 bits, seed 0) of a name's UTF-8 bytes. */
const hashOf = (name: string): number => murmur.x86.hash32(new TextEncoder().encode(name))

/** The bits that stand for a name: its hash; where these would be no ordinary float, one bit of the exponent is turned. */
function bitsOf(name: string): number {
  const hash = hashOf(name)
  const exponent = (hash >>> 23) & 255
  return (exponent === 0 || exponent === 255 ? hash ^ (1 << 23) : hash) >>> 0
}

/** The id of a name as the float that is written. */
export function identifierOf(name: string): number {
  return new Float32Array(Uint32Array.of(bitsOf(name)).buffer)[0]!
}

const hexOf = (bits: number) => (bits >>> 0).toString(16).padStart(8, '0')

/** What the header of a file says of its ids: how they were made, and which name each is. */
export function objectIdHeader(names: readonly string[]): Record<string, string> {
  const key = hexOf(hashOf(OBJECT_ID_LAYER)).slice(0, 7)
  const say = (word: string) => `cryptomatte/${key}/${word}`
  return {
    [say('name')]: OBJECT_ID_LAYER,
    [say('hash')]: 'MurmurHash3_32',
    [say('conversion')]: 'uint32_to_float32',
    [say('manifest')]: JSON.stringify(Object.fromEntries(names.map((name) => [name, hexOf(bitsOf(name))]))),
  }
}

/** Channels of the file in which the pairs stand: R and G hold the first of two, B and A the second. */
export interface RankedCoverage {
  name: string
  data: Float32Array
}

/**
 * Mattes as ranked pairs. Of each pixel the shares add up to one: what nothing covers is the id 0, and where mattes cover more than all of it, they are
 * taken down in proportion. Where there are more than eight, the least are left out.
 */
export function rankedCoverage(alphas: readonly Float32Array[], names: readonly string[]): RankedCoverage[] {
  const ids = names.map(identifierOf)
  const size = alphas[0]?.length ?? 0
  const ranks = Math.min(MOST_RANKS, 2 * Math.ceil((names.length + 1) / 2))
  const channels = Array.from({ length: ranks * 2 }, (_, i) => ({
    name: `${OBJECT_ID_LAYER}${String(i >> 2).padStart(2, '0')}.${'RGBA'[i % 4]}`,
    data: new Float32Array(size),
  }))
  const who = new Float64Array(names.length + 1)
  const share = new Float64Array(names.length + 1)
  for (let pixel = 0; pixel < size; pixel++) {
    let sum = 0
    for (let m = 0; m < alphas.length; m++) sum += alphas[m]![pixel]!
    // Most of a picture is nothing's.
    if (sum === 0) {
      channels[1]!.data[pixel] = 1
      continue
    }
    const scale = sum > 1 ? 1 / sum : 1
    let count = 0
    for (let m = 0; m < alphas.length; m++) count = ranked(who, share, count, ids[m]!, alphas[m]![pixel]! * scale)
    count = ranked(who, share, count, NOTHING, 1 - sum * scale)
    for (let rank = 0; rank < Math.min(count, ranks); rank++) {
      channels[2 * rank]!.data[pixel] = who[rank]!
      channels[2 * rank + 1]!.data[pixel] = share[rank]!
    }
  }
  return channels
}

/** Puts a pair where its share has it stand among `count` others; returns how many there are then. */
function ranked(who: Float64Array, share: Float64Array, count: number, id: number, value: number): number {
  if (value < LEAST_SHARE) return count
  let at = count
  for (; at > 0 && share[at - 1]! < value; at--) {
    share[at] = share[at - 1]!
    who[at] = who[at - 1]!
  }
  share[at] = value
  who[at] = id
  return count + 1
}

/**
 * The matte of a name out of ranked pairs.
 *
 * @param channels  of a file, by name
 * @returns null where the file has no such pairs
 */
export function coverageOfName(channels: ReadonlyMap<string, Float32Array>, name: string): Float32Array | null {
  const first = channels.get(`${OBJECT_ID_LAYER}00.R`)
  if (!first) return null
  const id = identifierOf(name)
  const coverage = new Float32Array(first.length)
  for (let level = 0; level < MOST_RANKS / 2; level++) {
    for (const [who, share] of ['RG', 'BA']) {
      const at = `${OBJECT_ID_LAYER}${String(level).padStart(2, '0')}.`
      const [ids, shares] = [channels.get(at + who), channels.get(at + share)]
      if (!ids || !shares) continue
      for (let i = 0; i < coverage.length; i++) if (ids[i] === id) coverage[i]! += shares[i]!
    }
  }
  return coverage
}
