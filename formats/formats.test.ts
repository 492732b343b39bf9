import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import path from 'node:path'
import fc from 'fast-check'
import { zlibSync } from 'fflate'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { largestDifference } from '@tender-lasso/core/testing'
import {
  ANALYSIS_TILE,
  decodeTile,
  eachTile,
  encodeAnalysisFrame,
  frameListSchema,
  pasteTile,
  readAnalysisIndex,
  recutTiles,
  roomForTiles,
  splitTiles,
  storedValue,
  tileBlockSchema,
  tileRange,
  tileSize,
} from './analysis'
import { packTile, unpackTile } from './analysis/packedTile'
import { wasmPacker } from './analysis/packer'
import { PLAIN_PACKER } from './analysis/pictureRows'
import { wasmUnpacker } from './analysis/unpacker'
import { floatFromHalf, halfFromFloat, writeExr } from './exr'

let folder: string
beforeAll(() => void (folder = mkdtempSync(path.join(tmpdir(), 'tender-lasso-formats-'))))
afterAll(() => rmSync(folder, { recursive: true, force: true }))

describe('half floats (IEEE 754-2008)', () => {
  it('known values, and the nearest half for any number', () => {
    // From the standard's binary16 layout: one, smallest normal and subnormal, largest finite.
    expect([1, 0.5, 2 ** -14, 2 ** -24, 65504, -2].map(halfFromFloat)).toEqual([
      0x3c00, 0x3800, 0x0400, 0x0001, 0x7bff, 0xc000,
    ])
    fc.assert(
      fc.property(fc.float({ min: -60000, max: 60000, noNaN: true }), (value) => {
        const half = halfFromFloat(value)
        const error = Math.abs(floatFromHalf(half) - value)
        for (const neighbour of [half - 1, half + 1]) {
          const other = floatFromHalf(neighbour & 0xffff)
          if (Number.isFinite(other) && Math.sign(other) === Math.sign(value)) {
            expect(error).toBeLessThanOrEqual(Math.abs(other - value))
          }
        }
      }),
    )
  })
})

describe('OpenEXR files', () => {
  it('are read back by the OpenEXR and OpenImageIO tools of Debian with the values that went in', () => {
    const [width, height] = [67, 41]
    const ramp = Float32Array.from({ length: width * height }, (_, i) => (i % width) / (width - 1))
    const dot = Float32Array.from({ length: width * height }, (_, i) => (i === 20 * width + 30 ? 1 : 0))
    const file = path.join(folder, 'mattes.exr')
    writeFileSync(
      file,
      writeExr({
        width,
        height,
        pixel: 'half',
        compression: 'zip',
        channels: [
          { name: 'signboard.A', data: ramp },
          { name: 'coat.A', data: dot },
        ],
      }),
    )
    const header = execFileSync('exrheader', [file], { encoding: 'utf8' })
    expect(header).toContain('coat.A, 16-bit floating-point')
    expect(header).toContain('signboard.A, 16-bit floating-point')
    expect(header).toMatch(/compression.*zip, multi-scanline/)
    execFileSync('exrinfo', ['-s', file])
    const flat = path.join(folder, 'ramp.tif')
    execFileSync('oiiotool', [file, '--ch', 'signboard.A', '-d', 'float', '--compression', 'none', '-o', flat])
    const stats = execFileSync('oiiotool', ['--stats', flat], { encoding: 'utf8' })
    expect(stats).toMatch(/Stats Max: 1\.0/)
    const dump = execFileSync('oiiotool', ['--dumpdata', file], { encoding: 'utf8' })
    const pixel = /Pixel \(30, 20\):\s+([\d.]+) ([\d.]+)/.exec(dump)!
    expect(Number(pixel[1])).toBe(1)
    expect(Number(pixel[2])).toBeCloseTo(30 / 66, 3)
    expect(readFileSync(file).length).toBeLessThan(width * height * 4)
  })

  it('keep every half of noise, which does not shrink, and of lines that are all alike', () => {
    const [width, height] = [33, 40]
    const noise = Float32Array.from(
      { length: width * height },
      (_, i) => (Math.imul(i + 7, 2654435761) >>> 9) / 2 ** 23,
    )
    const flat = Float32Array.from({ length: width * height }, (_, i) => (i < 16 * width ? 0 : 1))
    const file = path.join(folder, 'noise.exr')
    for (const channels of [[{ name: 'a', data: noise }], [{ name: 'a', data: flat }]]) {
      writeFileSync(file, writeExr({ width, height, channels, pixel: 'half', compression: 'zip' }))
      const raw = path.join(folder, 'noise.tif')
      execFileSync('oiiotool', [file, '-d', 'float', '--compression', 'none', '-o', raw])
      const dump = execFileSync('oiiotool', ['--dumpdata', raw], { encoding: 'utf8' })
      const values = [...dump.matchAll(/Pixel \(\d+, \d+\):\s+([\d.e-]+)/g)].map((match) => Number(match[1]))
      expect(values).toHaveLength(width * height)
      values.forEach((value, i) => {
        // Nine digits are printed.
        expect(Math.abs(value - floatFromHalf(halfFromFloat(channels[0]!.data[i]!)))).toBeLessThan(1e-7)
      })
    }
  })
})

describe('analysis frames', () => {
  it('give back every 16-bit value of every plane, of noise, of 8-bit plates and of smooth ramps', () => {
    const kinds: ((i: number, seed: number) => number)[] = [
      (i, seed) => Math.imul(i + 1, 2654435761 + seed) >>> 16,
      (i, seed) => 257 * (Math.imul(i + 1, 2654435761 + seed) >>> 24),
      (i) => (i * 3) & 0xffff,
      () => 65535,
    ]
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 600 }),
        fc.integer({ min: 1, max: 300 }),
        fc.integer(),
        fc.constantFrom(...kinds),
        (width, height, seed, kind) => {
          const channels = [0, 1, 2].map((p) =>
            Uint16Array.from({ length: width * height }, (_, i) => kind(i, seed + p)),
          )
          const rgb = Uint16Array.from({ length: 3 * width * height }, (_, i) => channels[i % 3]![Math.floor(i / 3)]!)
          // Weights of ITU-R BT.709.
          const luma = channels[0]!.map((red, i) => (2126 * red + 7152 * channels[1]![i]! + 722 * channels[2]![i]! + 5000) / 10000) // prettier-ignore
          const planes = [luma, ...channels]
          const bytes = encodeAnalysisFrame({ rgb, shown: rgb, width, height })
          const index = readAnalysisIndex(bytes)
          expect([index.width, index.height, index.planes]).toEqual([width, height, 4])
          let wrong = 0
          for (let p = 0; p < 4; p++) {
            for (let row = 0; row < index.rows; row++) {
              for (let column = 0; column < index.columns; column++) {
                const { offset, length } = tileRange(index, p, column, row)
                const size = tileSize(index, column, row)
                const tile = decodeTile(bytes.subarray(offset, offset + length), size)
                for (let k = 0; k < tile.length; k++) {
                  const x = column * ANALYSIS_TILE + (k % size.width)
                  const y = row * ANALYSIS_TILE + Math.floor(k / size.width)
                  if (storedValue(tile[k]!) !== planes[p]![y * width + x]) wrong++
                }
              }
            }
          }
          expect(wrong).toBe(0)
        },
      ),
      { numRuns: 24 },
    )
  })

  it('WebAssembly packs pictures of all sizes and depths to the very bytes of the plain reference', () => {
    const inWasm = wasmPacker()!
    const sides = fc.integer({ min: 1, max: 300 })
    fc.assert(
      fc.property(sides, sides, fc.integer(), fc.constantFrom(8, 11, 16), (width, height, seed, bits) => {
        const noise = (i: number) => Math.imul(i + 1, 2654435761 + seed) >>> (32 - bits)
        const rgb = bits === 8 ? Uint8Array.from({ length: 3 * width * height }, (_, i) => noise(i)) : Uint16Array.from({ length: 3 * width * height }, (_, i) => noise(i)) // prettier-ignore
        const shown = bits === 11 ? rgb.map((value) => value * 3) : rgb
        const picture = { rgb, shown, width, height }
        expect(
          largestDifference(encodeAnalysisFrame(picture, inWasm), encodeAnalysisFrame(picture, PLAIN_PACKER)),
        ).toBe(0)
        // Grey of 8 bits in 16-bit numbers is divided by 257, up to the last value that is none.
        const grey = { rgb: Uint16Array.from(rgb, (value) => 257 * (value & 255)), shown: rgb, width, height }
        for (const last of [0, 258]) {
          grey.rgb[grey.rgb.length - 1] = last
          expect(largestDifference(encodeAnalysisFrame(grey, inWasm), encodeAnalysisFrame(grey, PLAIN_PACKER))).toBe(0)
        }
      }),
      { numRuns: 12 },
    )
  })

  it('WebAssembly unpacks a tile to the very values of the plain reference', () => {
    const inWasm = wasmUnpacker()!
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 70 }), fc.integer({ min: 1, max: 40 }), fc.integer(), (w, h, seed) => {
        const values = Uint16Array.from(
          { length: w * h },
          (_, i) => Math.imul(i + 1, 2654435761 + seed) >>> (16 + (i & 7)),
        )
        const packed = packTile(values, w, h)
        expect(
          largestDifference(unpackTile(packed, w, h, 1 / 65535, inWasm), unpackTile(packed, w, h, 1 / 65535)),
        ).toBe(0)
      }),
    )
  })

  it('a tile that is cut short, too long or marked otherwise is refused', () => {
    const rgb = Uint16Array.from({ length: 3 * 300 * 260 }, (_, i) => Math.imul(i + 1, 2654435761) >>> 16)
    const bytes = encodeAnalysisFrame({ rgb, shown: rgb, width: 300, height: 260 })
    const index = readAnalysisIndex(bytes)
    const { offset, length } = tileRange(index, 0, 1, 0)
    const packed = bytes.slice(offset, offset + length)
    const wider = packed.slice()
    wider[4] = 40
    for (const bad of [packed.subarray(0, length >> 1), bytes.slice(offset, offset + length + 4), wider]) {
      expect(() => decodeTile(bad, tileSize(index, 1, 0))).toThrow(
        expect.objectContaining({ code: 'not-a-packed-tile' }),
      )
    }
    expect(() => decodeTile(packed.fill(0, 0, 1), tileSize(index, 1, 0))).toThrow()
  })

  it('tiles of version 1, deflated differences to the left neighbour, are still read', () => {
    const values = [[5, 260, 260], [65535, 0, 7]] as const // prettier-ignore
    const differences = values.flatMap((row) => row.map((value, x) => (value - (row[x - 1] ?? 0)) & 0xffff))
    const tile = zlibSync(Uint8Array.from([...differences.map((d) => d & 0xff), ...differences.map((d) => d >> 8)]))
    expect(Array.from(decodeTile(tile, { width: 3, height: 2 }), storedValue)).toEqual(values.flat())
  })

  it("a frame of version 2, with tiles of 256 x 256, is read in today's tiles", async () => {
    const picture = { width: 600, height: 300 }
    const plane = Uint16Array.from({ length: 600 * 300 }, (_, i) => Math.imul(i + 1, 2654435761) >>> 16)
    const old: Uint8Array[] = []
    for (const [column, row] of eachTile({ firstColumn: 0, lastColumn: 2, firstRow: 0, lastRow: 1 })) {
      const { width, height } = tileSize(picture, column, row, 256)
      const tile = Uint16Array.from(
        { length: width * height },
        (_, i) => plane[(row * 256 + Math.floor(i / width)) * 600 + column * 256 + (i % width)]!,
      )
      old.push(packTile(tile, width, height))
    }
    const head = new DataView(new ArrayBuffer(28 + 8 * old.length))
    ;[0x46414c54, 2, 600, 300, 256, 1, 8 * old.length].forEach((field, i) => head.setUint32(4 * i, field, true))
    const index = readAnalysisIndex(new Uint8Array(head.buffer))
    const tiles = { firstColumn: 1, lastColumn: 4, firstRow: 1, lastRow: 2 }
    const recut = await recutTiles(index, tiles, async (column, row) => old[row * 3 + column]!)
    const image = { left: 140, top: 130, width: 460, height: 170, data: new Float32Array(460 * 170) }
    for (const [i, [column, row]] of [...eachTile(tiles)].entries()) {
      pasteTile(picture, decodeTile(recut[i]!, tileSize(picture, column, row)), column, row, image)
    }
    const expected = image.data.map((_, i) => plane[(130 + Math.floor(i / 460)) * 600 + 140 + (i % 460)]!)
    expect(image.data.map(storedValue)).toEqual(expected)
  })

  it('tiles of a block come apart as they went together; bytes that do not add up are refused', () => {
    const tiles = [3, 0, 700].map((length, i) => new Uint8Array(length).fill(i + 1))
    const { bytes: joined, places } = roomForTiles(tiles.map(({ length }) => length))
    tiles.forEach((tile, i) => joined.set(tile, places[i]))
    expect(splitTiles(joined)).toEqual(tiles)
    for (const bad of [joined.subarray(0, 2), joined.subarray(0, 9), joined.subarray(0, joined.length - 1)]) {
      expect(() => splitTiles(bad)).toThrow(expect.objectContaining({ code: 'not-a-tile-block' }))
    }
    const block = { plane: 'luma', firstColumn: '2', lastColumn: '1', firstRow: '0', lastRow: '0' }
    expect(tileBlockSchema.safeParse(block).success).toBe(false)
    expect(tileBlockSchema.safeParse({ ...block, lastColumn: '2' }).success).toBe(true)
    expect(frameListSchema.parse('1001,-3,7')).toEqual([1001, -3, 7])
    for (const bad of ['', '1,', '1;2', '1.5', Array(17).fill(1).join()]) {
      expect(frameListSchema.safeParse(bad).success).toBe(false)
    }
  })

  it('refuse other bytes with a code', () => {
    expect(() => readAnalysisIndex(new Uint8Array(100))).toThrow(
      expect.objectContaining({ code: 'not-an-analysis-frame' }),
    )
  })
})
