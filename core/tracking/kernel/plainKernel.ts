import { invert, multiply, type Matrix3 } from '../../geometry'
import { pyramidOf, splineCoefficients, type LumaImage, type PixelMask, type PyramidLevel } from '../../image'
import { TUKEY, tukeyBiweight } from '../../robust'
import { medianAndSpread, medianOf } from '../median'
import type { TemplateLevel } from '../patternTemplate'
import { PARAMETERS, steepestDescent, stepOf, type PlanarModel } from '../planarModels'
import { bicubicAt, splineAt } from '../sampling'
import { solveSymmetric } from '../../geometry'
import {
  isSplined,
  DAMPING,
  DISTRUSTED,
  EDGE_SLACK_PIXELS,
  LEAST_SEEN,
  LEAST_SHARE,
  SMALLEST_NOISE,
  TRUSTED,
  TRUSTING_ITERATIONS,
  type Aligned,
  type AlignmentKernel,
  type Exposure,
  type Judgement,
} from './alignmentKernel'
import { judgementOf } from './judgement'
import { correlationAt, type ShiftSamples, type ShiftWindow } from './shiftCorrelation'

/** Alignment's inner loops in plain TypeScript: the reference for the others, and what runs where they cannot. */
export class PlainKernel implements AlignmentKernel {
  private template!: TemplateLevel
  private image!: PyramidLevel
  private coefficients!: PyramidLevel
  private hidden: Uint8Array | null = null
  private residual = new Float32Array(0)
  private distance = new Float32Array(0)
  private trust = new Float32Array(0)
  private inCell = new Float32Array(0)

  pyramid(image: LumaImage, levels: number): PyramidLevel[] {
    return pyramidOf(image, levels)
  }

  load(template: TemplateLevel, image: PyramidLevel, hidden: PixelMask | null) {
    this.template = template
    if (image !== this.image) this.coefficients = isSplined(image) ? splineCoefficients(image) : image
    this.image = image
    this.hidden = hidden?.data ?? null
    if (this.distance.length < template.count) this.distance = new Float32Array(template.count)
    if (this.trust.length < template.cellCount) {
      this.trust = new Float32Array(template.cellCount)
      this.inCell = new Float32Array(template.cellCount)
    }
  }

  lastResiduals(): Float32Array {
    return this.residual
  }

  residuals(h: Matrix3, { gain, bias }: Exposure) {
    const { template, coefficients: image, hidden } = this
    const { u, v, value, count, scale } = template
    if (this.residual.length !== count) this.residual = new Float32Array(count)
    const { residual } = this
    const [a, b, c, d, e, f, g, k, l] = h as unknown as [
      number, number, number, number, number, number, number, number, number,
    ] // prettier-ignore
    const offsetX = image.left / scale + 0.5
    const offsetY = image.top / scale + 0.5
    const mostX = image.width - 2
    const mostY = image.height - 2
    const valueAt = isSplined(image) ? splineAt : bicubicAt
    let used = 0
    for (let n = 0; n < count; n++) {
      const un = u[n]!
      const vn = v[n]!
      const w = (g * un + k * vn + l) * scale
      const x = (a * un + b * vn + c) / w - offsetX
      const y = (d * un + e * vn + f) / w - offsetY
      if (
        !(x >= 1 && y >= 1 && x < mostX && y < mostY) ||
        (hidden !== null && hidden[Math.round(y) * image.width + Math.round(x)])
      ) {
        residual[n] = NaN
        continue
      }
      const r = valueAt(image, x, y) - gain * value[n]! - bias
      residual[n] = r
      this.distance[used++] = r < 0 ? -r : r
    }
    return { count: used, noise: Math.max(SMALLEST_NOISE, 1.4826 * medianOf(this.distance, used)) }
  }

  shown(h: Matrix3) {
    const { count } = this.residuals(h, { gain: 0, bias: 0 })
    const [middle, spread] = medianAndSpread(this.residual.filter((value) => !Number.isNaN(value)))
    return { count, middle, spread }
  }

  align(
    model: PlanarModel,
    start: Matrix3,
    { gain, bias }: Exposure,
    smallestStep: number,
    mostSteps: number,
  ): Aligned {
    const size = PARAMETERS[model] + 2
    const normal = new Float64Array(size * size)
    const right = new Float64Array(size)
    let h = start
    for (let iteration = 0; iteration < mostSteps; iteration++) {
      const { count, noise } = this.residuals(h, { gain, bias })
      const isEnough = count >= Math.max(LEAST_SEEN, this.template.count * LEAST_SHARE)
      if (isEnough) this.normalEquations(model, gain, noise, iteration >= TRUSTING_ITERATIONS, normal, right)
      for (let i = 0; i < size; i++) normal[i * size + i]! *= 1 + DAMPING
      if (!isEnough || !solveSymmetric(normal, right, size)) return { h, exposure: { gain, bias }, isHeld: false }
      h = multiply(h, invert(stepOf(model, right)))
      gain += right[size - 2]!
      bias += right[size - 1]!
      if (right.subarray(0, size - 2).every((change) => Math.abs(change) < smallestStep)) break
    }
    return { h, exposure: { gain, bias }, isHeld: true }
  }

  judge(h: Matrix3, exposure: Exposure, onlyAgreeing: boolean, givenNoise?: number): Judgement {
    const { noise: own } = this.residuals(h, exposure)
    const noise = givenNoise ?? own
    const { gain, bias } = exposure
    const { template, residual } = this
    let [count, agreeing, squares] = [0, 0, 0]
    let [st, si, stt, sii, sti] = [0, 0, 0, 0, 0]
    for (let n = 0; n < template.count; n++) {
      const r = residual[n]!
      if (Number.isNaN(r)) continue
      const agrees = Math.abs(r) < TUKEY * (noise + EDGE_SLACK_PIXELS * template.steepness[n]!)
      if (agrees) {
        agreeing++
        squares += r * r
      } else if (onlyAgreeing) continue
      const t = template.value[n]!
      const i = r + gain * t + bias
      count++
      st += t
      si += i
      stt += t * t
      sii += i * i
      sti += t * i
    }
    return judgementOf(template.count, [count, agreeing, squares, st, si, stt, sii, sti])
  }

  correlations(samples: ShiftSamples, image: PyramidLevel, [left, top, right, bottom]: ShiftWindow): Float64Array {
    const across = right - left + 1
    return Float64Array.from({ length: across * (bottom - top + 1) }, (_, n) =>
      correlationAt(image, samples, left + (n % across), top + Math.floor(n / across)),
    )
  }

  /**
   * Lower triangle of the weighted normal equations of the motion parameters, gain and bias; row by row.
   *
   * @param isCellwise  whether samples also count by how far their cell is to be trusted
   */
  private normalEquations(
    model: PlanarModel,
    gain: number,
    noise: number,
    isCellwise: boolean,
    normal: Float64Array,
    right: Float64Array,
  ) {
    const size = PARAMETERS[model] + 2
    normal.fill(0)
    right.fill(0)
    const trust = isCellwise ? this.cellTrust(noise) : null
    const { residual } = this
    const { u: us, v: vs, gradientU, gradientV, steepness, value, cell, count } = this.template
    const row = new Float64Array(size)
    for (let n = 0; n < count; n++) {
      const r = residual[n]!
      const own = tukeyWeight(r, noise, steepness[n]!)
      const weight = trust ? own * trust[cell[n]!]! : own
      if (weight === 0) continue
      steepestDescent(model, us[n]!, vs[n]!, gradientU[n]! * gain, gradientV[n]! * gain, row)
      row[size - 2] = value[n]!
      row[size - 1] = 1
      for (let i = 0; i < size; i++) {
        const wi = weight * row[i]!
        right[i]! += wi * r
        for (let j = 0; j <= i; j++) normal[i * size + j]! += wi * row[j]!
      }
    }
  }

  /**
   * How far each cell is to be trusted, 0..1: where many samples are outliers, the others agree by chance, since what
   * hides a surface hides whole stretches of it.
   */
  private cellTrust(noise: number): Float32Array {
    const { trust, inCell, residual } = this
    const { count, cell, cellCount, steepness } = this.template
    trust.fill(0, 0, cellCount)
    inCell.fill(0, 0, cellCount)
    for (let n = 0; n < count; n++) {
      const r = residual[n]!
      if (Number.isNaN(r)) continue
      inCell[cell[n]!]!++
      if (tukeyWeight(r, noise, steepness[n]!) === 0) trust[cell[n]!]!++
    }
    for (let c = 0; c < cellCount; c++) {
      const outliers = trust[c]! / Math.max(1, inCell[c]!)
      trust[c] = Math.min(1, Math.max(0, (DISTRUSTED - outliers) / (DISTRUSTED - TRUSTED)))
    }
    return trust
  }
}

/** Tukey's biweight of a residual, with more patience at steep places. 0 for NaN. */
export const tukeyWeight = (residual: number, noise: number, steepness: number) =>
  tukeyBiweight(residual, noise + EDGE_SLACK_PIXELS * steepness)
