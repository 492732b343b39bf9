import { describe, expect, it } from 'vitest'
import { largestDifference } from './largestDifference'

describe('the largest difference', () => {
  it('is that of the place where two arrays are farthest apart', () => {
    expect(largestDifference([1, 2, 3], [1, 2.5, 2.75])).toBe(0.5)
    expect(largestDifference(Uint8Array.of(7, 8), Uint8Array.of(7, 8))).toBe(0)
    expect(largestDifference([Infinity, NaN], [Infinity, NaN])).toBe(0)
  })

  it('is infinite where lengths differ or one is not a number', () => {
    expect(largestDifference([1, 2], [1])).toBe(Infinity)
    expect(largestDifference([], [0])).toBe(Infinity)
    expect(largestDifference([NaN, 1], [0, 1])).toBe(Infinity)
    expect(largestDifference([0, 1], [NaN, 1])).toBe(Infinity)
    expect(largestDifference([NaN, 1], [0, 9])).toBe(Infinity)
  })
})
