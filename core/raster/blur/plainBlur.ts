import type { Box } from '../../geometry'
import { blurred } from '../../image'
import { sizeOf } from '../fittedMatte'
import { matteKernel } from './matteKernel'
import { kernelNumber, kernelOf, octaveOf, sigmaFromBefore, sigmaLeft } from './octaves'
import type { PictureBlur } from './pictureBlur'

/** Without WebAssembly; what that must give as well. */
export class PlainBlur implements PictureBlur {
  private around: Box = { left: 0, top: 0, right: 0, bottom: 0 }
  /** The picture, and those of its octaves as far as they were asked for. */
  private pictures: Float32Array[] = []

  load(alpha: Float32Array, around: Box) {
    this.around = around
    this.pictures = [alpha.subarray(0, sizeOf(around))]
  }

  evenly(sigma: number, box: Box, out: Float32Array) {
    const data = this.blurred(this.pictures[0]!, sigma)
    const [width, own] = [this.width, box.right - box.left]
    for (let y = box.top; y < box.bottom; y++) {
      const from = (y - this.around.top) * width + box.left - this.around.left
      out.set(data.subarray(from, from + own), (y - box.top) * own)
    }
  }

  at(x: number, y: number, sigma: number): number {
    const octave = octaveOf(sigma)
    const data = this.pictureOf(octave)
    const { width } = this
    const [column, row, step] = [x - this.around.left, y - this.around.top, 2 ** octave]
    const number = kernelNumber(sigmaLeft(sigma, octave))
    if (number < 0) return data[row * width + column]!
    const kernel = kernelOf(number)
    const reach = kernel.length >> 1
    let sum = 0
    for (let j = -reach; j <= reach; j++) {
      const from = (row + j * step) * width + column - reach * step
      let across = 0
      for (let i = 0; i < kernel.length; i++) across += kernel[i]! * data[from + i * step]!
      sum += kernel[j + reach]! * across
    }
    return sum
  }

  private pictureOf(octave: number): Float32Array {
    return (this.pictures[octave] ??= this.blurred(this.pictureOf(octave - 1), sigmaFromBefore(octave)))
  }

  private blurred(data: Float32Array, sigma: number): Float32Array {
    const { top, bottom } = this.around
    return blurred({ left: 0, top: 0, width: this.width, height: bottom - top, data }, sigma, matteKernel(sigma)).data
  }

  private get width() {
    return this.around.right - this.around.left
  }
}
