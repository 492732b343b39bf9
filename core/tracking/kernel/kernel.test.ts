import { describe, expect, it } from 'vitest'
import { applyToPoint, multiply, type Matrix3 } from '../../geometry'
import type { PixelMask, PyramidLevel } from '../../image'
import { patternFrameOf, templateLevel, withValues, type TemplateLevel } from '../patternTemplate'
import { alignmentKernel, type AlignmentKernel } from './index'
import { PlainKernel } from './plainKernel'
import { SimdKernel } from './simdKernel'

/** A picture of waves with something like grain on it. */
function waves(scale: number, shift: number): PyramidLevel {
  const [width, height] = [140 / scale, 110 / scale]
  const data = new Float32Array(width * height)
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const [u, v] = [(x + 0.5) * scale + shift, (y + 0.5) * scale]
      const grain = 0.02 * Math.sin(91.7 * u + 37.1 * v)
      data[y * width + x] = 0.5 + 0.2 * Math.sin(0.21 * u + 0.05 * v) + 0.15 * Math.sin(0.17 * v - 0.06 * u) + grain
    }
  }
  return { left: 40, top: 30, width, height, data, scale }
}

const outline = [60, 50, 151, 47, 155, 121, 63, 118]
const frame = patternFrameOf([outline])
const toPlate = Float64Array.of(frame.unitX, 0, frame.centreX, 0, frame.unitY, frame.centreY, 0, 0, 1)
/** A motion that brings some samples outside the picture. */
const motion = multiply(Float64Array.of(1.02, 0.015, 24.3, -0.01, 0.99, 3.7, 2e-5, -1e-5, 1), toPlate)

function templateOf(image: PyramidLevel): TemplateLevel {
  return templateLevel(image, { outlines: [outline], hidden: [] }, null, frame, { texture: 'all', density: 1 })
}

/** A bar of hidden pixels in the middle of the picture. */
function bar({ width, height }: PyramidLevel): PixelMask {
  const data = Uint8Array.from({ length: width * height }, (_, i) =>
    i % width > width * 0.4 && i % width < width / 2 ? 1 : 0,
  )
  return { width, height, data }
}

const MODELS = ['position', 'similarity', 'affine', 'perspective'] as const

/** Everything a kernel says of one motion; steps 1 looks at samples one by one, 4 by cells, too. */
function answers(kernel: AlignmentKernel, scale: number, h: Matrix3, isHidden: boolean, steps: number) {
  const [reference, image] = [waves(scale, 0), waves(scale, 2.5)]
  const exposure = { gain: 1.07, bias: -0.03 }
  const load = () => kernel.load(templateOf(reference), image, isHidden ? bar(image) : null)
  load()
  const seen = kernel.residuals(h, exposure)
  const residuals = Float32Array.from(kernel.lastResiduals())
  const shown = kernel.shown(h)
  const aligned = MODELS.map((model) => kernel.align(model, h, exposure, 0, steps))
  const judgements = [true, false].map((only) => kernel.judge(h, exposure, only))
  const withNoise = kernel.judge(h, exposure, true, 0.5 * seen.noise)
  return { ...seen, residuals, shown, aligned, judgements: [...judgements, withNoise] }
}

/** Largest distance of the outline's corners under two motions, pixels of the plate. */
function apartBy(a: Matrix3, b: Matrix3): number {
  const corners = [0, 2, 4, 6].map((i) => {
    const [x, y] = [outline[i]!, outline[i + 1]!]
    const [u, v] = [(x - frame.centreX) / frame.unitX, (y - frame.centreY) / frame.unitY]
    const [p, q] = [applyToPoint(a, u, v), applyToPoint(b, u, v)]
    return Math.hypot(p[0]! - q[0]!, p[1]! - q[1]!)
  })
  return Math.max(...corners)
}

describe('alignment kernels', () => {
  it('the vectors run here, and are what all trackers use', () => {
    expect(SimdKernel.create()).not.toBeNull()
    expect(alignmentKernel()).toBeInstanceOf(SimdKernel)
  })

  for (const scale of [1, 2]) {
    for (const isHidden of [false, true]) {
      for (const steps of [1, 4]) {
        it(`vectors and plain code say the same: level of scale ${scale}, ${isHidden ? 'a bar hidden' : 'nothing hidden'}, ${steps} step(s)`, () => {
          const plain = answers(new PlainKernel(), scale, motion, isHidden, steps)
          const simd = answers(SimdKernel.create()!, scale, motion, isHidden, steps)
          expect(plain.count).toBeLessThan(plain.residuals.length)
          expect(simd.count).toBe(plain.count)
          expect(simd.noise).toBeCloseTo(plain.noise, 5)
          const apart = plain.residuals.map((r, i) => (Number.isNaN(r) ? Number(!Number.isNaN(simd.residuals[i]!)) : Math.abs(r - simd.residuals[i]!))) // prettier-ignore
          expect(Math.max(...apart)).toBeLessThan(2e-5)
          expect(simd.shown.count).toBe(plain.shown.count)
          expect(simd.shown.middle).toBeCloseTo(plain.shown.middle, 5)
          expect(simd.shown.spread).toBeCloseTo(plain.shown.spread, 5)
          plain.aligned.forEach(({ h, exposure, isHeld }, m) => {
            const other = simd.aligned[m]!
            expect(isHeld && other.isHeld).toBe(true)
            // It has moved, and by more than the rounding of 32-bit floats and weights near their limits make of it.
            expect(apartBy(h, motion)).toBeGreaterThan(0.5)
            expect(apartBy(h, other.h)).toBeLessThan(0.01)
            expect(other.exposure.gain).toBeCloseTo(exposure.gain, 3)
            expect(other.exposure.bias).toBeCloseTo(exposure.bias, 3)
          })
          plain.judgements.forEach(({ match, kept, residual }, i) => {
            expect(simd.judgements[i]!.match).toBeCloseTo(match, 4)
            expect(Math.abs(simd.judgements[i]!.kept - kept)).toBeLessThan(0.002)
            expect(simd.judgements[i]!.residual).toBeCloseTo(residual, 4)
          })
        })
      }
    }
  }

  it('vectors and plain code correlate alike at every shift, inside the picture and over its edges', () => {
    const image = waves(1, 0)
    for (const window of [[-9, -7, 8, 10], [-90, -3, 60, 4]] as const) {
      const places = Array.from({ length: 200 }, (_, n) => [40 + ((7 * n) % 31), 30 + ((11 * n) % 23)])
      const [columns, rows] = [0, 1].map((axis) => Int32Array.from(places, (place) => place[axis]!))
      // The samples are the picture's own, three pixels to the right and two up.
      const values = Float32Array.from(places, ([x, y]) => image.data[(y! - 2) * image.width + x! + 3]!)
      const sum = values.reduce((a, b) => a + b, 0)
      const squares = values.reduce((a, b) => a + b * b, 0)
      const edges = { firstColumn: 40, lastColumn: 70, firstRow: 30, lastRow: 52 }
      const samples = { values, columns: columns!, rows: rows!, ...edges, sum, squares }
      const [plain, simd] = [new PlainKernel(), SimdKernel.create()!].map((kernel) => kernel.correlations(samples, image, window)) // prettier-ignore
      expect(simd!.length).toBe(plain!.length)
      expect(Math.max(...plain!.map((score, i) => Math.abs(score - simd![i]!)))).toBeLessThan(1e-3)
      const best = simd!.indexOf(Math.max(...simd!))
      const across = window[2] - window[0] + 1
      expect([(best % across) + window[0], Math.floor(best / across) + window[1]]).toEqual([3, -2])
    } // prettier-ignore
  })

  it('a picture that does not vary correlates with nothing', () => {
    const image = { ...waves(1, 0), data: new Float32Array(140 * 110).fill(0.7) }
    const samples = {
      values: Float32Array.from({ length: 50 }, (_, n) => Math.sin(n)),
      columns: Int32Array.from({ length: 50 }, (_, n) => 20 + n),
      rows: new Int32Array(50).fill(40),
      firstColumn: 20, lastColumn: 69, firstRow: 40, lastRow: 40,
      sum: 0, squares: 25,
    } // prettier-ignore
    for (const kernel of [new PlainKernel(), SimdKernel.create()!]) {
      const scores = kernel.correlations(samples, image, [-5, -5, 5, 5])
      expect(Math.max(...scores.map(Math.abs))).toBeLessThan(0.01)
    }
  })

  it('vectors and plain code halve pictures of any size alike', () => {
    for (const [width, height] of [[1, 1], [2, 3], [9, 4], [17, 16], [31, 50], [64, 33], [141, 110]] as const) {
      const data = Float32Array.from({ length: width * height }, (_, i) => 0.5 + 0.5 * Math.sin(i * i))
      const image = { left: 3, top: 4, width, height, data }
      const [plain, simd] = [new PlainKernel(), SimdKernel.create()!].map((kernel) => kernel.pyramid(image, 4))
      plain!.forEach((level, i) => {
        const { data: values, ...shape } = simd![i]!
        expect(shape).toEqual({ left: 3, top: 4, width: level.width, height: level.height, scale: level.scale })
        expect(Math.max(...level.data.map((value, k) => Math.abs(value - values[k]!)))).toBeLessThan(1e-6)
      })
    } // prettier-ignore
  })

  it('the next template and picture take the place of those before, larger or smaller', () => {
    const kernel = SimdKernel.create()!
    const first = answers(kernel, 1, motion, true, 4)
    answers(kernel, 2, motion, false, 4)
    const again = answers(kernel, 1, motion, true, 4)
    expect(again).toEqual(first)
  })

  it('a template whose arrays were replaced is taken so, after its own, after another, and its own after it', () => {
    const [image, own, another] = [waves(1, 2.5), templateOf(waves(1, 0)), templateOf(waves(1, 9))]
    const negative = withValues(own, own.value.map((value) => 1 - value)) // prettier-ignore
    const streaked = { ...own, gradientU: own.gradientU.map((g) => g / 2), steepness: own.steepness.map((g) => g / 2) }
    const gaps = withValues(own, own.value.map((value, n) => (n % 5 ? value : NaN))) // prettier-ignore
    expect([negative.packed, gaps.packed]).toEqual([own.packed, null])
    const aligned = (kernel: AlignmentKernel, template: TemplateLevel) => {
      kernel.load(template, image, null)
      const { h, exposure } = kernel.align('affine', motion, { gain: 1, bias: 0 }, 0, 3)
      return [...h, exposure.gain, exposure.bias]
    }
    const kernel = SimdKernel.create()!
    for (const template of [own, negative, own, streaked, negative, another, streaked, gaps, own, gaps, negative]) {
      expect(aligned(kernel, template)).toEqual(aligned(SimdKernel.create()!, template))
    }
    expect(aligned(kernel, negative)).not.toEqual(aligned(kernel, own))
  })

  it('pyramids and correlations in between leave the template where it is', () => {
    const [image, template] = [waves(1, 2.5), templateOf(waves(1, 0))]
    const kernel = SimdKernel.create()!
    const residuals = () => {
      kernel.load(template, image, null)
      kernel.residuals(motion, { gain: 1, bias: 0 })
      return Float32Array.from(kernel.lastResiduals())
    }
    const first = residuals()
    kernel.pyramid({ left: 0, top: 0, width: 700, height: 500, data: new Float32Array(350_000).fill(0.3) }, 4)
    expect(residuals()).toEqual(first)
    const [columns, rows] = [Int32Array.of(50, 60, 70), Int32Array.of(40, 50, 60)]
    const samples = { values: Float32Array.of(0.1, 0.9, 0.4), columns, rows, firstColumn: 50, lastColumn: 70, firstRow: 40, lastRow: 60, sum: 1.4, squares: 0.98 } // prettier-ignore
    kernel.correlations(samples, image, [-20, -20, 20, 20])
    expect(residuals()).toEqual(first)
  })

  it('where nothing is seen there is nothing to judge', () => {
    const away = multiply(Float64Array.of(1, 0, 5000, 0, 1, 0, 0, 0, 1), toPlate)
    for (const kernel of [new PlainKernel(), SimdKernel.create()!]) {
      kernel.load(templateOf(waves(1, 0)), waves(1, 0), null)
      expect(kernel.residuals(away, { gain: 1, bias: 0 }).count).toBe(0)
      expect(kernel.shown(away).count).toBe(0)
      expect(kernel.align('affine', away, { gain: 1, bias: 0 }, 0, 5).isHeld).toBe(false)
      expect(kernel.judge(away, { gain: 1, bias: 0 }, true)).toEqual({ match: 0, kept: 0, residual: 0 })
    }
  })
})
