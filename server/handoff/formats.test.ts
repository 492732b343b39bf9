import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { gunzipSync } from 'node:zlib'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { NEW_OUTPUT_FIELDS, type Output } from '@tender-lasso/core/document'
import { identifierOf, picturesOf } from '@tender-lasso/core/handoff'
import { coveredWindow, encodePicture, ENDINGS, type FrameMattes } from './encode'

let folder: string
beforeAll(() => void (folder = mkdtempSync(path.join(tmpdir(), 'tender-lasso-outputs-'))))
afterAll(() => rmSync(folder, { recursive: true, force: true }))

const [width, height] = [40, 24]
/** Discs of some softness that do not cover more than all of a pixel together. */
const soft = (cx: number, cy: number) =>
  Float32Array.from({ length: width * height }, (_, i) => Math.max(0, Math.min(1, (7 - Math.hypot((i % width) - cx, Math.floor(i / width) - cy)) / 4))) // prettier-ignore
const first = soft(10, 9)
const second = soft(20, 12).map((alpha, i) => alpha * (1 - first[i]!))
const whole = { left: 0, top: 0, right: width, bottom: height }
const alphas = [first, second]
/** One lies over the whole picture, the other where it is. */
const small = { left: 13, top: 5, right: 28, bottom: 20 }
const mattes: FrameMattes = {
  mattes: [
    { alpha: first, box: whole },
    { alpha: cropped(second, small), box: small },
  ],
  names: ['coat', 'scarf'],
  width,
  height,
}
const named = mattes.names.map((name) => ({ partId: name, name }))

function cropped(alpha: Float32Array, { left, top, right, bottom }: typeof small): Float32Array {
  const columns = right - left
  return Float32Array.from({ length: columns * (bottom - top) }, (_, i) => alpha[(top + Math.floor(i / columns)) * width + left + (i % columns)]!) // prettier-ignore
}

async function files(change: Partial<Output>): Promise<string[]> {
  const output: Output = { ...NEW_OUTPUT_FIELDS, id: 'o', name: 'Trial', order: 0, ...change }
  return Promise.all(
    picturesOf(output, named, { shot: 'WS', version: 1, frame: 1001 }).map(async (picture, i) => {
      const file = path.join(folder, `${output.layout}-${output.format}-${i}.${ENDINGS[output.format]}`)
      writeFileSync(file, await encodePicture(output, picture, mattes, {}))
      return file
    }),
  )
}

/** All channels of a file as OpenImageIO reads them; whole numbers up to `most` as shares of it. */
function pixelsOf(file: string, most = 1): number[][] {
  const dump = execFileSync('oiiotool', ['--dumpdata', file], { encoding: 'utf8', maxBuffer: 1e8 })
  return [...dump.matchAll(/Pixel \(\d+, \d+\): ([^(\n]*)/g)].map((match) => match[1]!.trim().split(/\s+/).map((value) => Number(value) / most)) // prettier-ignore
}

describe('files of an output, read by others', () => {
  it.each([
    ['png8', 255, /1 channel, uint8 png/],
    ['png16', 65535, /1 channel, uint16 png/],
    ['tiff8', 255, /1 channel, uint8 tiff/],
    ['tiff16', 65535, /1 channel, uint16 tiff/],
  ] as const)('%s: one grey picture a matte, to half a step', async (format, most, kind) => {
    const made = await files({ format })
    expect(made).toHaveLength(2)
    for (const [i, file] of made.entries()) {
      expect(execFileSync('oiiotool', ['--info', file], { encoding: 'utf8' })).toMatch(kind)
      // sharp as a second reader.
      const { data } = await sharp(file).toColourspace(most > 255 ? 'grey16' : 'b-w').raw({ depth: most > 255 ? 'ushort' : 'uchar' }).toBuffer({ resolveWithObject: true }) // prettier-ignore
      const values = most > 255 ? new Uint16Array(data.buffer, data.byteOffset, data.length / 2) : data
      const alpha = alphas[i]!
      expect(values).toHaveLength(alpha.length)
      values.forEach((value, at) => expect(Math.abs(value - alpha[at]! * most)).toBeLessThanOrEqual(0.501))
    }
  })

  it.each([
    ['png8', 255],
    ['png16', 65535],
    ['tiff16', 65535],
    ['exr-half', 1],
  ] as const)('%s: three mattes in red, green and blue', async (format, most) => {
    const [file, ...others] = await files({ format, layout: 'rgb' })
    expect(others).toEqual([])
    const pixels = pixelsOf(file!, most)
    expect(pixels).toHaveLength(width * height)
    pixels.forEach((values, at) => {
      for (let channel = 0; channel < 2; channel++) expect(Math.abs(values[channel]! - alphas[channel]![at]!)).toBeLessThan(0.0025) // prettier-ignore
    })
  })

  const notes = [
    { name: 'show', value: 'Wick Street, näher' },
    { name: 'asked-by', value: 'comp = 2' },
  ]

  it.each(['png8', 'png16', 'tiff8', 'tiff16', 'exr-half'] as const)('%s: says the notes', async (format) => {
    const [plain] = await files({ format })
    const before = pixelsOf(plain!)
    const [file] = await files({ format, notes })
    const said = execFileSync('oiiotool', ['--info', '-v', file!], { encoding: 'utf8' })
    for (const { name, value } of notes) {
      expect(said).toContain(value)
      expect(said).toMatch(format.startsWith('tiff') ? new RegExp(`${name} = ${value}`) : new RegExp(`${name}: "${value}"`)) // prettier-ignore
    }
    expect(pixelsOf(file!)).toEqual(before)
  })

  it('EXR: names the primaries that were chosen', async () => {
    const [file] = await files({ format: 'exr-half', primaries: 'ap1' })
    const header = execFileSync('exrheader', [file!], { encoding: 'utf8' })
    expect(header.replace(/\s+/g, ' ')).toMatch(/chromaticities.*red \(0.713 0.293\) green \(0.165 0.83\) blue \(0.128 0.044\) white \(0.32168 0.33767\)/) // prettier-ignore
  })

  it('a data window is the least box of what is covered, one pixel where nothing is', () => {
    const dot = new Float32Array(width * height)
    expect(coveredWindow([{ alpha: dot, box: whole }], whole)).toEqual({ left: 0, top: 0, right: 1, bottom: 1 })
    dot[5 * width + 39] = 0.1
    dot[23 * width + 7] = 1
    expect(coveredWindow([{ alpha: dot, box: whole }], whole)).toEqual({ left: 7, top: 5, right: 40, bottom: 24 })
    // The same of mattes that were rendered on some pixels only.
    const moved = { left: 100, top: 50, right: 100 + width, bottom: 50 + height }
    expect(coveredWindow([{ alpha: dot, box: moved }], moved)).toEqual({ left: 107, top: 55, right: 140, bottom: 74 })
  })

  it('object ids: read by OpenImageIO, the shares of each name are its matte, and all add up to one', async () => {
    const [file] = await files({ layout: 'object-id', format: 'exr-float', pattern: '{shot}.{frame}' })
    execFileSync('exrinfo', ['-s', file!])
    const header = execFileSync('exrheader', [file!], { encoding: 'utf8' })
    const manifest = /manifest \(type string\): "(.*)"/.exec(header)![1]!
    const names = [...header.matchAll(/^ {4}(CryptoObject\d\d\.[RGBA]),/gm)].map((match) => match[1]!)
    const hex = (id: number) => new Uint32Array(Float32Array.of(id).buffer)[0]!.toString(16).padStart(8, '0')
    for (const name of mattes.names) expect(manifest).toContain(hex(identifierOf(name)))
    expect(names).toHaveLength(8)
    const channels = new Map(names.map((name) => [name, floatsOf(file!, name)]))
    const pairs = ['00', '01'].flatMap((level) => ['RG', 'BA'].map((two) => [...two].map((letter) => channels.get(`CryptoObject${level}.${letter}`)!))) as [Float32Array, Float32Array][] // prettier-ignore
    const shareOf = (id: number, at: number) =>
      pairs.reduce((sum, [who, share]) => sum + (who[at] === id ? share[at]! : 0), 0)
    for (let at = 0; at < width * height; at++) {
      mattes.names.forEach((name, m) => expect(Math.abs(shareOf(identifierOf(name), at) - alphas[m]![at]!)).toBeLessThan(2e-5)) // prettier-ignore
      expect(Math.abs(pairs.reduce((sum, [, share]) => sum + share[at]!, 0) - 1)).toBeLessThan(2e-5)
    }
  })
})

/** One channel of an EXR as OpenImageIO reads it, by way of its zipped depth map: a header of 136 bytes, then plain floats. */
function floatsOf(file: string, channel: string): Float32Array {
  const map = path.join(folder, `${channel}.zfile`)
  execFileSync('oiiotool', [file, '--ch', channel, '-d', 'float', '-o', map])
  const bytes = gunzipSync(readFileSync(map))
  expect(bytes).toHaveLength(136 + 4 * width * height)
  return Float32Array.from({ length: width * height }, (_, i) => bytes.readFloatLE(136 + 4 * i))
}
