import type { Box } from '../geometry'
import type { FittedMatte } from './fittedMatte'

/** Red, green and blue, 0..255. */
export type MatteColour = readonly [number, number, number]

/**
 * Mattes as one picture: Porter & Duff's plus of the Parts' colours, each times its alpha. Those that are cut out of one another
 * add up to at most one.
 *
 * @param pixels  the picture over `box`, RGBA in bytes, colours by themselves (not multiplied by alpha); cleared first
 * @param mattes  all within `box`
 */
export function colourMattes(
  pixels: Uint32Array,
  box: Box,
  mattes: readonly FittedMatte[],
  colours: readonly MatteColour[],
) {
  pixels.fill(0)
  mattes.forEach((matte, i) => addColoured(pixels, box, matte, colours[i]!))
}

function addColoured(pixels: Uint32Array, box: Box, { box: own, alpha }: FittedMatte, colour: MatteColour) {
  const rgb = packed(colour[0], colour[1], colour[2])
  const whole = (rgb | (255 << 24)) >>> 0
  const width = own.right - own.left
  for (let y = own.top; y < own.bottom; y++) {
    const from = (y - own.top) * width
    const to = (y - box.top) * (box.right - box.left) + own.left - box.left
    for (let x = 0; x < width; x++) {
      const a = alpha[from + x]!
      if (a === 0) continue
      const below = pixels[to + x]!
      // Most of a matte: what is covered wholly leaves no room for another colour, and most edges are of one Part.
      if (a === 1) pixels[to + x] = whole
      else if (below === 0) pixels[to + x] = rgb | ((255 * a + 0.5) << 24)
      else pixels[to + x] = sum(below, colour, 255 * a)
    }
  }
}

/** A pixel and `alpha` of a colour, 0..255: their colours weigh as much as each covers. */
function sum(below: number, colour: MatteColour, alpha: number): number {
  const known = below >>> 24
  const both = known + alpha
  const mixed = (shift: number, own: number) => (((below >>> shift) & 255) * known + own * alpha) / both + 0.5
  return packed(mixed(0, colour[0]), mixed(8, colour[1]), mixed(16, colour[2])) | (Math.min(255, both + 0.5) << 24)
}

/** Bytes lie in memory from the lowest on, as on every machine that runs a browser. */
const packed = (r: number, g: number, b: number) => r | (g << 8) | (b << 16)
