import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { floatFromHalf, halfFromFloat, writeExr, type ExrPicture, type ExrWindow } from './index'

let folder: string
beforeAll(() => void (folder = mkdtempSync(path.join(tmpdir(), 'tender-lasso-exr-'))))
afterAll(() => rmSync(folder, { recursive: true, force: true }))

const [width, height] = [37, 35]
const noise = Float32Array.from({ length: width * height }, (_, i) => (Math.imul(i + 7, 2654435761) >>> 9) / 2 ** 23)
/** Nothing but a disc, so that blocks of nothing and of something follow each other. */
const disc = Float32Array.from({ length: width * height }, (_, i) =>
  Math.hypot((i % width) - 20, Math.floor(i / width) - 9) < 6 ? 1 : 0,
)
const channels = [
  { name: 'b.A', data: noise },
  { name: 'a.A', data: disc },
]

function written(picture: Omit<ExrPicture, 'width' | 'height' | 'channels'>, within = channels): string {
  const file = path.join(folder, `${Math.random()}.exr`)
  writeFileSync(file, writeExr({ width, height, channels: within, ...picture }))
  return file
}

/** Values of a channel by x and y as OpenImageIO reads them, which has them in alphabetical order. */
function readBack(file: string, channel: string): Map<string, number> {
  const dump = execFileSync('oiiotool', ['--dumpdata', file], { encoding: 'utf8', maxBuffer: 1e8 })
  const at = channel === 'a.A' ? 0 : 1
  return new Map(
    [...dump.matchAll(/Pixel \((\d+), (\d+)\): (.*)/g)].map((m) => [
      `${m[1]} ${m[2]}`,
      Number(m[3]!.trim().split(/\s+/)[at]),
    ]),
  )
}

const isIn = ({ left, top, right, bottom }: ExrWindow, x: number, y: number) =>
  x >= left && x < right && y >= top && y < bottom

describe('EXR of either depth, packed in any way', () => {
  for (const pixel of ['half', 'float'] as const) {
    it.each(['none', 'zips', 'zip'] as const)(
      `${pixel}, %s: read back by Debian's tools as it went in`,
      (compression) => {
        const file = written({ pixel, compression })
        execFileSync('exrinfo', ['-s', file])
        const header = execFileSync('exrheader', [file], { encoding: 'utf8' })
        expect(header).toContain(`a.A, ${pixel === 'half' ? 16 : 32}-bit floating-point`)
        for (const { name, data } of channels) {
          const values = readBack(file, name)
          expect(values.size).toBe(width * height)
          for (const [place, value] of values) {
            const [x, y] = place.split(' ').map(Number) as [number, number]
            const own = data[y * width + x]!
            // Nine digits are printed.
            expect(Math.abs(value - (pixel === 'half' ? floatFromHalf(halfFromFloat(own)) : own))).toBeLessThan(1e-7)
          }
        }
      },
    )
  }

  it('of a data window only its pixels are there, at their places, within the whole picture', () => {
    const window = { left: 14, top: 3, right: 27, bottom: 16 }
    for (const compression of ['none', 'zip'] as const) {
      const within = channels.map(({ name, data }) => ({ name, data: data.filter((_, i) => isIn(window, i % width, Math.floor(i / width))) })) // prettier-ignore
      const file = written({ pixel: 'half', compression, window }, within)
      execFileSync('exrinfo', ['-s', file])
      const header = execFileSync('exrheader', [file], { encoding: 'utf8' })
      expect(header).toMatch(/dataWindow \(type box2i\): \(14 3\) - \(26 15\)/)
      expect(header).toMatch(new RegExp(`displayWindow \\(type box2i\\): \\(0 0\\) - \\(${width - 1} ${height - 1}\\)`))
      const values = readBack(file, 'a.A')
      expect(values.size).toBe(13 * 13)
      for (const [place, value] of values) {
        const [x, y] = place.split(' ').map(Number) as [number, number]
        expect(value).toBe(disc[y * width + x])
      }
    }
  })

  it('says rate, time code, colours and what else it was told, in the standard attributes', () => {
    // 1 h 1 min 1 s and 5 frames after the beginning.
    const frame = 3661 * 24 + 5
    const said = {
      pixelAspect: 2,
      framesPerSecond: { numerator: 24000, denominator: 1001 },
      frame,
      texts: { output: 'Mattes' },
    }
    const header = execFileSync('exrheader', [written({ pixel: 'half', compression: 'zips', said })], {
      encoding: 'utf8',
    })
    expect(header).toMatch(/framesPerSecond \(type rational\): 24000\/1001/)
    expect(header).toMatch(/timeCode \(type timecode\):\s+time 01:01:01:05/)
    expect(header).toMatch(/pixelAspectRatio \(type float\): 2/)
    expect(header).toMatch(/chromaticities[\s\S]*red\s+\(0\.64 0\.33\)/)
    expect(header).toMatch(/output \(type string\): "Mattes"/)
  })
})
