import { describe, expect, it } from 'vitest'
import { numbersFrom } from '../testing'
import { colourContrast } from './colourContrast'
import { SIGMAS } from './edgeGrid'
import { pooledSigma } from './pooledSigma'

describe('the mixture of colours in which two sides differ most', () => {
  /** Two sides of the same lightness on average, each of all lightnesses; one a little redder. */
  const count = 400
  const random = numbersFrom(3)
  const distances = Float64Array.from({ length: count }, () => 20 * random() - 10)
  const lightness = Float64Array.from({ length: count }, () => 0.1 + 0.5 * random())
  const channel = (inside: number, outside: number) => lightness.map((l, n) => l * (distances[n]! < 0 ? inside : outside) + 0.002 * random()) // prettier-ignore
  const channels = [channel(1.2, 1), channel(0.9, 1), channel(1, 1)]

  /** How far the sides' means lie apart, in spreads of a side. */
  function told(values: ArrayLike<number>): number {
    const side = (way: number) => Array.from(values).filter((_, n) => distances[n]! * way > 0)
    const mean = (list: number[]) => list.reduce((sum, v) => sum + v, 0) / list.length
    const spread = (list: number[]) => Math.sqrt(mean(list.map((v) => (v - mean(list)) ** 2)))
    const [a, b] = [side(-1), side(1)]
    return Math.abs(mean(a) - mean(b)) / Math.max(spread(a), spread(b))
  }

  it('tells them where no channel alone does', () => {
    for (const one of channels) expect(told(one)).toBeLessThan(0.8)
    expect(told(colourContrast(distances, channels, 0))).toBeGreaterThan(2.5)
  })

  it('does not depend on how light the picture is, and is that of a grey one where nothing differs', () => {
    const darker = channels.map((one) => one.map((v) => v / 4))
    expect(told(colourContrast(distances, darker, 0))).toBeCloseTo(told(colourContrast(distances, channels, 0)), 1)
    const flat = [0, 1, 2].map(() => new Float64Array(count).fill(0.4))
    expect(new Set(colourContrast(distances, flat, 0))).toEqual(new Set([0.4]))
  })
})

describe('softness that several places say together', () => {
  const seenOf = (sigma: number) => Math.hypot(sigma, SIGMAS[0]!)
  /** What a place says whose standard error is so many pixels. */
  const saying = (sigma: number, error: number) => SIGMAS.map((seen) => ((seen - seenOf(sigma)) / error) ** 2)

  it('is their mean, each weighted by one over its variance, with the error of that', () => {
    const { sigma, sigmaError } = pooledSigma([saying(2, 0.4), saying(2.6, 0.8)])
    // (2 / 0.16 + 2.6 / 0.64) / (1 / 0.16 + 1 / 0.64)
    expect(Math.abs(sigma - 2.12)).toBeLessThan(0.04)
    expect(Math.abs(sigmaError - 1 / Math.sqrt(1 / 0.16 + 1 / 0.64))).toBeLessThan(0.06)
  })

  it('does not listen to the odd one, however sure it is', () => {
    const some = [1.4, 1.5, 1.6, 1.5].map((sigma) => saying(sigma, 0.2))
    expect(Math.abs(pooledSigma([...some, saying(5, 0.01)]).sigma - 1.5)).toBeLessThan(0.06)
  })

  it('of a sharp picture is none', () => {
    const { sigma, sigmaError } = pooledSigma([saying(0, 0.1), saying(0, 0.1)])
    expect(sigma).toBeLessThan(0.1)
    expect(sigmaError).toBeLessThan(0.2)
  })
})
