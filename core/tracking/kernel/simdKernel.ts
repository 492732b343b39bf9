import type { Matrix3 } from '../../geometry'
import type { LumaImage, PixelMask, PyramidLevel } from '../../image'
import { TUKEY } from '../../robust'
import type { TemplateLevel } from '../patternTemplate'
import { PARAMETERS, type PlanarModel } from '../planarModels'
import {
  DISTRUSTED,
  EDGE_SLACK_PIXELS,
  SMALLEST_NOISE,
  TRUSTED,
  type AlignmentKernel,
  type Exposure,
  type Judgement,
} from './alignmentKernel'
import { alignmentWasm } from './alignmentWasm'
import { judgementOf } from './judgement'

/** What `assembly/alignment.ts` exports; its comments tell the parameters. */
interface Assembly {
  memory: WebAssembly.Memory
  firstFreeByte(): number
  scratchBytes(): number
  residuals(...values: number[]): number
  median(values: number, count: number): number
  cellTrust(...values: number[]): void
  normalEquations(...values: number[]): void
  judgementSums(...values: number[]): void
  halve(from: number, width: number, height: number, rows: number, to: number): void
}

/** Arrays of a template level in the module's memory: byte addresses. */
interface Places {
  u: number
  v: number
  value: number
  gradientU: number
  gradientV: number
  steepness: number
  residual: number
  distance: number
  cell: number
  trust: number
  inCell: number
}

const PAGE = 65536
const COPIED = ['u', 'v', 'value', 'gradientU', 'gradientV', 'steepness'] as const
const FLOAT_ARRAYS = [...COPIED, 'residual', 'distance'] as const

/** Alignment's inner loops in WebAssembly, four samples at a time. */
export class SimdKernel implements AlignmentKernel {
  private readonly scratch: number
  private readonly normal: number
  private readonly right: number
  private readonly sums: number
  private readonly templateStart: number
  private places: Places = { u: 0, v: 0, value: 0, gradientU: 0, gradientV: 0, steepness: 0, residual: 0, distance: 0, cell: 0, trust: 0, inCell: 0 } // prettier-ignore
  private template: TemplateLevel | null = null
  private image: PyramidLevel | null = null
  private imagePlace = 0
  private hiddenPlace = 0
  private floats: Float32Array
  private doubles: Float64Array

  private constructor(private readonly assembly: Assembly) {
    const start = assembly.firstFreeByte()
    this.scratch = start
    this.normal = aligned(start + assembly.scratchBytes())
    this.right = aligned(this.normal + 8 * 100)
    this.sums = aligned(this.right + 8 * 10)
    this.templateStart = aligned(this.sums + 8 * 8)
    this.floats = new Float32Array(assembly.memory.buffer)
    this.doubles = new Float64Array(assembly.memory.buffer)
  }

  /** Null where WebAssembly's vectors are missing or forbidden. */
  static create(): SimdKernel | null {
    try {
      const { exports } = new WebAssembly.Instance(new WebAssembly.Module(alignmentWasm()))
      return new SimdKernel(exports as unknown as Assembly)
    } catch {
      return null
    }
  }

  pyramid(image: LumaImage, levels: number): PyramidLevel[] {
    const pyramid: PyramidLevel[] = [{ ...image, scale: 1 }]
    // It takes the room of the template and the picture, which are loaded anew for what comes next.
    this.template = this.image = null
    const row = this.templateStart
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
    const imagePlace = template === this.template ? this.imagePlace : this.loadTemplate(template)
    const pixels = image.width * image.height
    const hiddenPlace = aligned(imagePlace + 4 * pixels)
    this.reserve(hiddenPlace + (hidden ? pixels : 0))
    if (image !== this.image || imagePlace !== this.imagePlace) this.floats.set(image.data, imagePlace / 4)
    if (hidden) new Uint8Array(this.assembly.memory.buffer, hiddenPlace, pixels).set(hidden.data)
    this.template = template
    this.image = image
    this.imagePlace = imagePlace
    this.hiddenPlace = hidden ? hiddenPlace : 0
  }

  residuals(h: Matrix3, { gain, bias }: Exposure) {
    const { places, assembly } = this
    const image = this.image!
    const { count, scale } = this.template!
    // To the picture's own pixels, centres on whole numbers: small numbers, since they become 32-bit floats.
    const [x, y] = [image.left / scale + 0.5, image.top / scale + 0.5]
    const [h6, h7, h8] = [h[6]!, h[7]!, h[8]!]
    const seen = assembly.residuals(
      padded(count), places.u, places.v, places.value,
      this.imagePlace, image.width, image.height, this.hiddenPlace,
      h[0]! / scale - x * h6, h[1]! / scale - x * h7, h[2]! / scale - x * h8,
      h[3]! / scale - y * h6, h[4]! / scale - y * h7, h[5]! / scale - y * h8,
      h6, h7, h8, gain, bias, places.residual, places.distance,
    ) // prettier-ignore
    const noise = seen === 0 ? 0 : 1.4826 * assembly.median(places.distance, seen)
    return { count: seen, noise: Math.max(SMALLEST_NOISE, noise) }
  }

  lastResiduals(): Float32Array {
    const start = this.places.residual / 4
    return this.floats.subarray(start, start + this.template!.count)
  }

  normalEquations(
    model: PlanarModel,
    gain: number,
    noise: number,
    isCellwise: boolean,
    normal: Float64Array,
    right: Float64Array,
  ) {
    const { places, assembly } = this
    const { count, cellCount } = this.template!
    if (isCellwise) {
      assembly.cellTrust(
        count, places.residual, places.steepness, places.cell, TUKEY, noise, EDGE_SLACK_PIXELS,
        cellCount, TRUSTED, DISTRUSTED, places.trust, places.inCell,
      ) // prettier-ignore
    }
    assembly.normalEquations(
      PARAMETERS[model], padded(count), places.u, places.v, places.gradientU, places.gradientV, places.value,
      places.residual, places.steepness, places.cell, isCellwise ? places.trust : 0,
      gain, TUKEY, noise, EDGE_SLACK_PIXELS, this.scratch, this.normal, this.right,
    ) // prettier-ignore
    const { doubles } = this
    for (let i = 0; i < normal.length; i++) normal[i] = doubles[this.normal / 8 + i]!
    for (let i = 0; i < right.length; i++) right[i] = doubles[this.right / 8 + i]!
  }

  judge({ gain, bias }: Exposure, noise: number, onlyAgreeing: boolean): Judgement {
    const { places, sums } = this
    const { count } = this.template!
    this.assembly.judgementSums(
      padded(count), places.residual, places.steepness, places.value,
      gain, bias, TUKEY, noise, EDGE_SLACK_PIXELS, Number(onlyAgreeing), sums,
    ) // prettier-ignore
    return judgementOf(count, this.doubles, sums / 8)
  }

  /** @returns the first byte behind the template */
  private loadTemplate(template: TemplateLevel): number {
    const room = padded(template.count)
    const places = { ...this.places }
    let next = this.templateStart
    for (const name of FLOAT_ARRAYS) {
      places[name] = next
      next = aligned(next + 4 * room)
    }
    places.cell = next
    next = aligned(next + 2 * room)
    places.trust = next
    next = aligned(next + 4 * template.cellCount)
    places.inCell = next
    next = aligned(next + 4 * template.cellCount)
    this.reserve(next)
    for (const name of COPIED) {
      this.floats.set(template[name], places[name] / 4)
      // Positions that are no numbers count as outside the picture.
      this.floats.fill(name === 'u' ? NaN : 0, places[name] / 4 + template.count, places[name] / 4 + room)
    }
    const cells = new Uint16Array(this.assembly.memory.buffer, places.cell, room)
    cells.set(template.cell)
    cells.fill(0, template.count)
    this.places = places
    return next
  }

  private reserve(bytes: number) {
    const { memory } = this.assembly
    const missing = bytes - memory.buffer.byteLength
    if (missing <= 0) return
    memory.grow(Math.ceil(missing / PAGE))
    this.floats = new Float32Array(memory.buffer)
    this.doubles = new Float64Array(memory.buffer)
  }
}

/** Vectors hold four samples. */
const padded = (count: number) => (count + 3) & ~3

const aligned = (byte: number) => (byte + 15) & ~15
