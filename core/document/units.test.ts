import { expect, it } from 'vitest'
import { UNITS } from './units'

it('a number comes back as it was stored, whatever it is shown in; no shown size is without a number', () => {
  for (const [unit, { shown, stored }] of Object.entries(UNITS)) {
    for (const value of [-0.7, 0, 0.25, 2]) expect(stored(shown(value)), unit).toBeCloseTo(value, 12)
  }
  // A curve of a size dragged below nothing.
  for (const percent of [0, -40]) expect(Number.isFinite(UNITS.logScale.stored(percent))).toBe(true)
})
