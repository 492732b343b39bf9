import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { numberBetween } from '../testing'
import { fewestKeys } from './fewestKeys'

const samplesOf = (values: readonly (readonly number[])[]) => values.map((own, time) => ({ time, values: own }))

describe('the fewest keys', () => {
  it('of what stays is one, of what runs straight two, of a corner three', () => {
    expect(fewestKeys(samplesOf([[2], [2.01], [1.99], [2]]), 0.1)).toHaveLength(1)
    expect(fewestKeys(samplesOf([[0], [1], [2], [3]]), 0.1).map(({ time }) => time)).toEqual([0, 3])
    expect(fewestKeys(samplesOf([[0], [1], [2], [1], [0]]), 0.1).map(({ time }) => time)).toEqual([0, 2, 4])
    expect(fewestKeys([], 1)).toEqual([])
    // What comes back to where it began has not stayed there.
    expect(fewestKeys(samplesOf([[0], [2.88006], [0.00001]]), 2.880057)).toHaveLength(2)
  })

  it('miss no sample by more than the tolerance, in any of the numbers', () => {
    const samples = fc.array(fc.tuple(numberBetween(0, 10), numberBetween(-5, 5)), { minLength: 1, maxLength: 40 })
    fc.assert(
      fc.property(samples, numberBetween(0.1, 3), (values, tolerance) => {
        const all = samplesOf(values)
        const kept = fewestKeys(all, tolerance)
        for (const { time, values: own } of all) {
          const after = kept.find((key) => key.time >= time) ?? kept.at(-1)!
          const before = kept.findLast((key) => key.time <= time) ?? kept[0]!
          const share = after.time === before.time ? 0 : (time - before.time) / (after.time - before.time)
          own.forEach((value, i) => {
            const there = before.values[i]! + (after.values[i]! - before.values[i]!) * share
            expect(Math.abs(there - value)).toBeLessThanOrEqual(tolerance + 1e-9)
          })
        }
      }),
    )
  })
})
