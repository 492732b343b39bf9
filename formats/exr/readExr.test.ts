import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import path from 'node:path'
import fc from 'fast-check'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { floatFromHalf, halfFromFloat, readExr, writeExr } from './index'

let folder: string
beforeAll(() => void (folder = mkdtempSync(path.join(tmpdir(), 'tender-lasso-readexr-'))))
afterAll(() => rmSync(folder, { recursive: true, force: true }))

const [width, height] = [37, 35]
const noise = Float32Array.from({ length: width * height }, (_, i) => (Math.imul(i + 7, 2654435761) >>> 9) / 2 ** 23)
/** Any bits but those of what is no number, which an id never has. */
const ids = new Float32Array(Uint32Array.from({ length: width * height }, (_, i) => (Math.imul(i, 2654435761) & 0xff7fffff) >>> 0).buffer) // prettier-ignore
const bitsOf = (data: Float32Array) => Array.from(new Uint32Array(data.buffer, data.byteOffset, data.length))
const own = writeExr({ width, height, pixel: 'float', compression: 'zip', channels: [{ name: 'noise', data: noise }, { name: 'id', data: ids }] }) // prettier-ignore

describe('EXR read', () => {
  it.each(['none', 'zips', 'zip'] as const)('%s: what we write, the bits of ids among it', (compression) => {
    const channels = [{ name: 'noise', data: noise }, { name: 'id', data: ids }] // prettier-ignore
    const read = readExr(writeExr({ width, height, pixel: 'float', compression, channels }))
    expect(read).toMatchObject({ width, height, window: { left: 0, top: 0, right: width, bottom: height } })
    expect([...read.channels.keys()]).toEqual(['id', 'noise'])
    expect(bitsOf(read.channels.get('id')!)).toEqual(bitsOf(ids))
    expect(read.channels.get('noise')).toEqual(noise)
  })

  it('of a data window only its pixels, in their place; of many channels only those that are wanted', () => {
    const window = { left: 5, top: 3, right: 16, bottom: 30 }
    const data = noise.slice(0, 11 * 27)
    const halves = writeExr({ width, height, pixel: 'half', compression: 'zip', window, channels: ['a', 'b'].map((name) => ({ name, data })) }) // prettier-ignore
    const read = readExr(halves, (name) => name === 'b')
    expect(read.window).toEqual(window)
    expect([...read.channels.keys()]).toEqual(['b'])
    expect(read.channels.get('b')).toEqual(data.map((value) => floatFromHalf(halfFromFloat(value))))
  })

  // Another writer: OpenImageIO, through the OpenEXR library.
  it.each([
    ['half', 'none'],
    ['half', 'zips'],
    ['float', 'zip'],
  ])('%s, %s: what oiiotool writes', (kind, compression) => {
    const [from, to] = [path.join(folder, 'from.exr'), path.join(folder, 'to.exr')]
    writeFileSync(from, own)
    execFileSync('oiiotool', [from, '--ch', 'noise', '--crop', '20x11+7+9', '-d', kind, '--compression', compression, '-o', to]) // prettier-ignore
    const { channels, window } = readExr(readFileSync(to))
    expect(window).toEqual({ left: 7, top: 9, right: 27, bottom: 20 })
    const [data] = [...channels.values()]
    for (let y = 9; y < 20; y++)
      for (let x = 7; x < 27; x++) {
        const value = noise[y * width + x]!
        const expected = kind === 'half' ? floatFromHalf(halfFromFloat(value)) : value
        expect(Math.abs(data![(y - 9) * 20 + x - 7]! - expected)).toBeLessThan(1e-6)
      }
  })

  it('whole numbers of 32 bits are numbers', () => {
    const data = new Float32Array(Uint32Array.from({ length: 12 }, (_, i) => 1000 * i).buffer)
    const bytes = writeExr({ width: 4, height: 3, pixel: 'float', compression: 'none', channels: [{ name: 'kind', data }] }) // prettier-ignore
    const at = Buffer.from(bytes).indexOf('kind') + 5
    expect(bytes[at]).toBe(2)
    bytes[at] = 0
    expect(Array.from(readExr(bytes).channels.get('kind')!)).toEqual(Array.from({ length: 12 }, (_, i) => 1000 * i))
  })

  it('what is none, of another kind, or damaged is refused in words', () => {
    expect(() => readExr(new TextEncoder().encode('no picture at all'))).toThrow(/it is none/)
    const tiled = own.slice()
    tiled[5] = 2
    expect(() => readExr(tiled)).toThrow(/scan lines of one part/)
    const piz = path.join(folder, 'piz.exr')
    writeFileSync(path.join(folder, 'own.exr'), own)
    execFileSync('oiiotool', [path.join(folder, 'own.exr'), '--compression', 'piz', '-o', piz])
    expect(() => readExr(readFileSync(piz))).toThrow(/only ZIP/)
    for (const length of [9, 60, 300, own.length - 40]) expect(() => readExr(own.subarray(0, length))).toThrow(/cut short/) // prettier-ignore
  })

  it('hostile bytes never do more than be refused', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.nat(own.length - 1), fc.nat(255)), { minLength: 1, maxLength: 12 }),
        (changes) => {
          const bytes = own.slice()
          for (const [at, value] of changes) bytes[at] = value
          try {
            const { channels } = readExr(bytes)
            for (const data of channels.values()) expect(data.length).toBeLessThanOrEqual(2 ** 27)
          } catch (error) {
            expect(error).toMatchObject({ code: 'not-exr' })
          }
        },
      ),
      { numRuns: 200 },
    )
  })
})
