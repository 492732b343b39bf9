import { describe, expect, it } from 'vitest'
import { OPTICS } from './optics'
import { softOffsets } from './softOffsets'

const counts = [
  ...new Set(Object.values(OPTICS).flatMap((one) => [one.subTimes, one.truthSubTimes * one.truthOffsets])),
]

describe('offsets of a soft edge', () => {
  it.each(counts)('of %i sub-times have mean 0 and variance 1 along any line', (count) => {
    const offsets = softOffsets(count)
    expect(offsets).toHaveLength(count)
    for (let degrees = 0; degrees < 180; degrees += 15) {
      const along = offsets.map(([x, y]) => x * Math.cos((degrees * Math.PI) / 180) + y * Math.sin((degrees * Math.PI) / 180)) // prettier-ignore
      expect(mean(along)).toBeCloseTo(0, 12)
      expect(mean(along.map((one) => one * one))).toBeCloseTo(1, 12)
    }
  })

  it.each(counts)('of %i sub-times are no more to one side, and no wider, early than late', (count) => {
    // From -1 to 1 over the open shutter.
    const timed = softOffsets(count).map(([x, y], k) => [x, y, (2 * (k + 0.5)) / count - 1] as const)
    expect(Math.abs(mean(timed.map(([x, , t]) => x * t)))).toBeLessThan(0.1)
    expect(Math.abs(mean(timed.map(([, y, t]) => y * t)))).toBeLessThan(0.1)
    expect(Math.abs(mean(timed.map(([x, y, t]) => (x * x + y * y) * t)))).toBeLessThan(0.2)
  })

  it.each(counts)(
    'of %i sub-times make the edge of a normal distribution, closer than as many at random would',
    (count) => {
      const along = softOffsets(count)
        .map(([x]) => x)
        .sort((a, b) => a - b)
      along.forEach((x, i) => expect(Math.abs((i + 0.5) / count - normal(x))).toBeLessThan(0.5 / Math.sqrt(count)))
    },
  )
})

const mean = (values: readonly number[]) => values.reduce((sum, value) => sum + value, 0) / values.length

/** The normal distribution's cumulative function, by Simpson's rule. */
function normal(x: number): number {
  const steps = 200
  const density = (u: number) => Math.exp((-u * u) / 2) / Math.sqrt(2 * Math.PI)
  let sum = density(0) + density(x)
  for (let i = 1; i < steps; i++) sum += (i % 2 ? 4 : 2) * density((i * x) / steps)
  return 0.5 + (sum * x) / (3 * steps)
}
