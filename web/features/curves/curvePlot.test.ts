import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { frameRound, levelsOf } from './curvePlot'
import { numberBetween } from '@tender-lasso/core/testing'

const size = { width: 600, height: 200 }

describe('levels of a curve', () => {
  it('of a level line are whole steps about it, nought without a sign', () => {
    expect(levelsOf(frameRound([0, -0, 1e-12], [1001, 1072], size)).values.map(String)).toEqual(['-1', '-0.5', '0', '0.5', '1']) // prettier-ignore
    const { values, decimals } = levelsOf(frameRound([544.496], [1001, 1072], size))
    expect(values.map((value) => value.toFixed(decimals))).toEqual(['543.5', '544.0', '544.5', '545.0', '545.5'].filter((text) => Math.abs(Number(text) - 544.496) <= 1)) // prettier-ignore
  })

  it('are few, inside the frame, and told apart by their decimals', () => {
    fc.assert(
      fc.property(numberBetween(-1e4, 1e4), numberBetween(1e-2, 1e4), (low, span) => {
        const frame = frameRound([low, low + span], [1001, 1072], size)
        const { values, decimals } = levelsOf(frame)
        expect(values.length).toBeGreaterThanOrEqual(2)
        expect(values.length).toBeLessThanOrEqual(7)
        expect(values.every((value) => value >= frame.low - 1e-9 && value <= frame.high + 1e-9)).toBe(true)
        expect(new Set(values.map((value) => value.toFixed(decimals))).size).toBe(values.length)
      }),
    ) // prettier-ignore
  })
})
