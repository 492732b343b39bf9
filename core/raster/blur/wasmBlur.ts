import { aligned, roomFor, wasmExports } from '../../wasm'
import type { Box } from '../../geometry'
import { blurWasm } from './blurWasm'
import { matteKernel } from './matteKernel'
import { kernelNumber, kernelOf, octaveOf, sigmaFromBefore, sigmaLeft } from './octaves'
import type { PictureBlur } from './pictureBlur'

/** What `assembly/blur.ts` exports; its comments tell the parameters. */
interface Assembly {
  memory: WebAssembly.Memory
  firstFreeByte(): number
  even(from: number, width: number, height: number, stride: number, kernel: number, taps: number, middle: number, to: number): void // prettier-ignore
  around(corner: number, stride: number, step: number, kernel: number, taps: number): number
}

/** A picture in memory: its pixels begin where its box does, and rows are as long as those of the picture that was loaded. */
interface Plane {
  at: number
  box: Box
}

/** Kernels that stay in memory, each in a room of its own; those of what is left of a sigma are no longer. */
const KERNELS = 1200
const KERNEL_BYTES = 4 * 32

class WasmBlur implements PictureBlur {
  private planes: Plane[] = []
  private stride = 0
  private planeBytes = 0
  /** Length of the kernels that are in memory; 0: not yet. */
  private readonly taps = new Uint8Array(KERNELS)
  private readonly kernelsAt: number
  /** Of a kernel that is used for a whole picture. */
  private readonly wideAt: number
  private readonly planesAt: number

  constructor(private readonly assembly: Assembly) {
    this.kernelsAt = aligned(assembly.firstFreeByte())
    this.wideAt = this.kernelsAt + KERNELS * KERNEL_BYTES
    this.planesAt = this.wideAt + LONGEST_KERNEL * 4
  }

  load(alpha: Float32Array, around: Box) {
    const [width, height] = [around.right - around.left, around.bottom - around.top]
    this.stride = Math.ceil(width / 4) * 4
    // Rows are read four at a time, from any place of the last one.
    this.planeBytes = aligned(4 * this.stride * (height + 1) + 32)
    this.planes = [{ at: this.planeAt(0), box: around }]
    const data = new Float32Array(roomFor(this.assembly.memory, this.planeAt(1)), this.planesAt)
    const rowEnd = this.stride - width
    for (let y = 0, at = 0; y < height; y++, at += this.stride) {
      data.set(alpha.subarray(y * width, (y + 1) * width), at)
      if (rowEnd) data.fill(0, at + width, at + this.stride)
    }
    data.fill(0, height * this.stride, this.planeBytes / 4)
  }

  evenly(sigma: number, box: Box, out: Float32Array) {
    // It takes the room of what was made for single pixels.
    this.planes.length = 1
    const blurred = this.convolved(this.planes[0]!, sigma, 1)
    const data = new Float32Array(this.assembly.memory.buffer)
    const own = box.right - box.left
    for (let y = box.top; y < box.bottom; y++) {
      const from = this.numberAt(blurred, box.left, y)
      out.set(data.subarray(from, from + own), (y - box.top) * own)
    }
  }

  at(x: number, y: number, sigma: number): number {
    const octave = octaveOf(sigma)
    const plane = this.planeOf(octave)
    const number = kernelNumber(sigmaLeft(sigma, octave))
    if (number < 0) return new Float32Array(this.assembly.memory.buffer, 4 * this.numberAt(plane, x, y), 1)[0]!
    const taps = this.taps[number] || this.kernelPut(number)
    const step = 2 ** octave
    const back = (taps >> 1) * step
    const corner = 4 * this.numberAt(plane, x - back, y - back)
    return this.assembly.around(corner, this.stride, step, this.kernelsAt + number * KERNEL_BYTES, taps)
  }

  private planeOf(octave: number): Plane {
    return (this.planes[octave] ??= this.convolved(this.planeOf(octave - 1), sigmaFromBefore(octave), octave))
  }

  /** Puts a blurred plane into room `n`, past which it needs another. */
  private convolved({ at, box }: Plane, sigma: number, n: number): Plane {
    const { assembly, stride } = this
    const kernel = matteKernel(sigma)
    const to = this.planeAt(n)
    const memory = roomFor(assembly.memory, this.planeAt(n + 2))
    new Float32Array(memory, this.wideAt, kernel.length).set(kernel)
    const [width, height] = [box.right - box.left, box.bottom - box.top]
    assembly.even(at, width, height, stride, this.wideAt, kernel.length, this.planeAt(n + 1), to)
    const reach = kernel.length >> 1
    return { at: to, box: { left: box.left + reach, top: box.top + reach, right: box.right - reach, bottom: box.bottom - reach } } // prettier-ignore
  }

  private kernelPut(number: number): number {
    const kernel = kernelOf(number)
    const room = new Float32Array(this.assembly.memory.buffer, this.kernelsAt + number * KERNEL_BYTES, KERNEL_BYTES / 4)
    room.fill(0)
    room.set(kernel)
    return (this.taps[number] = kernel.length)
  }

  /** Which 32-bit number of the memory a pixel is. */
  private numberAt({ at, box }: Plane, x: number, y: number): number {
    return at / 4 + (y - box.top) * this.stride + x - box.left
  }

  private planeAt(n: number): number {
    return this.planesAt + n * this.planeBytes
  }
}

/** Of a sigma of 500 pixels. */
const LONGEST_KERNEL = 3004

/** Null where WebAssembly's vectors are missing or forbidden. */
export function wasmBlur(): PictureBlur | null {
  const assembly = wasmExports<Assembly>(blurWasm())
  return assembly && new WasmBlur(assembly)
}
