import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import path from 'node:path'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { applyToPoint, homographyFromPoints, identity, invert, type Matrix3 } from '@tender-lasso/core/geometry'
import type { PositionMapSettings } from '@tender-lasso/core/handoff'
import { writeExr } from '../exr'
import { positionMapsZip } from './index'

const [width, height] = [97, 64]
const tilted = homographyFromPoints([0, 0, width, 0, width, height, 0, height], [6, 3, 90, -4, 101, 70, -5, 58])

let folder: string
beforeAll(() => void (folder = mkdtempSync(path.join(tmpdir(), 'tender-lasso-positions-'))))
afterAll(() => rmSync(folder, { recursive: true, force: true }))
const at = (name: string) => path.join(folder, name)

/** A smooth picture, known between its pixels, too. */
const valueAt = (x: number, y: number) => 0.5 + 0.25 * Math.sin(x / 9) + 0.2 * Math.cos(y / 11 + x / 30)

function pictureOf(value: (x: number, y: number) => number): Float32Array {
  return Float32Array.from({ length: width * height }, (_, i) => value((i % width) + 0.5, Math.floor(i / width) + 0.5))
}

/** The maps of a track of two frames, taken out of their ZIP by Info-ZIP. */
async function mapsOf(settings: PositionMapSettings, name: string): Promise<string> {
  const pieces: Uint8Array[][] = []
  const zip = positionMapsZip({
    name: 'Track 1',
    width,
    height,
    pixelAspect: 1,
    rate: { numerator: 24, denominator: 1 },
    relativeTo: 1001,
    settings,
    centre: [width / 2, height / 2],
    frames: [
      { frame: 1001, matrix: identity() },
      { frame: 1002, matrix: tilted },
    ],
  })
  for await (const piece of zip) pieces.push(piece)
  expect(pieces).toHaveLength(3)
  writeFileSync(at(`${name}.zip`), Buffer.concat(pieces.flat()))
  execFileSync('unzip', ['-q', at(`${name}.zip`), '-d', at(name)])
  return at(name)
}

/** A picture warped by a map, by OpenImageIO (oiiotool --st_warp). */
async function warped(picture: string, map: string): Promise<Float32Array> {
  const out = at('warped.png')
  execFileSync('oiiotool', [picture, map, '--st_warp:filter=triangle', '-d', 'uint16', '-o', out])
  const data = await sharp(out).toColourspace('rgb16').extractChannel(0).raw({ depth: 'ushort' }).toBuffer()
  return Float32Array.from(new Uint16Array(data.buffer, data.byteOffset, data.length / 2), (value) => value / 65535)
}

/** Expects the pixels to hold the picture at the places that they come from, where these are well inside it. */
function expectTakenFrom(pixels: Float32Array, from: (x: number, y: number) => ArrayLike<number>) {
  let seen = 0
  for (let y = 4; y < height - 4; y++) {
    for (let x = 4; x < width - 4; x++) {
      const place = from(x + 0.5, y + 0.5)
      if (place[0]! < 3 || place[1]! < 3 || place[0]! > width - 3 || place[1]! > height - 3) continue
      seen++
      // Half a pixel off would be up to 0.02.
      expect(Math.abs(pixels[y * width + x]! - valueAt(place[0]!, place[1]!))).toBeLessThan(0.004)
    }
  }
  expect(seen).toBeGreaterThan((width * height) / 2)
}

const through = (matrix: Matrix3) => (x: number, y: number) => applyToPoint(matrix, x, y)

describe('position maps, warped by OpenImageIO', () => {
  beforeAll(() => {
    const channels = ['R', 'G', 'B'].map((name) => ({ name, data: pictureOf(valueAt) }))
    writeFileSync(at('picture.exr'), writeExr({ width, height, channels, pixel: 'float', compression: 'zip' }))
  })

  it.each([
    { way: 'forward', matrix: invert(tilted) },
    { way: 'back', matrix: tilted },
  ] as const)('$way: the picture comes from where the track says', async ({ way, matrix }) => {
    const maps = await mapsOf({ way, yAxis: 'down', units: 'normalised' }, way)
    expectTakenFrom(await warped(at('picture.exr'), path.join(maps, `${way}.1002.exr`)), through(matrix))
    expectTakenFrom(await warped(at('picture.exr'), path.join(maps, `${way}.1001.exr`)), (x, y) => [x, y])
  })

  it('say what they are, in the header and beside', async () => {
    const maps = await mapsOf({ way: 'forward', yAxis: 'up', units: 'pixels' }, 'said')
    const said = execFileSync('exrheader', [path.join(maps, 'forward.1002.exr')]).toString()
    expect(said).toMatch(/relativeTo \(type string\): "1001"/)
    expect(said).toMatch(/R, 32-bit floating-point/)
    expect(JSON.parse(readFileSync(path.join(maps, 'positions.json'), 'utf8'))).toMatchObject({
      format: 'tender-lasso-position-maps',
      way: 'forward',
      yAxis: 'up',
      units: 'pixels',
      files: [
        { frame: 1001, path: 'forward.1001.exr' },
        { frame: 1002, path: 'forward.1002.exr' },
      ],
    })
  })

  it('are refused before anything is made where a ZIP could not hold them', async () => {
    const frames = Array.from({ length: 300 }, (_, i) => ({ frame: i, matrix: identity() }))
    const settings = { way: 'back', yAxis: 'down', units: 'pixels' } as const
    const maps = { name: 'x', width: 2048, height: 1152, pixelAspect: 1, rate: { numerator: 24, denominator: 1 }, relativeTo: 0, settings, centre: [0, 0] as const, frames } // prettier-ignore
    await expect(positionMapsZip(maps).next()).rejects.toThrow(/more than 4 GB/)
  })
})
