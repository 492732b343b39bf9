import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { TurningKeys, valuesAt, type TimedValues } from './index'
import { numberBetween } from '../testing/numberBetween'

const STRIDE = 10
const COUNT = 5

/** A lopsided outline: five points with tangents of their own, the other channels numbered. */
const outline = Float64Array.from(
  { length: COUNT * STRIDE },
  (_, i) => Math.sin(3 * i + 1) * (i % STRIDE < 2 ? 80 : 20),
)

/** The outline turned and scaled about the origin and moved. */
function placed(angle: number, size: number, x: number, y: number): Float64Array {
  const out = outline.slice()
  const [c, s] = [size * Math.cos(angle), size * Math.sin(angle)]
  for (let at = 0; at < out.length; at += STRIDE) {
    for (const k of [0, 2, 4]) {
      const [px, py] = [outline[at + k]!, outline[at + k + 1]!]
      out[at + k] = c * px - s * py + (k === 0 ? x : 0)
      out[at + k + 1] = s * px + c * py + (k === 0 ? y : 0)
    }
  }
  return out
}

const key = (time: number, values: Float64Array): TimedValues => ({ time, interpolation: 'linear', values })
const worst = (a: Float64Array, b: Float64Array) => a.reduce((most, v, i) => Math.max(most, Math.abs(v - b[i]!)), 0)
const number = (low: number, high: number) => numberBetween(low, high)

describe('keys that interpolate turn and size', () => {
  it('are what they were on every key, whatever the outlines', () => {
    fc.assert(
      fc.property(fc.array(number(-300, 300), { minLength: 150, maxLength: 150 }), (numbers) => {
        const keys = [0, 1, 2].map((k) => key(10 * k, Float64Array.from(numbers.slice(50 * k, 50 * k + 50))))
        const turning = new TurningKeys(keys, STRIDE)
        const off = keys.map(({ time, values }) => worst(turning.valuesAt(time, new Float64Array(50)), values))
        expect(Math.max(...off)).toBeLessThan(1e-9)
      }),
    )
  })

  it('carry a turned, grown and moved outline along that very motion, where coordinates cut the corner', () => {
    fc.assert(
      fc.property(number(-3, 3), number(0.3, 3), number(-90, 90), number(0, 1), (angle, size, x, u) => {
        const keys = [key(0, placed(0, 1, 0, 0)), key(10, placed(angle, size, x, 20))]
        const now = new TurningKeys(keys, STRIDE).valuesAt(10 * u, new Float64Array(50))
        // The middle of the points goes straight; about it turn and logarithm of size go evenly.
        const middle = (v: Float64Array, k: number) =>
          v.reduce((sum, n, i) => (i % STRIDE === k ? sum + n / COUNT : sum), 0)
        const [cx, cy] = [0, 1].map((k) => middle(keys[0]!.values, k) * (1 - u) + middle(keys[1]!.values, k) * u)
        const free = placed(angle * u, size ** u, 0, 0)
        const expected = placed(angle * u, size ** u, cx! - middle(free, 0), cy! - middle(free, 1))
        expect(worst(now, expected)).toBeLessThan(1e-8)
      }),
    )
  })

  it('follow a turn of several revolutions from key to key', () => {
    const quarter = (k: number) => key(k, placed((k * Math.PI) / 2, 1, 0, 0))
    const turning = new TurningKeys([0, 1, 2, 3, 4, 5, 6].map(quarter), STRIDE)
    expect(worst(turning.valuesAt(5.5, new Float64Array(50)), placed(5.5 * (Math.PI / 2), 1, 0, 0))).toBeLessThan(20)
    const lengths = [0, 0.5, 3.25, 5.5].map((t) => {
      const v = turning.valuesAt(t, new Float64Array(50))
      return Math.hypot(v[10]! - v[0]!, v[11]! - v[1]!)
    })
    for (const length of lengths) expect(length).toBeCloseTo(lengths[0]!, 9)
  })

  it('turn a tangent alone and keep its length', () => {
    const [a, b] = [outline.slice(), outline.slice()]
    a.set([30, 0], 2)
    b.set([0, 30], 2)
    const half = new TurningKeys([key(0, a), key(2, b)], STRIDE).valuesAt(1, new Float64Array(50))
    expect([half[2], half[3]]).toEqual([expect.closeTo(30 * Math.SQRT1_2, 9), expect.closeTo(30 * Math.SQRT1_2, 9)])
  })
})

describe('an eased stretch', () => {
  it('is at rest at both keys and halfway in the middle', () => {
    const keys: TimedValues[] = [
      { time: 0, interpolation: 'ease', values: Float64Array.of(4) },
      { time: 8, interpolation: 'linear', values: Float64Array.of(20) },
    ]
    const at = (t: number) => valuesAt(keys, t, new Float64Array(1))[0]!
    expect(at(4)).toBeCloseTo(12, 12)
    for (const [t, step] of [[0, 1e-4], [8, -1e-4]] as const) expect((at(t + step) - at(t)) / step).toBeCloseTo(0, 3) // prettier-ignore
  })
})
