import { describe, expect, it } from 'vitest'
import { matteError, type MattePicture } from './index'

/** Exact box-filtered disc, near enough: 16 x 16 samples a pixel. */
function disc(cx: number, cy: number, radius: number): MattePicture {
  const [width, height] = [80, 60]
  const data = new Float32Array(width * height)
  for (let j = 0; j < height; j++) {
    for (let i = 0; i < width; i++) {
      let hits = 0
      for (let v = 0; v < 16; v++) {
        for (let u = 0; u < 16; u++) if (Math.hypot(i + (u + 0.5) / 16 - cx, j + (v + 0.5) / 16 - cy) < radius) hits++
      }
      data[j * width + i] = hits / 256
    }
  }
  return { width, height, data }
}

describe('error of a matte against the truth', () => {
  const truth = disc(40, 30, 20)

  it('is nothing for the truth itself', () => {
    const error = matteError(truth, truth)
    expect(error).toMatchObject({ regionOverlap: 1, biasX: 0, biasY: 0, sumOfDifferences: 0 })
    expect(error.boundaryDistance).toBeLessThan(1e-9)
  })

  it('tells a half pixel shift by its sign, which overlap alone would hardly show', () => {
    const error = matteError(disc(40.5, 29.75, 20), truth)
    expect(Math.abs(error.biasX - 0.5)).toBeLessThan(0.02)
    expect(Math.abs(error.biasY + 0.25)).toBeLessThan(0.02)
    expect(error.regionOverlap).toBeGreaterThan(0.96)
  })

  it.each(['level', 'upright'])(
    'of an almost %s band that is shifted across says nothing about the way along it',
    (which) => {
      const [own, expected] = [0.2, 0].map((by) => (which === 'level' ? band(by) : turned(band(by)))) as [MattePicture, MattePicture] // prettier-ignore
      const { biasX, biasY } = matteError(own, expected)
      const [across, along] = which === 'level' ? [biasY, biasX] : [biasX, biasY]
      expect(across).toBeCloseTo(0.2, 2)
      expect(Math.abs(along)).toBeLessThan(0.01)
    },
  )

  it('tells the distance of a larger disc: one pixel everywhere, no bias', () => {
    const error = matteError(disc(40, 30, 21), truth)
    expect(error.boundaryDistance).toBeCloseTo(1, 1)
    expect(Math.abs(error.biasX)).toBeLessThan(0.01)
    // Closed form: (20/21)^2.
    expect(error.regionOverlap).toBeCloseTo((20 / 21) ** 2, 2)
  })

  it('is the same wherever both lie in the picture', () => {
    const specks = Array.from({ length: 6 }, (_, i) => [20 + ((37 * i) % 41), 20 + ((23 * i) % 43)] as const)
    const distances = [0, 1, 2, 3, 4, 5, 6, 7].map((by) => {
      const own = bar(0, 0, 0)
      for (const [x, y] of specks) own.data.set([1, 1], (y + by) * 80 + x + by)
      return matteError(own, bar(30 + by, 25 + by, 20)).boundaryDistance
    })
    expect(distances[0]).toBeGreaterThan(5)
    for (const distance of distances) expect(distance).toBeCloseTo(distances[0]!, 9)
  })

  it.each([9, 11, 13, 17, 22, 30])(
    'tells the distance of an edge that is %i px away, at most 24, wherever both lie',
    (apart) => {
      for (const by of [0, 1, 3, 5, 7]) {
        const { boundaryDistance } = matteError(bar(20 + by, 5 + by, 10), bar(20 + by, 5 + by, 10 + apart))
        expect(boundaryDistance, `${by} px further`).toBeCloseTo(meanDistance(apart), 9)
      }
    },
  )
})

/** A band across the whole picture, 12 px high, that falls by 0.07 px a pixel. */
function band(down: number): MattePicture {
  const [width, height] = [80, 60]
  const data = new Float32Array(width * height)
  for (let j = 0; j < height; j++) {
    for (let i = 0; i < width; i++) {
      let hits = 0
      for (let v = 0; v < 64; v++) if (Math.abs(j + (v + 0.5) / 64 - down - 25 - 0.07 * (i + 0.5)) < 6) hits++
      data[j * width + i] = hits / 64
    }
  }
  return { width, height, data }
}

/** Rows and columns exchanged. */
function turned({ width, height, data }: MattePicture): MattePicture {
  const out = new Float32Array(data.length)
  for (let j = 0; j < height; j++) for (let i = 0; i < width; i++) out[i * height + j] = data[j * width + i]!
  return { width: height, height: width, data: out }
}

const BAR_WIDTH = 20

function bar(left: number, top: number, height: number) {
  const data = new Float32Array(80 * 80)
  for (let y = top; y < top + height; y++) data.fill(1, y * 80 + left, y * 80 + left + BAR_WIDTH)
  return { width: 80, height: 80, data }
}

/**
 * Mean distance of the crossings of a bar that is 10 + `apart` px high to one of 10 px that begins on the same line: none
 * beside that and on top; below it the sides' are as far as its lowest crossing, half a pixel inwards, and the lower edge's
 * straight below.
 */
function meanDistance(apart: number): number {
  const sides = Array.from({ length: apart }, (_, i) => Math.min(24, Math.hypot(0.5, i + 0.5)))
  const below = BAR_WIDTH * Math.min(24, apart)
  return (2 * sides.reduce((a, b) => a + b, 0) + below) / (2 * BAR_WIDTH + 2 * (10 + apart))
}
