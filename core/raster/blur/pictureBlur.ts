import type { Box } from '../../geometry'

/** Blurs of one picture. */
export interface PictureBlur {
  /** The picture that is blurred from now on: its pixels within a box, row-major. Not changed. */
  load(alpha: Float32Array, around: Box): void
  /**
   * All of it blurred by a Gaussian.
   *
   * @param sigma  pixels
   * @param box    reaches less far than the picture by the kernel's reach at least
   * @param out    gets the pixels of `box`, row-major
   */
  evenly(sigma: number, box: Box, out: Float32Array): void
  /** One pixel blurred by a Gaussian of its own; the picture reaches {@link variedReach} farther. */
  at(x: number, y: number, sigma: number): number
}
