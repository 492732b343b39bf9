import { NEW_OUTPUT_FIELDS, outlineKeys, constantChannel, POINT_STRIDE, type Output } from '@tender-lasso/core/document'
import { execFileSync } from 'node:child_process'
import { mkdtemp, readFile, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import path from 'node:path'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { sceneAt } from '@tender-lasso/core/evaluation'
import { documentOf, testPart, testShape, testShot, testSubject } from '@tender-lasso/core/document/testDocuments'
import { renderMattes } from '@tender-lasso/core/raster'
import { sha256 } from '../store'
import { finishedFrame, writeFrame } from './write'

const [width, height, frame] = [96, 64, 1003]
const document = documentOf([
  testShot,
  testSubject,
  testPart('coat'),
  moved(testShape('outline', 'coat', [1001, 1010], 7, 24)),
])
const target = {
  store: '',
  key: 'job',
  shotId: 'shot',
  shotName: 'WS_010',
  width,
  height,
  pixelAspect: 1,
  rate: { numerator: 24, denominator: 1 },
}
const payload = {
  mattes: [{ partId: 'coat', name: 'coat' }],
  range: [1001, 1010] as [number, number],
  output: {
    ...NEW_OUTPUT_FIELDS,
    id: 'mattes',
    name: 'Mattes',
    order: 0,
    withHoldouts: false,
    pattern: '{part}/{shot}_{part}.{frame}',
  },
  version: 1,
  sequence: 1,
}

/** Into the small picture, with an edge that takes every value. */
function moved(shape: ReturnType<typeof testShape>) {
  for (const key of outlineKeys(shape)) {
    for (let p = 0; p < shape.pointIds.length; p++) {
      key.values[p * POINT_STRIDE]! -= 250 - (key.time - 1001)
      key.values[p * POINT_STRIDE + 1]! -= 168
    }
  }
  return {
    ...shape,
    channels: { ...shape.channels, innerFeather: constantChannel(5), outerFeather: constantChannel(9) },
  }
}

beforeAll(async () => void (target.store = await mkdtemp(path.join(tmpdir(), 'handoff-'))))
afterAll(() => rm(target.store, { recursive: true, force: true }))

describe('a frame handed off as PNG', () => {
  it('is 16-bit grey without a colour curve: Debian reads back the coverage to half a step', async () => {
    const [file] = await writeFrame({ document, payload, target }, frame)
    expect(file!.path).toBe('coat/WS_010_coat.1003.png')
    const place = path.join(target.store, target.key, file!.path)
    const info = execFileSync('oiiotool', ['--info', '-v', place], { encoding: 'utf8' })
    expect(info).toMatch(/96 x\s+64, 1 channel, uint16 png/)
    expect(info).not.toMatch(/gamma/i)

    const dump = execFileSync('oiiotool', ['--dumpdata', place], { encoding: 'utf8' })
    const read = [...dump.matchAll(/Pixel \((\d+), (\d+)\): (\d+)/g)].map((m) => [m[1], m[2], m[3]].map(Number))
    expect(read).toHaveLength(width * height)
    const box = { left: 0, top: 0, right: width, bottom: height }
    const wanted = [{ partId: 'coat', withHoldouts: false }]
    const [alpha] = renderMattes(sceneAt(document, frame), wanted, { box, motionBlur: true })!
    for (const [x, y, value] of read as [number, number, number][]) {
      expect(Math.abs(value - alpha![y * width + x]! * 65535)).toBeLessThanOrEqual(0.51)
    }
    expect(new Set(read.map(([, , value]) => value)).size).toBeGreaterThan(500)
  })

  it("at half the size is the mean of the plate's pixels; without feather its edge is hard", async () => {
    const at = async (change: Partial<Output>, key: string) => {
      const output = { ...payload.output, ...change }
      const [file] = await writeFrame({ document, payload: { ...payload, output }, target: { ...target, key } }, frame)
      const { data, info } = await sharp(path.join(target.store, key, file!.path)).toColourspace('grey16').raw({ depth: 'ushort' }).toBuffer({ resolveWithObject: true }) // prettier-ignore
      return {
        values: new Uint16Array(data.buffer, data.byteOffset, data.length / 2),
        width: info.width,
        height: info.height,
      }
    }
    const hard = { feather: false, motionBlur: false }
    const [whole, half] = [await at(hard, 'whole'), await at({ ...hard, scale: 0.5 }, 'half')]
    expect([half.width, half.height]).toEqual([width / 2, height / 2])
    let worst = 0
    half.values.forEach((value, i) => {
      const [x, y] = [2 * (i % half.width), 2 * Math.floor(i / half.width)]
      const four = [0, 1].flatMap((dy) => [0, 1].map((dx) => whole.values[(y + dy) * width + x + dx]!))
      worst = Math.max(worst, Math.abs(value - (four[0]! + four[1]! + four[2]! + four[3]!) / 4))
    })
    // The outline is flattened to a two hundredth of a pixel of either size, and rounded twice.
    expect(worst / 65535).toBeLessThan(0.01)
    const soft = await at({ motionBlur: false }, 'soft')
    const inBetween = ({ values }: { values: Uint16Array }) =>
      values.filter((value) => value > 0 && value < 65535).length
    expect(inBetween(soft)).toBeGreaterThan(3 * inBetween(whole))
  })

  it('is found whole by a later try, with the checksum of its bytes', async () => {
    const [found] = (await finishedFrame(payload, target, frame))!
    expect(found!.sha256).toBe(sha256(await readFile(path.join(target.store, target.key, found!.path))))
    expect(await finishedFrame(payload, target, frame + 1)).toBeNull()
  })
})
