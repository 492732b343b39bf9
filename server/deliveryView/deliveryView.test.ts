import { mkdtemp, readdir, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import path from 'node:path'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { hasHoldouts, NEW_OUTPUT_FIELDS, type Output } from '@tender-lasso/core/document'
import { documentOf, testPart, testShape, testShot, testSubject } from '@tender-lasso/core/document/testDocuments'
import { frameView, mattesOf } from '@tender-lasso/core/handoff'
import { renderMattes } from '@tender-lasso/core/raster'
import { readManifest, writeFrame, writeManifest, writeMovies, type Delivery, type HandoffTarget } from '../handoff'
import { openStore } from '../store'
import { deliveredMatte } from './deliveredMatte'
import { compared, delivered } from './index'

const [width, height] = [90, 61]
const document = documentOf([
  { ...testShot, width, height },
  testSubject,
  testPart('coat'),
  testPart('scarf', { depth: 1 }),
  moved(testShape('s1', 'coat', [1001], 8, 14), -260, -172),
  moved(testShape('s2', 'scarf', [1001], 8, 9), -242, -165),
])

function moved(shape: ReturnType<typeof testShape>, dx: number, dy: number) {
  for (const { values } of shape.channels.outline.keys)
    for (let p = 0; p < shape.pointIds.length; p++) {
      values[11 * p]! += dx
      values[11 * p + 1]! += dy
    }
  return shape
}

let folder: string
beforeAll(async () => void (folder = await mkdtemp(path.join(tmpdir(), 'tender-lasso-view-'))))
afterAll(() => rm(folder, { recursive: true, force: true }))

const FRAMES = [1001, 1002, 1003]
let count = 0

/** A delivery of three frames, in a store of its own. */
async function delivery(change: Partial<Output>) {
  const output: Output = { ...NEW_OUTPUT_FIELDS, id: 'o', name: 'Mättes & more', order: 0, ...change }
  const payload: Delivery = { output, version: 2, sequence: 5, range: [1001, 1003], mattes: mattesOf(document, output) }
  const target: HandoffTarget = {
    store: folder,
    key: `exports/${++count}`,
    shotId: 's',
    shotName: 'WS_010',
    width,
    height,
    pixelAspect: 1,
    rate: { numerator: 24, denominator: 1 },
  }
  const files = []
  for (const frame of FRAMES) files.push(...(await writeFrame({ document, payload, target }, frame)))
  const whole =
    output.format === 'ffv1' ? await writeMovies(payload, target, files, new AbortController().signal) : files
  await writeManifest(payload, target, whole)
  const store = openStore(folder)
  const manifest = (await readManifest(store, target.key))!
  return {
    output,
    store,
    key: target.key,
    manifest,
    read: (partId: string, frame = 1002) => deliveredMatte({ store, key: target.key, manifest, partId, frame }),
  }
}

/** The very matte. */
const matteOf = (output: Output, partId: string) =>
  renderMattes(frameView(document, output, 1002).scene, [{ partId, withHoldouts: hasHoldouts(output) }], {
    box: { left: 0, top: 0, right: Math.ceil(width * output.scale), bottom: Math.ceil(height * output.scale) },
    motionBlur: output.motionBlur,
  })![0]!

const CHANNELS = { layout: 'channels', pattern: '{output}.{frame}' } as const
const RGB = { layout: 'rgb', pattern: '{part}.{frame}' } as const

describe('a matte out of the files of a delivery', () => {
  it.each<[string, Partial<Output>, number]>([
    ['png8', { format: 'png8' }, 0.5 / 255],
    ['png16', { format: 'png16' }, 1 / 65535],
    ['tiff8', { format: 'tiff8' }, 0.5 / 255],
    ['tiff16, three in a picture', { format: 'tiff16', ...RGB }, 1 / 65535],
    ['png16 of half the size, three in a picture', { format: 'png16', scale: 0.5, ...RGB }, 1 / 65535],
    ['EXR half, channels, data window', { format: 'exr-half', window: 'data', ...CHANNELS }, 1 / 2048],
    ['EXR float, channels, no compression', { format: 'exr-float', compression: 'none', ...CHANNELS }, 1 / 65535],
    ['EXR half, one matte a picture', { format: 'exr-half', compression: 'zips' }, 1 / 2048],
    ['EXR half, three in a picture', { format: 'exr-half', ...RGB }, 1 / 2048],
    ['object ids', { format: 'exr-float', layout: 'object-id', pattern: '{output}.{frame}' }, 1 / 65535],
    ['FFV1', { format: 'ffv1', pattern: '{part}' }, 1 / 65535],
  ])('%s', async (_, change, step) => {
    const { output, read } = await delivery(change)
    for (const partId of ['coat', 'scarf']) {
      const [read16, matte] = [await read(partId), matteOf(output, partId)]
      expect([read16.width, read16.height]).toEqual([Math.ceil(width * output.scale), Math.ceil(height * output.scale)])
      expect(matte.reduce((sum, value) => sum + value, 0)).toBeGreaterThan(20)
      const worst = matte.reduce((most, value, i) => Math.max(most, Math.abs(value - read16.values[i]! / 65535)), 0)
      expect(worst).toBeLessThan(step + 0.6 / 65535)
    }
  })

  it('what is not there is told: the frame, the Part, the file', async () => {
    const { read, key } = await delivery({ format: 'png16' })
    await expect(read('coat', 1009)).rejects.toMatchObject({ status: 404 })
    await expect(read('hat')).rejects.toMatchObject({ status: 404 })
    const [coat] = (await readdir(path.join(folder, key))).filter((name) => name.includes('coat'))
    for (const name of await readdir(path.join(folder, key, coat!)))
      await writeFile(path.join(folder, key, coat!, name), 'no picture')
    await expect(read('coat')).rejects.toMatchObject({ status: 500, code: 'delivery-unreadable' })
    await rm(path.join(folder, key, coat!), { recursive: true })
    await expect(read('coat')).rejects.toMatchObject({ status: 500, code: 'delivery-unreadable' })
  })

  it('is compared with the matte as it is now; what the thread could not do is told', async () => {
    const { key, manifest, output, read } = await delivery({ format: 'png16' })
    const place = { store: folder, key, manifest, shotId: 's', partId: 'coat', frame: 1002 }
    const now = (change: (values: Uint16Array) => void, size = width) => ({
      delivered: () => read('coat'),
      matte: async () => {
        const values = Uint16Array.from(matteOf(output, 'coat'), (value) => value * 65535 + 0.5)
        change(values)
        return { width: size, height, values }
      },
    })
    const alike = await compared(
      place,
      now(() => undefined),
    )
    expect(alike.difference).toMatchObject({ differing: 0 })
    const { png, difference } = await compared(
      place,
      now((values) => values.fill(0, 0, 30 * width)),
    )
    expect(difference!.largest).toBe(1)
    const { data, info } = await sharp(png).raw().toBuffer({ resolveWithObject: true })
    expect([info.width, info.height, info.channels]).toEqual([width, height, 3])
    // What is gone is cold, what stayed is grey.
    const at = (x: number, y: number) => Array.from(data.subarray(3 * (y * width + x), 3 * (y * width + x) + 3))
    const [cold, grey] = [at(40, 27), at(40, 33)]
    expect(cold[2]!).toBeGreaterThan(cold[0]!)
    expect(new Set(grey).size).toBe(1)
    expect(grey[0]!).toBeGreaterThan(50)
    await expect(compared(place, now(() => undefined, width + 1))).rejects.toMatchObject({ status: 409, code: 'other-size' }) // prettier-ignore
    await expect(
      compared(place, { delivered: () => read('coat'), matte: () => Promise.reject(new Error('away')) }),
    ).rejects.toThrow('away')
    expect(
      (
        await delivered(
          place,
          now(() => undefined),
        )
      ).difference,
    ).toBeNull()
  })

  it('a movie that breaks off is told, not waited for', async () => {
    const { read, manifest, key } = await delivery({ format: 'ffv1', pattern: '{part}' })
    const movie = path.join(folder, key, manifest.files.find(({ path: name }) => name.includes('coat'))!.path)
    await writeFile(movie, Buffer.from('no movie'))
    await expect(read('coat')).rejects.toMatchObject({ code: 'delivery-unreadable' })
    await rm(movie)
    await expect(read('coat')).rejects.toMatchObject({ code: 'delivery-unreadable' })
  })
})
