import type { Box } from '../../geometry'
import { changesIn } from './changesIn'
import type { FocusField } from './focusField'
import { variedReach } from './octaves'
import type { PictureBlur } from './pictureBlur'

/** Pixels of a row that are looked at together. */
const STRETCH = 16

/**
 * A picture blurred at each pixel by a Gaussian of that pixel's own sigma. Where it is flat it stays as it is.
 *
 * @param alpha  over `around`, which reaches {@link variedReach} farther than `box` to all sides
 * @param out    gets the pixels of `box`, row-major
 */
export function variedBlurInto(
  blur: PictureBlur,
  alpha: Float32Array,
  around: Box,
  field: FocusField,
  box: Box,
  out: Float32Array,
) {
  const width = around.right - around.left
  const changes = changesIn(alpha, width, around.bottom - around.top)
  const reach = variedReach(field.most)
  const stretch: Box = { left: 0, top: 0, right: 0, bottom: 0 }
  const sigmas = new Float32Array(STRETCH)
  blur.load(alpha, around)
  let at = 0
  for (let y = box.top; y < box.bottom; y++) {
    const row = y - around.top
    stretch.top = y
    stretch.bottom = y + 1
    for (let x = box.left; x < box.right; x += STRETCH) {
      stretch.left = x
      stretch.right = Math.min(box.right, x + STRETCH)
      const [first, end] = [x - around.left, stretch.right - around.left]
      let isFlat = !changes(first - reach, row - reach, end + reach, row + reach + 1)
      if (!isFlat) {
        field.over(stretch, sigmas)
        const own = variedReach(largest(sigmas, end - first))
        isFlat = own < reach && !changes(first - own, row - own, end + own, row + own + 1)
      }
      for (let n = first; n < end; n++)
        out[at++] = isFlat ? alpha[row * width + n]! : blur.at(n + around.left, y, sigmas[n - first]!)
    }
  }
}

function largest(values: Float32Array, count: number): number {
  let most = 0
  for (let i = 0; i < count; i++) if (values[i]! > most) most = values[i]!
  return most
}
