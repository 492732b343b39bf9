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
    // Pairs on one row and columns are cut where the outline runs along them, which takes a part of the shift away; the sign stays.
    expect(error.biasX).toBeGreaterThan(0.4)
    expect(error.biasY).toBeLessThan(-0.1)
    expect(error.regionOverlap).toBeGreaterThan(0.96)
  })

  it('tells the distance of a larger disc: one pixel everywhere, no bias', () => {
    const error = matteError(disc(40, 30, 21), truth)
    expect(error.boundaryDistance).toBeCloseTo(1, 1)
    expect(Math.abs(error.biasX)).toBeLessThan(0.01)
    // Closed form: (20/21)^2.
    expect(error.regionOverlap).toBeCloseTo((20 / 21) ** 2, 2)
  })
})
