import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import path from 'node:path'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import {
  decodeTile,
  readAnalysisIndex,
  splitTiles,
  storedValue,
  tileRange,
  tileSize,
} from '@tender-lasso/formats/analysis'
import { readFileSync } from 'node:fs'
import { decodePicture, frameNumbersOf, ingestPictures, inspectFiles, readTiles, refuseHugeSize, withMemory, writeFrameFiles, type IngestedShot } from './index' // prettier-ignore
import { keepOriginal, keys, openStore, type FrameTier } from '../store'

let folder: string
beforeAll(() => void (folder = mkdtempSync(path.join(tmpdir(), 'tender-lasso-media-'))))
afterAll(() => rmSync(folder, { recursive: true, force: true }))

async function sixteenBit(name: string, values: (i: number) => number) {
  const data = Uint16Array.from({ length: 8 * 6 * 3 }, (_, i) => values(i))
  const file = path.join(folder, name)
  await sharp(data, { raw: { width: 8, height: 6, channels: 3 } })
    .toColourspace('rgb16')
    .toFormat(name.endsWith('.tif') ? 'tiff' : 'png', { compression: 'lzw' })
    .toFile(file)
  return { name, path: file }
}

const frameFile = (root: string, shotId: string, frame: number, tier: FrameTier) =>
  path.join(root, keys.frame(shotId, frame, tier))

describe('reading pictures', () => {
  it('keeps all 16 bits of PNG and TIFF, and widens 8 bits evenly', async () => {
    for (const name of ['a.png', 'a.tif']) {
      const file = await sixteenBit(name, (i) => i * 450)
      const { rgb } = await decodePicture(file.path, name)
      expect(Array.from(rgb)).toEqual(Array.from({ length: 144 }, (_, i) => i * 450))
    }
    const eight = path.join(folder, 'eight.png')
    await sharp(Buffer.from(Array.from({ length: 144 }, (_, i) => i)), {
      raw: { width: 8, height: 6, channels: 3 },
    }).toFile(eight)
    const { rgb } = await decodePicture(eight, 'eight.png')
    const shot = { rgb, isChromaHalved: false, width: 8, height: 6, colourEncoding: 'sRGB' as const }
    await writeFrameFiles(openStore(path.join(folder, 'widened')), 'widened', 1, shot)
    const bytes = readFileSync(frameFile(path.join(folder, 'widened'), 'widened', 1, 'analysis'))
    const index = readAnalysisIndex(bytes)
    const [red, green] = [1, 2].map((plane) => {
      const { offset, length } = tileRange(index, plane, 0, 0)
      return Array.from(decodeTile(bytes.subarray(offset, offset + length), tileSize(index, 0, 0)), storedValue)
    })
    expect(red).toEqual(Array.from({ length: 48 }, (_, i) => 3 * i * 257))
    expect(green).toEqual(Array.from({ length: 48 }, (_, i) => (3 * i + 1) * 257))
  })

  it('numbers come from the digits in which the files differ; versions are no frames', () => {
    expect(frameNumbersOf(['ws_010.1001.png'])).toEqual([1001])
    expect(frameNumbersOf(['shot2_v3_0007.tif', 'shot2_v3_0008.tif'])).toEqual([7, 8])
    expect(frameNumbersOf(['plate.png'])).toEqual([null])
    expect(frameNumbersOf(['shot.0001.v2.png'])).toEqual([1])
    expect(frameNumbersOf(['shot.0001.v2.png', 'shot.0002.v2.png'])).toEqual([1, 2])
    expect(frameNumbersOf(['a7_0100_take3.png', 'a7_0101_take3.png'])).toEqual([100, 101])
    expect(frameNumbersOf(['shot.0005.v1.png', 'shot.0006.v2.png'])).toEqual([5, 6])
    expect(frameNumbersOf(['one.0001.png', 'other.0002.png'])).toEqual([1, 2])
  })

  it('sizes beyond 16384 on a side or 67 megapixels are refused by name', () => {
    expect(() => refuseHugeSize('big.png', 16385, 10)).toThrow('big.png is 16385 x 10')
    expect(() => refuseHugeSize('big.png', 16384, 12000)).toThrow('67 megapixels')
    expect(() => refuseHugeSize('fine.png', 8192, 8192)).not.toThrow()
  })

  it('what is shown has as much colour as the plate: halved only where the plate had it halved', async () => {
    for (const [id, isChromaHalved, kept] of [
      ['halved', true, '4:2:0'],
      ['full', false, '4:4:4'],
    ] as const) {
      const frame = { rgb: new Uint8Array(64 * 64 * 3).fill(90), isChromaHalved, width: 64, height: 64, colourEncoding: 'sRGB' as const } // prettier-ignore
      await writeFrameFiles(openStore(path.join(folder, id)), id, 1, frame)
      const shown = await sharp(frameFile(path.join(folder, id), id, 1, 'display')).metadata()
      expect(shown.chromaSubsampling).toBe(kept)
    }
  })

  it('a plate that is a thousand times as wide as high has a thumbnail like any other', async () => {
    const [width, height] = [8192, 4]
    const frame = {
      rgb: new Uint16Array(width * height * 3).fill(9000),
      isChromaHalved: false,
      width,
      height,
      colourEncoding: 'sRGB' as const,
    }
    await writeFrameFiles(openStore(path.join(folder, 'wide')), 'wide', 1, frame)
    const { width: thumbnail } = await sharp(frameFile(path.join(folder, 'wide'), 'wide', 1, 'thumbnail')).metadata()
    expect(thumbnail).toBeLessThanOrEqual(1024)
  })

  it('what does not fit into memory is refused in words; what does waits for its turn', async () => {
    await expect(withMemory('big.png', 1e15, () => Promise.resolve(1))).rejects.toThrow(/big\.png needs about 1000000\.0 GB of memory, and .* GB are free/) // prettier-ignore
    let [running, most] = [0, 0]
    const work = async () => {
      most = Math.max(most, ++running)
      await new Promise((resolve) => setTimeout(resolve, 20))
      running--
    }
    await Promise.all(Array.from({ length: 5 }, () => withMemory('a.png', 1.2e9, work)))
    expect(most).toBe(2)
  })

  it('two pictures of one number are told', async () => {
    const [a, b] = [await sixteenBit('x.0001.png', () => 1), await sixteenBit('x.0001.tif', () => 1)]
    await expect(inspectFiles([a, b])).rejects.toThrow('both are frame 1')
  })
})

const rangeOf = ({ firstFrame, lastFrame }: IngestedShot) => [firstFrame, lastFrame] as const

describe('ingest', () => {
  const store = () => openStore(folder)

  it('makes luma by the weights of ITU-R BT.709, and goes on where a killed run stopped', async () => {
    const sources = []
    for (const name of ['s.0001.png', 's.0002.png']) {
      const file = await sixteenBit(name, (i) => [40000, 20000, 10000][i % 3]!)
      sources.push({ name, hash: await keepOriginal(store(), file.path) })
    }
    const shot = {
      id: 'ingested',
      width: 8,
      height: 6,
      firstFrame: 1001,
      lastFrame: 1002,
      sources,
      colourEncoding: 'sRGB' as const,
    }
    const stopAfterOne = { onFrame: () => Promise.reject(new Error('killed')) }
    await expect(ingestPictures(shot, rangeOf(shot), folder, stopAfterOne)).rejects.toThrow('killed')
    const seen: number[] = []
    await ingestPictures(shot, rangeOf(shot), folder, { onFrame: async (done) => void seen.push(done) })
    expect(seen).toEqual([1, 2])
    const bytes = readFileSync(frameFile(folder, 'ingested', 1002, 'analysis'))
    const index = readAnalysisIndex(bytes)
    const { offset, length } = tileRange(index, 0, 0, 0)
    const tile = decodeTile(bytes.subarray(offset, offset + length), tileSize(index, 0, 0))
    expect(storedValue(tile[5]!)).toBeCloseTo(0.2126 * 40000 + 0.7152 * 20000 + 0.0722 * 10000, -0.5)
    const block = { plane: 'green', firstColumn: 0, lastColumn: 0, firstRow: 0, lastRow: 0 } as const
    const green = tileRange(index, 2, 0, 0)
    const tileThere = Uint8Array.from(bytes.subarray(green.offset, green.offset + green.length))
    expect(splitTiles(await readTiles(store(), 'ingested', [1002, 1002], block))).toEqual([tileThere, tileThere])
    await expect(readTiles(store(), 'ingested', [1002], { ...block, lastRow: 1 })).rejects.toMatchObject({
      status: 416,
    })
    await expect(readTiles(store(), 'ingested', [1002, 1003], block)).rejects.toMatchObject({ status: 404 })
  })

  it('luma of a linear plate is display-encoded, its channels keep their values', async () => {
    const file = await sixteenBit('l.0001.png', () => 14147)
    const sources = [{ name: 'l.0001.png', hash: await keepOriginal(store(), file.path) }]
    const shot = {
      id: 'linear',
      width: 8,
      height: 6,
      firstFrame: 1,
      lastFrame: 1,
      sources,
      colourEncoding: 'linear' as const,
    }
    await ingestPictures(shot, rangeOf(shot), folder, { onFrame: async () => undefined })
    const bytes = readFileSync(frameFile(folder, 'linear', 1, 'analysis'))
    const index = readAnalysisIndex(bytes)
    const valueOf = (plane: number) => {
      const { offset, length } = tileRange(index, plane, 0, 0)
      return storedValue(decodeTile(bytes.subarray(offset, offset + length), tileSize(index, 0, 0))[5]!)
    }
    // 21.586 % of light is sRGB code 128 (IEC 61966-2-1).
    expect(valueOf(0) / 257).toBeCloseTo(128, 1)
    expect(valueOf(1)).toBe(14147)
  })

  it('a damaged picture is named and leaves no frame behind', async () => {
    const noise = Buffer.from(
      Array.from({ length: 64 * 64 * 3 }, (_, i) => Math.imul(i * i + 7, 2246822519 ^ i) >>> 24),
    )
    const good = { path: path.join(folder, 'd.0001.png') }
    await sharp(noise, { raw: { width: 64, height: 64, channels: 3 } }).toFile(good.path)
    const bad = path.join(folder, 'd.0002.png')
    writeFileSync(bad, readFileSync(good.path).subarray(0, 4000))
    const sources = [
      { name: 'd.0001.png', hash: await keepOriginal(store(), good.path) },
      { name: 'd.0002.png', hash: await keepOriginal(store(), bad) },
    ]
    const shot = {
      id: 'damaged',
      width: 64,
      height: 64,
      firstFrame: 1,
      lastFrame: 2,
      sources,
      colourEncoding: 'sRGB' as const,
    }
    await expect(ingestPictures(shot, rangeOf(shot), folder, { onFrame: async () => undefined })).rejects.toThrow(
      'd.0002.png is damaged',
    )
    expect(() => readFileSync(frameFile(folder, 'damaged', 1, 'analysis'))).toThrow()
  })
})
