import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { normalDistribution } from '../measures'
import { numberBetween } from '../testing'
import { renderMattes, type MatteFinish, type Scene } from './index'
import type { LayerOperation } from './layers'

const SIZE = 48
const box = { left: 0, top: 0, right: SIZE, bottom: SIZE }
const PLAIN = { innerFeather: 0, outerFeather: 0, grow: 0 }

type Rectangle = readonly [left: number, top: number, right: number, bottom: number]

/** Homogeneous cubics along the sides of a rectangle. */
function outlineOf([left, top, right, bottom]: Rectangle, moved = 0): Float64Array {
  const corners = [[left, top], [right, top], [right, bottom], [left, bottom]] // prettier-ignore
  return Float64Array.from(
    corners.flatMap(([x, y], i) => {
      const [nx, ny] = corners[(i + 1) % 4]!
      const at = (t: number) => [x! + (nx! - x!) * t + moved, y! + (ny! - y!) * t, 1]
      return [...at(0), ...at(1 / 3), ...at(2 / 3)]
    }),
  )
}

interface Given {
  at: Rectangle
  operation?: LayerOperation
  feather?: number
  opacity?: number
  focus?: number
}

function matteOf(layers: readonly Given[], finish?: MatteFinish, sweep = 0): Float32Array {
  const groups = layers.map(({ at, operation, feather = 0, opacity = 1, focus }) => ({
    operation,
    focus,
    edge: { ...PLAIN, innerFeather: feather, outerFeather: feather },
    opacity,
    outlinesAt: (u: number) => [outlineOf(at, (u - 0.5) * sweep)],
  }))
  const scene: Scene = { parts: [{ id: 'part', holdsOut: true, groups, finish }] }
  return renderMattes(scene, [{ partId: 'part', withHoldouts: true }], { box, motionBlur: sweep !== 0 })![0]!
}

const finish = (given: Partial<MatteFinish>): MatteFinish => ({ blur: 0, blackPoint: 0, whitePoint: 1, opacity: 1, ...given }) // prettier-ignore

const A: Rectangle = [6.3, 5.6, 32.8, 30.25]
const B: Rectangle = [18.5, 12.4, 42.1, 41.7]
const worst = (matte: Float32Array, expected: (i: number) => number) =>
  matte.reduce((most, value, i) => Math.max(most, Math.abs(value - expected(i))), 0)

describe('layers of a Part', () => {
  it.each([0, 5])('make of the alphas a and b what the operation says (feather %d)', (feather) => {
    const [a, b] = [matteOf([{ at: A, feather }]), matteOf([{ at: B, feather }])]
    const laid = (operation: LayerOperation) =>
      matteOf([
        { at: A, feather },
        { at: B, feather, operation },
      ])
    expect(worst(laid('add'), (i) => Math.max(a[i]!, b[i]!))).toBeLessThan(1e-6)
    expect(worst(laid('subtract'), (i) => a[i]! * (1 - b[i]!))).toBeLessThan(1e-6)
    expect(worst(laid('intersect'), (i) => Math.min(a[i]!, b[i]!))).toBeLessThan(1e-6)
    expect(worst(laid('difference'), (i) => Math.abs(a[i]! - b[i]!))).toBeLessThan(1e-6)
  })

  it('a hole takes its area away, to a thousandth of a pixel, and its own opacity says how much', () => {
    const inner: Rectangle = [12.25, 10.5, 20.75, 22.125]
    const area = ([left, top, right, bottom]: Rectangle) => (right - left) * (bottom - top)
    const sum = (matte: Float32Array) => matte.reduce((total, alpha) => total + alpha, 0)
    for (const opacity of [1, 0.4]) {
      const matte = matteOf([{ at: A }, { at: inner, operation: 'subtract', opacity }])
      expect(Math.abs(sum(matte) - area(A) + opacity * area(inner))).toBeLessThan(1e-3)
    }
  })

  it('are taken in their order: what is added after a hole fills it', () => {
    const hole = { at: B, operation: 'subtract' } as const
    const patch: Rectangle = [22, 16, 26, 20]
    expect(matteOf([{ at: A }, hole, { at: patch }])[18 * SIZE + 24]).toBe(1)
    expect(matteOf([{ at: A }, { at: patch }, hole])[18 * SIZE + 24]).toBe(0)
  })

  it('are laid over one another in each sub-time: a hole that moves along with its shape has hard sides across', () => {
    const inner: Rectangle = [14, 12, 24, 22]
    const sweep = 5.5
    const matte = matteOf([{ at: A }, { at: inner, operation: 'subtract' }], undefined, sweep)
    const [whole, hole] = [matteOf([{ at: A }], undefined, sweep), matteOf([{ at: inner }], undefined, sweep)]
    expect(worst(matte, (i) => whole[i]! - hole[i]!)).toBeLessThan(1e-5)
  })
})

describe('layers that lie beside each other while the shutter is open', () => {
  const side = fc.tuple(numberBetween(-6, 40), numberBetween(3, 25))
  const layer = fc.record({
    across: side,
    down: side,
    operation: fc.constantFrom<LayerOperation>('add', 'subtract', 'intersect', 'difference'),
    feather: fc.constantFrom(0, 0, 3),
    focus: fc.constantFrom(0, 0, 0, 1.5),
    opacity: fc.constantFrom(1, 1, 0.6),
  })

  it('are what laying them over one another in each sub-time makes of them', () => {
    fc.assert(
      fc.property(fc.array(layer, { minLength: 2, maxLength: 4 }), numberBetween(1, 9), (given, sweep) => {
        const layers = given.map(({ across: [left, width], down: [top, height], focus, ...rest }) => {
          const at: Rectangle = [left, top, left + width, top + height]
          return { at, focus: focus || undefined, ...rest }
        })
        // Levels that change nothing to six places, yet have it done in each sub-time.
        const each = matteOf(layers, finish({ whitePoint: 1 - 1e-7 }), sweep)
        expect(worst(matteOf(layers, undefined, sweep), (i) => each[i]!)).toBeLessThan(1e-5)
      }),
    )
  })
})

/** Abramowitz & Stegun 7.1.26, to 1.5e-7. */
function erf(x: number): number {
  const t = 1 / (1 + 0.3275911 * Math.abs(x))
  const tail = ((((1.061405429 * t - 1.453152027) * t + 1.421413741) * t - 0.284496736) * t + 0.254829592) * t
  return Math.sign(x) * (1 - tail * Math.exp(-x * x))
}

describe('what is done to the whole matte of a Part', () => {
  // Of pixels that are means over squares some of what is finer than a pixel remains under a narrow blur: twice the bound.
  it.each([
    [1, 2 / 255],
    [1.5, 1 / 255],
    [3, 1 / 255],
    [6, 1 / 255],
  ])('blur %d: the edge spread function of a blurred step is an erf', (sigma, bound) => {
    const half: Rectangle = [-200, -200, 20.3, 200]
    const matte = matteOf([{ at: half }], finish({ blur: sigma }))
    for (let x = 0; x < SIZE; x++) {
      let mean = 0
      for (let i = 0; i < 64; i++) mean += (1 - erf((x + (i + 0.5) / 64 - 20.3) / (sigma * Math.SQRT2))) / 128
      expect(Math.abs(matte[24 * SIZE + x]! - mean)).toBeLessThan(bound)
    }
  })

  it('a blurred scene turned by 90 degrees is the turned matte, across the strips that it is computed in', () => {
    const tall: Rectangle = [10, -40, 25.5, 90]
    const level: Rectangle = [-40, SIZE - 25.5, 90, SIZE - 10]
    const [upright, turned] = [tall, level].map((at) => matteOf([{ at }], finish({ blur: 4 })))
    expect(worst(turned!, (i) => upright![(i % SIZE) * SIZE + SIZE - 1 - Math.floor(i / SIZE)]!)).toBeLessThan(1e-5)
  })

  it('levels, then opacity: (a - black) / (white - black), clipped', () => {
    const soft = matteOf([{ at: A, feather: 8 }])
    const matte = matteOf([{ at: A, feather: 8 }], finish({ blackPoint: 0.2, whitePoint: 0.7, opacity: 0.5 }))
    expect(worst(matte, (i) => 0.5 * Math.min(1, Math.max(0, (soft[i]! - 0.2) / 0.5)))).toBeLessThan(1e-6)
  })

  it('blur commutes with the mean over the sub-times: once at the end is as good as in each', () => {
    const once = matteOf([{ at: A }], finish({ blur: 2 }), 9)
    // Levels that change nothing to six places, yet have it done in each sub-time.
    const each = matteOf([{ at: A }], finish({ blur: 2, whitePoint: 1 - 1e-7 }), 9)
    expect(worst(once, (i) => each[i]!)).toBeLessThan(2e-6)
  })

  it('keeps the sum of a matte that a blur moves about', () => {
    const inside: Rectangle = [16, 17, 30.5, 29.25]
    const total = matteOf([{ at: inside }], finish({ blur: 3 })).reduce((sum, alpha) => sum + alpha, 0)
    expect(total).toBeCloseTo(14.5 * 12.25, 2)
  })
})

describe('focus blur of a layer', () => {
  it('is the Gaussian of its sigma, beside the feather: two one after the other are one', () => {
    const finish = { blur: 2, blackPoint: 0, whitePoint: 1, opacity: 1 }
    for (const feather of [0, 4]) {
      const both = matteOf([{ at: A, feather, focus: 1.5 }], finish)
      const once = matteOf([{ at: A, feather, focus: Math.hypot(1.5, 2) }])
      expect(worst(both, (i) => once[i]!)).toBeLessThan(1e-6)
    }
  })

  it('of a straight side is the step blurred by the Gaussian and the pixel (erf, closed form)', () => {
    for (const sigma of [1.5, 2, 3]) {
      const band: Rectangle = [-60, 20.3, 110, 110]
      const matte = matteOf([{ at: band, focus: sigma }])
      // The pixel's own square adds a twelfth to the variance.
      const seen = Math.sqrt(sigma ** 2 + 1 / 12)
      for (let y = 0; y < 40; y++) expect(Math.abs(matte[y * SIZE + 20]! - normalDistribution((y + 0.5 - 20.3) / seen))).toBeLessThan(1 / 255) // prettier-ignore
    }
  })

  it('belongs to its layer alone: a hole out of focus in a sharp shape', () => {
    const hole = matteOf([{ at: B, focus: 2 }])
    const sharp = matteOf([{ at: A }])
    const both = matteOf([{ at: A }, { at: B, operation: 'subtract', focus: 2 }])
    expect(worst(both, (i) => sharp[i]! * (1 - hole[i]!))).toBeLessThan(1e-6)
  })

  it('commutes with the mean over the sub-times, and reaches over the edge of the picture', () => {
    const swept = matteOf([{ at: A, focus: 2 }], undefined, 6)
    // As two layers, of which the second adds nothing, it is blurred in each sub-time.
    const each = matteOf([{ at: A, focus: 2 }, { at: [0, 0, 0.001, 0.001] }], undefined, 6)
    expect(worst(swept, (i) => (i > 0 ? each[i]! : swept[i]!))).toBeLessThan(2e-6)
    const outside = matteOf([{ at: [SIZE + 1, 0, SIZE + 30, SIZE], focus: 3 }])
    expect(outside[20 * SIZE + SIZE - 1]).toBeGreaterThan(0.2)
  })
})
