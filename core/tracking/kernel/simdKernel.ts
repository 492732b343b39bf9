import type { Matrix3 } from '../../geometry'
import type { LumaImage, PixelMask, PyramidLevel } from '../../image'
import { TUKEY } from '../../robust'
import { wasmExports } from '../../wasm'
import { LEVEL_FLOATS, paddedCount, type TemplateLevel } from '../patternTemplate'
import { PARAMETERS, type PlanarModel } from '../planarModels'
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
import { alignmentWasm } from './alignmentWasm'
import { judgementOf } from './judgement'
import { correlationAt, type ShiftSamples, type ShiftWindow } from './shiftCorrelation'

/** What `assembly/alignment.ts` exports; its comments tell the meaning. */
interface Assembly {
  memory: WebAssembly.Memory
  firstFreeByte(): number
  levelPlace(): number
  motionPlace(): number
  sumsPlace(): number
  configure(...limits: number[]): void
  toCoefficients(image: number, width: number, height: number): void
  residuals(): number
  noiseOf(seen: number): number
  shown(): number
  align(parameters: number, smallestStep: number, mostSteps: number): number
  correlations(...values: number[]): void
  judgementSums(noise: number, onlyAgreeing: number): void
  halve(from: number, width: number, height: number, rows: number, to: number): void
}

/** Fields of the assembly's Level in their order there: arrays are byte addresses. */
interface Level {
  samples: number
  count: number
  u: number
  v: number
  value: number
  gradientU: number
  gradientV: number
  steepness: number
  residual: number
  distance: number
  cell: number
  cells: number
  trust: number
  inCell: number
  image: number
  isSpline: number
  width: number
  height: number
  hidden: number
}

const NO_LEVEL: Level = {
  samples: 0, count: 0, u: 0, v: 0, value: 0, gradientU: 0, gradientV: 0, steepness: 0, residual: 0, distance: 0,
  cell: 0, cells: 0, trust: 0, inCell: 0, image: 0, isSpline: 0, width: 0, height: 0, hidden: 0,
} // prettier-ignore
const PAGE = 65536

/** Alignment's inner loops in WebAssembly, four samples at a time. */
export class SimdKernel implements AlignmentKernel {
  private readonly start: number
  private readonly level: Level = { ...NO_LEVEL }
  private template: TemplateLevel | null = null
  private image: PyramidLevel | null = null
  /** The first byte behind the template that is loaded. */
  private templateEnd: number
  private floats: Float32Array
  /** Where the assembly reads and writes numbers: always the same bytes, but memory that grows is another buffer. */
  private fields!: Int32Array
  private motion!: Float64Array
  private sums!: Float64Array

  private constructor(private readonly assembly: Assembly) {
    assembly.configure(
      TUKEY, EDGE_SLACK_PIXELS, TRUSTED, DISTRUSTED, SMALLEST_NOISE,
      LEAST_SEEN, LEAST_SHARE, TRUSTING_ITERATIONS, DAMPING,
    ) // prettier-ignore
    this.start = this.templateEnd = assembly.firstFreeByte()
    this.floats = this.viewMemory()
  }

  /** Null where WebAssembly's vectors are missing or forbidden. */
  static create(): SimdKernel | null {
    const assembly = wasmExports<Assembly>(alignmentWasm())
    return assembly && new SimdKernel(assembly)
  }

  pyramid(image: LumaImage, levels: number): PyramidLevel[] {
    const pyramid: PyramidLevel[] = [{ ...image, scale: 1 }]
    // It takes the room of the picture, which is loaded anew for what comes next.
    this.image = null
    const row = this.templateEnd
    let from = aligned(row + 4 * image.width)
    this.reserve(from + 8 * image.data.length + PAGE)
    this.floats.set(image.data, from / 4)
    while (pyramid.length < levels) {
      const { left, top, width, height, scale } = pyramid.at(-1)!
      const to = aligned(from + 4 * width * height)
      this.assembly.halve(from, width, height, row, to)
      const half = { width: Math.max(1, width >> 1), height: Math.max(1, height >> 1) }
      const data = this.floats.slice(to / 4, to / 4 + half.width * half.height)
      pyramid.push({ left, top, ...half, data, scale: 2 * scale })
      from = to
    }
    return pyramid
  }

  load(template: TemplateLevel, image: PyramidLevel, hidden: PixelMask | null) {
    const { level } = this
    if (template !== this.template) this.loadTemplate(template)
    const imagePlace = this.templateEnd
    const pixels = image.width * image.height
    const hiddenPlace = aligned(imagePlace + 4 * pixels)
    this.reserve(hiddenPlace + (hidden ? pixels : 0))
    if (image !== this.image) {
      this.floats.set(image.data, imagePlace / 4)
      if (isSplined(image)) this.assembly.toCoefficients(imagePlace, image.width, image.height)
    }
    if (hidden) new Uint8Array(this.assembly.memory.buffer, hiddenPlace, pixels).set(hidden.data)
    this.image = image
    level.image = imagePlace
    level.isSpline = Number(isSplined(image))
    level.width = image.width
    level.height = image.height
    level.hidden = hidden ? hiddenPlace : 0
    let next = 0
    for (const field in level) this.fields[next++] = level[field as keyof Level]
  }

  residuals(h: Matrix3, exposure: Exposure) {
    this.setMotion(h, exposure)
    const count = this.assembly.residuals()
    return { count, noise: this.assembly.noiseOf(count) }
  }

  lastResiduals(): Float32Array {
    const start = this.level.residual / 4
    return this.floats.subarray(start, start + this.template!.count)
  }

  shown(h: Matrix3) {
    this.setMotion(h, { gain: 0, bias: 0 })
    const count = this.assembly.shown()
    return { count, middle: count ? this.sums[0]! : NaN, spread: count ? this.sums[1]! : NaN }
  }

  align(model: PlanarModel, h: Matrix3, exposure: Exposure, smallestStep: number, mostSteps: number): Aligned {
    this.setMotion(h, exposure)
    const isHeld = this.assembly.align(PARAMETERS[model], smallestStep, mostSteps) !== 0
    const m = this.motion
    const [x, y, scale] = this.ownPixels()
    const out = new Float64Array(9)
    for (let i = 0; i < 3; i++) {
      out[i] = (m[i]! + x * m[6 + i]!) * scale
      out[3 + i] = (m[3 + i]! + y * m[6 + i]!) * scale
      out[6 + i] = m[6 + i]!
    }
    return { h: out, exposure: { gain: m[9]!, bias: m[10]! }, isHeld }
  }

  judge(h: Matrix3, exposure: Exposure, onlyAgreeing: boolean, noise?: number): Judgement {
    const { noise: own } = this.residuals(h, exposure)
    this.assembly.judgementSums(noise ?? own, Number(onlyAgreeing))
    return judgementOf(this.template!.count, this.sums)
  }

  correlations(samples: ShiftSamples, image: PyramidLevel, [left, top, right, bottom]: ShiftWindow): Float64Array {
    const { width, height } = image
    const { columns, rows, sum, squares } = samples
    const count = samples.values.length
    const across = right - left + 1
    const out = new Float64Array(across * (bottom - top + 1))
    const isRowInside = samples.firstColumn + left >= 0 && samples.lastColumn + right < width
    this.image = null
    const values = this.templateEnd
    const places = aligned(values + 4 * count)
    const work = aligned(places + 4 * count)
    const scores = aligned(work + 3 * 4 * paddedCount(across))
    const picture = aligned(scores + 8 * across)
    // Vectors look up to three pixels beyond the last.
    this.reserve(picture + 4 * width * height + PAGE)
    const { floats } = this
    const placeAt = new Int32Array(floats.buffer, places, count)
    floats.set(samples.values, values / 4)
    floats.set(image.data, picture / 4)
    for (let n = 0; n < count; n++) placeAt[n] = (rows[n]! + top) * width + columns[n]! + left
    for (let dy = top; dy <= bottom; dy++) {
      const at = (dy - top) * across
      if (isRowInside && samples.firstRow + dy >= 0 && samples.lastRow + dy < height) {
        const from = picture + 4 * (dy - top) * width
        this.assembly.correlations(values, places, count, sum, squares, from, across, work, scores)
        out.set(new Float64Array(floats.buffer, scores, across), at)
      } else for (let dx = left; dx <= right; dx++) out[at + dx - left] = correlationAt(image, samples, dx, dy)
    }
    return out
  }

  /** Where the picture's first pixel centre is, and how wide its pixels are: it is matched in pixels of its own. */
  private ownPixels(): [x: number, y: number, scale: number] {
    const { left, top } = this.image!
    const { scale } = this.template!
    return [left / scale + 0.5, top / scale + 0.5, scale]
  }

  private setMotion(h: Matrix3, { gain, bias }: Exposure) {
    const { motion } = this
    const [x, y, scale] = this.ownPixels()
    for (let i = 0; i < 3; i++) {
      // Small numbers, since they become 32-bit floats.
      motion[i] = h[i]! / scale - x * h[6 + i]!
      motion[3 + i] = h[3 + i]! / scale - y * h[6 + i]!
      motion[6 + i] = h[6 + i]!
    }
    motion[9] = gain
    motion[10] = bias
  }

  /** As much of a template as is not there from the one before. */
  private loadTemplate(template: TemplateLevel) {
    const { packed, count, cellCount } = template
    const before = this.template
    this.template = template
    if (packed && packed === before?.packed) {
      for (const name of LEVEL_FLOATS) if (template[name] !== before[name]) this.copy(template, name)
      return
    }
    const room = paddedCount(count)
    const { level } = this
    // In the order of the pattern's own memory; what the assembly works with comes behind it.
    let next = this.start
    for (const name of LEVEL_FLOATS) {
      level[name] = next
      next += 4 * room
    }
    level.cell = next
    level.residual = aligned(next + 2 * room)
    level.distance = level.residual + 4 * room
    level.trust = level.distance + 4 * room
    level.inCell = aligned(level.trust + 4 * cellCount)
    this.templateEnd = aligned(level.inCell + 4 * cellCount)
    level.samples = count
    level.count = room
    level.cells = cellCount
    // The picture has to move along.
    this.image = null
    this.reserve(this.templateEnd)
    if (packed) {
      this.floats.set(packed, this.start / 4)
      for (const name of LEVEL_FLOATS) if (template[name].buffer !== packed.buffer) this.copy(template, name)
      return
    }
    for (const name of LEVEL_FLOATS) {
      this.copy(template, name)
      // Positions that are no numbers count as outside the picture.
      this.floats.fill(name === 'u' ? NaN : 0, level[name] / 4 + count, level[name] / 4 + room)
    }
    const cells = new Uint16Array(this.assembly.memory.buffer, level.cell, room)
    cells.set(template.cell)
    cells.fill(0, count)
  }

  private copy(template: TemplateLevel, name: (typeof LEVEL_FLOATS)[number]) {
    this.floats.set(template[name], this.level[name] / 4)
  }

  private reserve(bytes: number) {
    const { memory } = this.assembly
    const missing = bytes - memory.buffer.byteLength
    if (missing <= 0) return
    memory.grow(Math.ceil(missing / PAGE))
    this.floats = this.viewMemory()
  }

  private viewMemory(): Float32Array {
    const { assembly } = this
    const { buffer } = assembly.memory
    this.fields = new Int32Array(buffer, assembly.levelPlace(), Object.keys(NO_LEVEL).length)
    this.motion = new Float64Array(buffer, assembly.motionPlace(), 11)
    this.sums = new Float64Array(buffer, assembly.sumsPlace(), 8)
    return new Float32Array(buffer)
  }
}

const aligned = (byte: number) => (byte + 15) & ~15
