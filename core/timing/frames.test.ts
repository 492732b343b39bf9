import { describe, expect, it } from 'vitest'
import { rateFromDecimal, standardRateBeside } from './index'

describe('the standard rate beside a movie’s own', () => {
  it('29.966 is next to 29.97; 24 and 23.976 are themselves; 15 and 24.5 are next to none', () => {
    expect(standardRateBeside({ numerator: 29966, denominator: 1000 })).toEqual({ numerator: 30000, denominator: 1001 })
    expect(standardRateBeside({ numerator: 24003, denominator: 1000 })).toEqual({ numerator: 24, denominator: 1 })
    for (const decimal of [23.976, 24, 29.97, 60, 15, 24.5])
      expect(standardRateBeside(rateFromDecimal(decimal))).toBeNull()
    // The same fraction, written otherwise.
    expect(standardRateBeside({ numerator: 48000, denominator: 2002 })).toBeNull()
  })
})
