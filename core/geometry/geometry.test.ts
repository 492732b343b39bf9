import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  applyToPoint,
  channelsOf,
  homographyFromPoints,
  homographyOf,
  identity,
  invert,
  multiply,
  scaledAt,
} from './index'
import { numberBetween } from '../testing/numberBetween'

const arbitraryHomography = fc
  .tuple(
    numberBetween(-3, 3),
    numberBetween(0.3, 3),
    numberBetween(0.3, 3),
    numberBetween(-0.5, 0.5),
    numberBetween(-200, 200),
    numberBetween(-200, 200),
    numberBetween(-3e-4, 3e-4),
    numberBetween(-3e-4, 3e-4),
  )
  .map(([angle, sx, sy, skew, x, y, v1, v2]) =>
    homographyOf([x, y, angle, Math.log(sx), Math.log(sy), skew, v1, v2], 300, 200),
  )

describe('3x3 matrices', () => {
  it('M . M^-1 is the identity', () => {
    fc.assert(
      fc.property(arbitraryHomography, (h) => {
        const product = multiply(h, invert(h))
        identity().forEach((value, i) => expect(product[i]).toBeCloseTo(value, 6))
      }),
    )
  })

  it('refuses a singular matrix with a code', () => {
    expect(() => invert(new Float64Array(9))).toThrow(expect.objectContaining({ code: 'singular-matrix' }))
  })
})

describe('channels of a homography', () => {
  it('compose back to the same map', () => {
    fc.assert(
      fc.property(arbitraryHomography, numberBetween(0.5, 2), (h, aspect) => {
        const again = homographyOf(channelsOf(h, 310, 190, aspect), 310, 190, aspect)
        const expected = scaledAt(h, 310, 190)
        for (const [x, y] of [
          [100, 100],
          [500, 120],
          [300, 400],
        ] as const) {
          const p = applyToPoint(expected, x, y)
          const q = applyToPoint(again, x, y)
          expect(Math.hypot(p[0]! - q[0]!, p[1]! - q[1]!)).toBeLessThan(1e-6)
        }
      }),
    )
  })

  it('read a plain rotation in square pixels of an anamorphic plate', () => {
    const angle = 0.3
    const [c, s] = [Math.cos(angle), Math.sin(angle)]
    // S^-1 R S with S = diag(2, 1): stored pixels are twice as wide as high.
    const h = Float64Array.of(c, -s / 2, 0, s * 2, c, 0, 0, 0, 1)
    const channels = channelsOf(h, 0, 0, 2)
    expect(channels[2]).toBeCloseTo(angle, 12)
    expect(channels[3]).toBeCloseTo(0, 12)
    expect(channels[5]).toBeCloseTo(0, 12)
  })
})

describe('homography from points (Hartley & Zisserman, Algorithm 4.2)', () => {
  it('recovers any homography from exact points', () => {
    fc.assert(
      fc.property(arbitraryHomography, (h) => {
        const from = [100, 100, 500, 110, 480, 380, 120, 360, 300, 200, 210, 330]
        const to = from.slice()
        for (let i = 0; i < from.length; i += 2) {
          const p = applyToPoint(h, from[i]!, from[i + 1]!)
          to[i] = p[0]!
          to[i + 1] = p[1]!
        }
        const found = homographyFromPoints(from, to)
        for (let i = 0; i < from.length; i += 2) {
          const p = applyToPoint(found, from[i]!, from[i + 1]!)
          expect(Math.hypot(p[0]! - to[i]!, p[1]! - to[i + 1]!)).toBeLessThan(1e-5)
        }
      }),
    )
  })

  it('refuses points on one line', () => {
    expect(() => homographyFromPoints([0, 0, 1, 1, 2, 2, 3, 3], [0, 0, 1, 1, 2, 2, 3, 3])).toThrow(
      expect.objectContaining({ code: 'degenerate-points' }),
    )
  })
})
