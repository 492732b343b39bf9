import { describe, expect, it } from 'vitest'
import { multiply, type Matrix3 } from '../../geometry'
import type { PixelMask, PyramidLevel } from '../../image'
import { patternFrameOf, templateLevel, type TemplateLevel } from '../patternTemplate'
import { PARAMETERS, type PlanarModel } from '../planarModels'
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

/** Everything a kernel says of one motion. */
function answers(kernel: AlignmentKernel, scale: number, h: Matrix3, isHidden: boolean, isCellwise: boolean) {
  const [reference, image] = [waves(scale, 0), waves(scale, 2.5)]
  kernel.load(templateOf(reference), image, isHidden ? bar(image) : null)
  const exposure = { gain: 1.07, bias: -0.03 }
  const seen = kernel.residuals(h, exposure)
  const residuals = Float32Array.from(kernel.lastResiduals())
  const equations = (['position', 'similarity', 'affine', 'perspective'] as const).map((model: PlanarModel) => {
    const size = PARAMETERS[model] + 2
    const [normal, right] = [new Float64Array(size * size), new Float64Array(size)]
    kernel.normalEquations(model, exposure.gain, seen.noise, isCellwise, normal, right)
    const lower = Array.from(normal).filter((_, i) => i % size <= Math.floor(i / size))
    return { lower, right: Array.from(right), largest: Math.max(...lower.map(Math.abs)) }
  })
  const judgements = [true, false].map((only) => kernel.judge(exposure, seen.noise, only))
  return { ...seen, residuals, equations, judgements }
}

describe('alignment kernels', () => {
  it('the vectors run here, and are what all trackers use', () => {
    expect(SimdKernel.create()).not.toBeNull()
    expect(alignmentKernel()).toBeInstanceOf(SimdKernel)
  })

  for (const scale of [1, 2]) {
    for (const isHidden of [false, true]) {
      for (const isCellwise of [false, true]) {
        it(`vectors and plain code say the same: level of scale ${scale}, ${isHidden ? 'a bar hidden' : 'nothing hidden'}, ${isCellwise ? 'by cells' : 'sample by sample'}`, () => {
          const plain = answers(new PlainKernel(), scale, motion, isHidden, isCellwise)
          const simd = answers(SimdKernel.create()!, scale, motion, isHidden, isCellwise)
          expect(plain.count).toBeLessThan(plain.residuals.length)
          expect(simd.count).toBe(plain.count)
          expect(simd.noise).toBeCloseTo(plain.noise, 5)
          const apart = plain.residuals.map((r, i) => (Number.isNaN(r) ? Number(!Number.isNaN(simd.residuals[i]!)) : Math.abs(r - simd.residuals[i]!))) // prettier-ignore
          expect(Math.max(...apart)).toBeLessThan(2e-5)
          plain.equations.forEach(({ lower, right, largest }, m) => {
            const other = simd.equations[m]!
            // Weights near 0 and cells near their limits amplify the rounding of 32-bit floats.
            expect(Math.max(...lower.map((value, i) => Math.abs(value - other.lower[i]!)))).toBeLessThan(2e-4 * largest)
            expect(Math.max(...right.map((value, i) => Math.abs(value - other.right[i]!)))).toBeLessThan(2e-4 * largest)
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
    const first = answers(kernel, 1, motion, true, true)
    answers(kernel, 2, motion, false, true)
    const again = answers(kernel, 1, motion, true, true)
    expect(again).toEqual(first)
  })

  it('where nothing is seen there is nothing to judge', () => {
    const away = multiply(Float64Array.of(1, 0, 5000, 0, 1, 0, 0, 0, 1), toPlate)
    for (const kernel of [new PlainKernel(), SimdKernel.create()!]) {
      kernel.load(templateOf(waves(1, 0)), waves(1, 0), null)
      const { count, noise } = kernel.residuals(away, { gain: 1, bias: 0 })
      expect(count).toBe(0)
      expect(kernel.judge({ gain: 1, bias: 0 }, noise, true)).toEqual({ match: 0, kept: 0, residual: 0 })
    }
  })
})
