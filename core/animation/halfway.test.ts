import fc from 'fast-check'
import { expect, it } from 'vitest'
import { halfwayFrame, onionTimes } from './index'

it('halves the longest stretch, ends of the range included', () => {
  expect(halfwayFrame([], 1001, 1072)).toBe(1036)
  expect(halfwayFrame([1001, 1036], 1001, 1072)).toBe(1054)
  expect(halfwayFrame([1072, 1001, 1040, 1050], 1001, 1072)).toBe(1020)
  expect(halfwayFrame([1001, 1002, 1003], 1001, 1003)).toBeNull()
})

it('keyed again and again, every frame gets its key once and the longest stretch never grows', () => {
  fc.assert(
    fc.property(fc.integer({ min: 2, max: 60 }), (length) => {
      const keys = new Set<number>()
      let longest = Infinity
      for (let frame = halfwayFrame([], 1, length); frame !== null; frame = halfwayFrame([...keys], 1, length)) {
        expect(keys.has(frame)).toBe(false)
        keys.add(frame)
        const ends = [1, ...[...keys].sort((a, b) => a - b), length]
        const now = Math.max(...ends.slice(1).map((end, i) => end - ends[i]!))
        expect(now).toBeLessThanOrEqual(longest)
        longest = now
      }
      expect(keys.size).toBe(length - 2)
    }),
  )
})

it('onion times are the nearest keys or frames to each side, within the range', () => {
  const range = [1001, 1072] as const
  expect(onionTimes([1050, 1001, 1020, 1030, 1040, 1020], 1030, 2, range)).toEqual({ before: [1020, 1001], after: [1040, 1050] }) // prettier-ignore
  expect(onionTimes(null, 1002, 3, range)).toEqual({ before: [1001], after: [1003, 1004, 1005] })
  expect(onionTimes([], 1002, 3, range)).toEqual({ before: [], after: [] })
})
