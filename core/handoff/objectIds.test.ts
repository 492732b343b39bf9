import fc from 'fast-check'
import murmur from 'murmurhash3js-revisited'
import { describe, expect, it } from 'vitest'
import { numberBetween } from '../testing'
import { coverageOfName, identifierOf, objectIdHeader, rankedCoverage } from './index'

const hex = (value: number) => new Uint32Array(Float32Array.of(value).buffer)[0]!.toString(16).padStart(8, '0')
const hash = (text: string) => murmur.x86.hash32(new TextEncoder().encode(text))

describe('ids of names', () => {
  // Published test vectors of MurmurHash3_x86_32 with seed 0 (values from memory).
  it.each([
    ['', 0],
    ['test', 0xba6bd213],
    ['Hello, world!', 0xc0363e43],
    ['The quick brown fox jumps over the lazy dog', 0x2e4ff723],
  ])('the hash of "%s"', (text, value) => expect(hash(text)).toBe(value))

  it('are the bits of the hash, and always an ordinary float', () => {
    expect(hex(identifierOf('Hello, world!'))).toBe('c0363e43')
    fc.assert(
      fc.property(fc.string(), (name) => {
        const bits = Number.parseInt(hex(identifierOf(name)), 16)
        const exponent = (bits >>> 23) & 255
        expect(exponent > 0 && exponent < 255).toBe(true)
        expect([hash(name), (hash(name) ^ (1 << 23)) >>> 0]).toContain(bits)
      }),
    )
    // Its hash has no exponent: one bit of it is turned.
    expect(hex(identifierOf(''))).toBe('00800000')
  })

  it('stand in the header with the names and how they were made', () => {
    const header = objectIdHeader(['coat', 'post'])
    const key = hash('CryptoObject').toString(16).padStart(8, '0').slice(0, 7)
    expect(Object.keys(header).sort()).toEqual(
      ['conversion', 'hash', 'manifest', 'name'].map((word) => `cryptomatte/${key}/${word}`),
    )
    expect(header[`cryptomatte/${key}/hash`]).toBe('MurmurHash3_32')
    expect(header[`cryptomatte/${key}/conversion`]).toBe('uint32_to_float32')
    expect(JSON.parse(header[`cryptomatte/${key}/manifest`]!)).toEqual({
      coat: hex(identifierOf('coat')),
      post: hex(identifierOf('post')),
    })
  })
})

/** A decoder of its own, after the specification: the shares of an id, over all pairs of channels. */
function decoded(channels: readonly { name: string; data: Float32Array }[], id: number, pixel: number): number {
  const at = (name: string) => channels.find((channel) => channel.name === name)?.data[pixel] ?? 0
  let sum = 0
  for (let level = 0; level < channels.length / 4; level++) {
    const layer = `CryptoObject${String(level).padStart(2, '0')}`
    if (at(`${layer}.R`) === id) sum += at(`${layer}.G`)
    if (at(`${layer}.B`) === id) sum += at(`${layer}.A`)
  }
  return sum
}

describe('ranked coverage', () => {
  it('gives every matte back, in falling order, and adds up to one with what nothing covers', () => {
    const share = fc.oneof(fc.constant(0), fc.constant(1), numberBetween(0, 1))
    fc.assert(
      fc.property(fc.array(share, { minLength: 1, maxLength: 7 }), (given) => {
        const total = given.reduce((sum, value) => sum + value, 0)
        const wanted = given.map((value) => (total > 1 ? value / total : value))
        const names = given.map((_, i) => `part ${i}`)
        const channels = rankedCoverage(
          given.map((value) => Float32Array.of(value)),
          names,
        )
        names.forEach((name, i) =>
          expect(Math.abs(decoded(channels, identifierOf(name), 0) - wanted[i]!)).toBeLessThan(1e-5),
        )
        const read = new Map(channels.map(({ name, data }) => [name, data]))
        names.forEach((name, i) => expect(Math.abs(coverageOfName(read, name)![0]! - wanted[i]!)).toBeLessThan(1e-5))
        expect(coverageOfName(read, 'nobody')![0]).toBe(0)
        const shares = channels.filter(({ name }) => /\.[GA]$/.test(name)).map(({ data }) => data[0]!)
        for (let i = 1; i < shares.length; i++) expect(shares[i]!).toBeLessThanOrEqual(shares[i - 1]!)
        expect(Math.abs(shares.reduce((sum, value) => sum + value, 0) - 1)).toBeLessThan(1e-4)
      }),
    )
  })

  it('keeps the largest where more meet than there is room for', () => {
    const names = Array.from({ length: 12 }, (_, i) => `part ${i}`)
    const channels = rankedCoverage(
      names.map((_, i) => Float32Array.of((i + 1) / 100)),
      names,
    )
    expect(channels).toHaveLength(16)
    expect(decoded(channels, identifierOf('part 11'), 0)).toBeCloseTo(0.12, 6)
    expect(decoded(channels, identifierOf('part 0'), 0)).toBe(0)
  })
})
