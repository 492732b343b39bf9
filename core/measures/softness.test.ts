import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { edgeSpread } from './edgeSpread'
import { featherForSoftness, RAMP_PER_SIGMA } from './featherForSoftness'
import { softnessAlong, softnessOf } from './softness'
import { pictured, placeOf, SIZE, type Edge } from './testEdges'

/** Integral by Simpson's rule. */
function integral(f: (x: number) => number, from: number, to: number, steps = 2000): number {
  const h = (to - from) / steps
  let sum = f(from) + f(to)
  for (let i = 1; i < steps; i++) sum += f(from + i * h) * (i % 2 ? 4 : 2)
  return (sum * h) / 3
}
const density = (x: number, sigma: number) => Math.exp(-0.5 * (x / sigma) ** 2) / (sigma * Math.sqrt(2 * Math.PI))

describe('the edge spread function', () => {
  it.each([
    [0.5, 0],
    [1.3, 0],
    [0.7, 4],
    [3, 11],
  ])('sigma %d, box %d: is a step convolved with a box and a Gaussian, by numerical integration', (sigma, box) => {
    for (const x of [-6, -2.2, -0.4, 0, 0.9, 3.1, 8]) {
      const ramp = (u: number) => (box === 0 ? (u >= 0 ? 1 : 0) : Math.min(1, Math.max(0, u / box + 0.5)))
      // From where the integrand jumps.
      const value = integral((t) => density(t, sigma) * ramp(x - t), -9 * sigma, box === 0 ? Math.min(9 * sigma, Math.max(-9 * sigma, x)) : 9 * sigma) // prettier-ignore
      expect(Math.abs(edgeSpread(x, sigma, box)[0] - value)).toBeLessThan(2e-5)
    }
  })

  it('tells its derivatives', () => {
    for (const [x, sigma, box] of [
      [0.4, 1.1, 0],
      [-1.5, 2, 5],
      [2, 0.6, 3],
    ] as const) {
      const h = 1e-5
      const [, byPlace, bySigma] = edgeSpread(x, sigma, box)
      expect(byPlace).toBeCloseTo((edgeSpread(x + h, sigma, box)[0] - edgeSpread(x - h, sigma, box)[0]) / (2 * h), 3)
      expect(bySigma).toBeCloseTo((edgeSpread(x, sigma + h, box)[0] - edgeSpread(x, sigma - h, box)[0]) / (2 * h), 3)
    }
  })
})

describe('the feather that looks like a blurred step', () => {
  it('is the ramp nearest to it in least squares', () => {
    const away = (width: number) =>
      integral((x) => {
        const s = Math.min(1, Math.max(0, x / width + 0.5))
        return (s * s * (3 - 2 * s) - edgeSpread(x, 1, 0)[0]) ** 2
      }, -8, 8) // prettier-ignore
    let [low, high] = [2, 8]
    for (let i = 0; i < 60; i++) {
      const [a, b] = [low + (high - low) * 0.382, low + (high - low) * 0.618]
      if (away(a) < away(b)) high = b
      else low = a
    }
    expect(Math.abs(RAMP_PER_SIGMA - low)).toBeLessThan(0.01)
  })

  it('lies about where the step lies, and never turns inside out', () => {
    expect(featherForSoftness(2, 0)).toEqual({ innerFeather: RAMP_PER_SIGMA, outerFeather: RAMP_PER_SIGMA })
    const { innerFeather, outerFeather } = featherForSoftness(1, 0.5)
    expect(outerFeather - innerFeather).toBeCloseTo(1, 9)
    expect(featherForSoftness(0.1, 3).innerFeather).toBe(0)
  })
})

const measured = (edge: Edge, seed = 1) => softnessAlong([pictured(edge, seed)], [placeOf(edge)])[0]!

describe('softness measured at an edge', () => {
  it.each([0, 17, 45, 90, 143, 270])(
    'at %d degrees is that of the picture, whatever the motion and the levels',
    (degrees) => {
      for (const sigma of [0.6, 1, 2, 3]) {
        for (const box of [0, 5]) {
          for (const levels of [
            [0.7, 0.3],
            [0.1, 0.9],
          ] as const) {
            const { fit, unclear } = measured({ sigma, box, degrees, levels })
            expect(unclear).toBeNull()
            expect(Math.abs(fit!.sigma - sigma)).toBeLessThan(0.1 * sigma)
            expect(Math.abs(fit!.place)).toBeLessThan(0.1)
          }
        }
      }
    },
  )

  it('says where the step lies, and its levels', () => {
    const { fit } = measured({ sigma: 1.5, degrees: 30, off: 1.7, levels: [0.2, 0.8] })
    expect(Math.abs(fit!.place - 1.7)).toBeLessThan(0.1)
    expect(Math.abs(fit!.inside - 0.2)).toBeLessThan(0.02)
    expect(Math.abs(fit!.outside - 0.8)).toBeLessThan(0.02)
  })

  it('states its error as it is: of many grainy edges two thirds lie within it', () => {
    const edge = { sigma: 1.6, degrees: 22, grain: 0.02 }
    const fits = Array.from({ length: 120 }, (_, seed) => measured(edge, seed + 1).fit!)
    const within = fits.filter((fit) => Math.abs(fit.sigma - 1.6) < fit.sigmaError).length / fits.length
    // Of 120 trials 68 % +- 3 standard deviations.
    expect(within).toBeGreaterThan(0.55)
    expect(within).toBeLessThan(0.81)
    const all = softnessOf(Array.from({ length: 40 }, (_, seed) => measured(edge, seed + 1)))!
    expect(Math.abs(all.sigma - 1.6)).toBeLessThan(0.05)
    expect(all.clear).toBe(40)
  })

  it('is not told where there is no edge, a faint one, another one beside it, or a corner', () => {
    expect(measured({ sigma: 1, degrees: 10, levels: [0.5, 0.5], grain: 0.01 }).fit).toBeNull()
    expect(measured({ sigma: 1, degrees: 10, levels: [0.5, 0.515] }).unclear).toBe('faint')
    expect(measured({ sigma: 1, degrees: 10, off: 7 }).fit).toBeNull()
    const edge = { sigma: 1, degrees: 0 }
    expect(softnessAlong([pictured(edge)], [{ ...placeOf(edge), turn: 1 }])[0]!.unclear).toBe('bent')
    expect(softnessAlong([pictured(edge)], [{ ...placeOf(edge), x: 4 }])[0]!.unclear).toBe('outside')
    // Two steps, as of a thin bar.
    const bar = pictured(edge)
    bar.data.forEach((value, i) => (bar.data[i] = i % SIZE > 36 ? 0.9 : value))
    expect(softnessAlong([bar], [placeOf(edge)])[0]!.fit).toBeNull()
    expect(softnessOf([softnessAlong([bar], [placeOf(edge)])[0]!])).toBeNull()
  })

  it('of a picture turned by 90 degrees is the same', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 89 }), (degrees) => {
        const one = measured({ sigma: 1.4, degrees }).fit!
        const image = pictured({ sigma: 1.4, degrees })
        const data = image.data.map((_, i) => image.data[(SIZE - 1 - (i % SIZE)) * SIZE + Math.floor(i / SIZE)]!)
        const { x, y, normalX, normalY, ...rest } = placeOf({ sigma: 1.4, degrees })
        const turned = softnessAlong([{ ...image, data }], [{ x: SIZE - y, y: x, normalX: -normalY, normalY: normalX, ...rest }])[0]! // prettier-ignore
        expect(turned.fit!.sigma).toBeCloseTo(one.sigma, 6)
        expect(turned.fit!.place).toBeCloseTo(one.place, 6)
      }),
      { numRuns: 12 },
    )
  })
})
