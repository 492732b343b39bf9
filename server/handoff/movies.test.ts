import { execFileSync } from 'node:child_process'
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import path from 'node:path'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { constantChannel, NEW_OUTPUT_FIELDS, outputSchema, outputWith, type Output } from '@tender-lasso/core/document'
import { documentOf, testPart, testShape, testShot, testSubject } from '@tender-lasso/core/document/testDocuments'
import { frameView } from '@tender-lasso/core/handoff'
import { renderMattes } from '@tender-lasso/core/raster'
import { largestDifference } from '@tender-lasso/core/testing'
import { keys, openStore } from '../store'
import type { Delivery } from './payload'
import { finishedFrame, writeFrame, type HandoffTarget, type ManifestFile } from './write'
import { writeMovies } from './movies'

// An odd side, since movies to look at have halved colour.
const [width, height] = [97, 64]
const frames = [1001, 1002, 1003, 1004, 1005, 1006]
const soft = (id: string, x: number) => {
  const shape = testShape(`${id}Shape`, id, [1001, 1010], 8, 20)
  for (const key of shape.channels.outline!.keys)
    for (let i = 0; i < key.values.length; i += key.values.length / 8) {
      key.values[i]! += x - 300
      key.values[i + 1]! += 32 - 200
    }
  return { ...shape, channels: { ...shape.channels, outerFeather: constantChannel(6) } }
}
const document = documentOf([
  { ...testShot, width, height },
  testSubject,
  testPart('coat', { depth: 0 }),
  testPart('scarf', { depth: 1 }),
  soft('coat', 30),
  soft('scarf', 60),
])
const mattes = ['coat', 'scarf'].map((partId) => ({ partId, name: partId }))
const never = new AbortController().signal
let target: HandoffTarget

beforeAll(async () => {
  target = {
    store: mkdtempSync(path.join(tmpdir(), 'tender-lasso-movies-')),
    key: 'job',
    shotId: 'shot',
    shotName: 'WS 010',
    width,
    height,
    pixelAspect: 1.5,
    rate: { numerator: 24000, denominator: 1001 },
  }
  for (const frame of frames) {
    const plate = sharp({ create: { width, height, channels: 3, background: { r: 60, g: 120, b: 200 } } })
    await openStore(target.store).put(keys.frame('shot', frame, 'display'), await plate.jpeg({ quality: 100 }).toBuffer()) // prettier-ignore
  }
})
afterAll(() => rmSync(target.store, { recursive: true, force: true }))

function deliveryOf(change: Partial<Output>): Delivery {
  const output = outputWith({ ...NEW_OUTPUT_FIELDS, id: 'o', name: 'Movie', order: 0 }, change)
  expect(outputSchema.parse(output)).toEqual(output)
  return { output, version: 2, sequence: 1, range: [1001, 1006], mattes }
}

async function made(payload: Delivery): Promise<ManifestFile[]> {
  const files: ManifestFile[] = []
  // In no order, as threads end.
  for (const frame of [1004, 1001, 1006, 1003, 1002, 1005])
    files.push(...(await writeFrame({ document, payload, target }, frame)))
  return writeMovies(payload, target, files, never)
}

const placeOf = (file: ManifestFile) => path.join(target.store, 'job', file.path)
const probed = (file: string) =>
  (JSON.parse(execFileSync('ffprobe', ['-v', 'error', '-of', 'json', '-count_frames', '-show_streams', file], { encoding: 'utf8' })) as { streams: Record<string, string | number>[] }).streams[0]! // prettier-ignore
const decoded = (file: string, format: string) =>
  execFileSync('ffmpeg', ['-v', 'error', '-i', file, '-vf', 'scale=in_color_matrix=bt709', '-pix_fmt', format, '-f', 'rawvideo', '-'], { maxBuffer: 2 ** 26 }) // prettier-ignore

function alphasOn(payload: Delivery, frame: number): Float32Array[] {
  const wanted = mattes.map(({ partId }) => ({ partId, withHoldouts: true }))
  const box = { left: 0, top: 0, right: width, bottom: height }
  return renderMattes(frameView(document, payload.output, frame).scene, wanted, { box, motionBlur: true })!
}

describe('a lossless movie', () => {
  it('is one a matte, whose frames ffmpeg decodes to the very coverage in 16 bits', async () => {
    const payload = deliveryOf({ format: 'ffv1' })
    const files = await made(payload)
    expect(files.map((file) => file.path)).toEqual(['coat/WS_010_coat_v002.mkv', 'scarf/WS_010_scarf_v002.mkv'])
    for (const [m, file] of files.entries()) {
      expect(probed(placeOf(file))).toMatchObject({
        codec_name: 'ffv1',
        pix_fmt: 'gray16le',
        width,
        height,
        r_frame_rate: '24000/1001',
        sample_aspect_ratio: '3:2',
        nb_read_frames: '6',
      })
      const bytes = decoded(placeOf(file), 'gray16le')
      const values = new Uint16Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length))
      frames.forEach((frame, f) => {
        const alpha = alphasOn(payload, frame)[m]!
        const own = values.subarray(f * alpha.length, (f + 1) * alpha.length)
        expect(
          largestDifference(
            own,
            Float64Array.from(alpha, (share) => share * 65535),
          ),
        ).toBeLessThanOrEqual(0.51)
      })
    }
  })
})

describe('a movie to look at', () => {
  it.each([
    ['h264', 'h264', 'mp4'],
    ['vp9', 'vp9', 'webm'],
  ] as const)('%s: all mattes in white, of an even size, near the coverage', async (format, codec, ending) => {
    const payload = deliveryOf({ layout: 'white', format })
    const [file, ...others] = await made(payload)
    expect(others).toEqual([])
    expect(file!.path).toBe(`white/WS_010_white_v002.${ending}`)
    expect(probed(placeOf(file!))).toMatchObject({ codec_name: codec, pix_fmt: 'yuv420p', width: 98, height, r_frame_rate: '24000/1001', nb_read_frames: '6', color_space: 'bt709' }) // prettier-ignore
    const grey = decoded(placeOf(file!), 'rgb24')
    let worst = 0
    frames.forEach((frame, f) => {
      const [coat, scarf] = alphasOn(payload, frame)
      for (let y = 0; y < height; y++) {
        for (let x = 0; x < width; x++) {
          const share = coat![y * width + x]! + scarf![y * width + x]!
          worst = Math.max(worst, Math.abs(grey[3 * ((f * height + y) * 98 + x) + 1]! - 255 * share))
        }
      }
    })
    // What such a codec loses at soft edges.
    expect(worst).toBeLessThan(24)
  })

  it.each(['h264', 'vp9', 'ffv1'] as const)('%s: says the notes', async (format) => {
    const notes = [{ name: 'show', value: 'Wick Street, näher' }]
    const layout = format === 'ffv1' ? 'one' : 'white'
    const [file] = await made(deliveryOf({ layout, format, notes }))
    const said = execFileSync('ffprobe', ['-v', 'error', '-of', 'json', '-show_format', placeOf(file!)], { encoding: 'utf8' }) // prettier-ignore
    const { tags } = (JSON.parse(said) as { format: { tags: Record<string, string> } }).format
    expect(Object.entries(tags).map(([name, value]) => [name.toLowerCase(), value])).toContainEqual(['show', 'Wick Street, näher']) // prettier-ignore
  })

  it('cut out shows the plate where the mattes are, in its colours', async () => {
    const payload = deliveryOf({ layout: 'cutout', format: 'h264' })
    const [file] = await made(payload)
    const rgb = decoded(placeOf(file!), 'rgb24')
    const at = (x: number, y: number) => [...rgb.subarray(3 * (y * 98 + x), 3 * (y * 98 + x) + 3)]
    at(30, 32).forEach((value, c) => expect(Math.abs(value - [60, 120, 200][c]!)).toBeLessThanOrEqual(5))
    at(2, 2).forEach((value) => expect(Math.abs(value - 41)).toBeLessThanOrEqual(5))
  })

  it('whose plate is not there is refused in words', async () => {
    const payload = { ...deliveryOf({ layout: 'overlay' }), range: [1007, 1007] as [number, number] }
    await expect(writeFrame({ document, payload, target }, 1007)).rejects.toMatchObject({ status: 409, code: 'no-plate' }) // prettier-ignore
  })
})

describe('the pictures of a movie', () => {
  it('are found by a later try, and none is made again', async () => {
    const payload = deliveryOf({ format: 'ffv1' })
    const written = await writeFrame({ document, payload, target: { ...target, key: 'later' } }, 1002)
    expect(await finishedFrame(payload, { ...target, key: 'later' }, 1002)).toEqual(written)
  })

  it('that are damaged, or a work that is ended, leave no movie behind', async () => {
    const payload = deliveryOf({ format: 'ffv1' })
    const elsewhere = { ...target, key: 'broken' }
    const files = await writeFrame({ document, payload, target: elsewhere }, 1001)
    const ended = new AbortController()
    ended.abort(new Error('cancelled'))
    await expect(writeMovies(payload, elsewhere, files, ended.signal)).rejects.toThrow('cancelled')
    const picture = path.join(target.store, 'broken', files[0]!.path)
    writeFileSync(picture, readFileSync(picture).subarray(0, 60))
    await expect(writeMovies(payload, elsewhere, files, never)).rejects.toMatchObject({ code: 'not-encoded' })
    expect(existsSync(path.join(target.store, 'broken', 'coat'))).toBe(false)
  })
})
