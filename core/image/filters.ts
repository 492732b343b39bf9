import type { LumaImage } from './luma'

/** Weights of a Gaussian over whole pixels up to three sigma, sum 1. */
export function gaussianKernel(sigma: number): Float32Array {
  const reach = Math.max(1, Math.ceil(3 * sigma))
  const kernel = Float32Array.from({ length: 2 * reach + 1 }, (_, i) => Math.exp(-0.5 * ((i - reach) / sigma) ** 2))
  const sum = kernel.reduce((total, weight) => total + weight, 0)
  return kernel.map((weight) => weight / sum)
}

/** The picture blurred by a Gaussian; its edge pixels go on beyond the edge. */
export function blurred(image: LumaImage, sigma: number, kernel = gaussianKernel(sigma)): LumaImage {
  if (sigma <= 0) return image
  const { width, height } = image
  const across = convolved(image.data, kernel, width, height, 1, width)
  return { ...image, data: convolved(across, kernel, height, width, width, 1) }
}

/** Convolution along lines of `length` pixels `step` apart; `lines` of them, `next` apart. */
function convolved(
  data: Float32Array,
  kernel: Float32Array,
  length: number,
  lines: number,
  step: number,
  next: number,
): Float32Array {
  const out = new Float32Array(data.length)
  const reach = kernel.length >> 1
  for (let line = 0; line < lines; line++) {
    const start = line * next
    for (let i = 0; i < length; i++) {
      let sum = 0
      for (let k = -reach; k <= reach; k++) {
        const at = Math.min(length - 1, Math.max(0, i + k))
        sum += kernel[k + reach]! * data[start + at * step]!
      }
      out[start + i * step] = sum
    }
  }
  return out
}

/** Detail finer than about two pixels made stronger: the picture plus `amount` times its difference to its blur. */
export function sharpened(image: LumaImage, amount: number): LumaImage {
  if (amount <= 0) return image
  const soft = blurred(image, 1.2)
  return { ...image, data: image.data.map((value, i) => value + amount * (value - soft.data[i]!)) }
}

/** Sigma of the neighbourhood that local contrast is taken over, pixels. */
const NEIGHBOURHOOD = 12
/** Spread, of 1, below which a neighbourhood counts as flat: its grain is not blown up. */
const FLAT = 0.02

/** Every neighbourhood brought to the same mean and spread, so that light and shadow hold texture alike. */
export function localContrast(image: LumaImage): LumaImage {
  const mean = blurred(image, NEIGHBOURHOOD)
  const square = blurred({ ...image, data: image.data.map((value, i) => (value - mean.data[i]!) ** 2) }, NEIGHBOURHOOD)
  return {
    ...image,
    data: image.data.map(
      (value, i) => 0.5 + (0.2 * (value - mean.data[i]!)) / Math.max(FLAT, Math.sqrt(square.data[i]!)),
    ),
  }
}
