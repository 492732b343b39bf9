import { describe, expect, it } from 'vitest'
import { matteDifference, matteGrey } from './matteDifference'

const coverage = (...values: number[]) => Uint16Array.from(values, (value) => Math.round(65535 * value))

describe('the difference of two mattes', () => {
  it('is nothing where they are alike, within a step of eight bits', () => {
    const { pixels, differing, largest } = matteDifference(coverage(0, 1, 0.5), coverage(0, 1, 0.503))
    expect(differing).toBe(0)
    expect(largest).toBeCloseTo(0.003, 4)
    for (let i = 0; i < 9; i += 3) expect(new Set(pixels.slice(i, i + 3)).size).toBe(1)
    expect(pixels[0]).toBe(0)
  })

  it('is warm where the second has more, cold where it has less, and the other way round the other way', () => {
    const [a, b] = [coverage(0, 1, 0.2), coverage(1, 0.6, 0.2)]
    const there = matteDifference(a, b)
    const back = matteDifference(b, a)
    expect([there.differing, back.differing]).toEqual([2, 2])
    expect(there.largest).toBeCloseTo(1, 6)
    const isWarm = (pixels: Uint8Array, i: number) => pixels[3 * i]! > pixels[3 * i + 2]!
    expect([isWarm(there.pixels, 0), isWarm(there.pixels, 1)]).toEqual([true, false])
    expect([isWarm(back.pixels, 0), isWarm(back.pixels, 1)]).toEqual([false, true])
  })

  it('a matte by itself is grey in proportion', () => {
    expect(Array.from(matteGrey(coverage(0, 0.4, 1)))).toEqual([0, 0, 0, 102, 102, 102, 255, 255, 255])
  })
})
