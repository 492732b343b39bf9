import { linearFromSrgb, srgbFromLinear } from '../colour'
import type { OutputLayout } from '../document'
import type { Rgb } from '../evaluation'
import { coveredByAny } from './live'

/** How much of a Part's colour lies over the plate. */
const OVERLAY = 0.5
/** What a cut-out lies on, as the viewer has it: 16 % of the signal. */
const GROUND = linearFromSrgb(0.16)

const LINEAR = Float32Array.from({ length: 256 }, (_, value) => linearFromSrgb(value / 255))
/** Steps of linear light: at the dark end, where the curve is steepest, one is a twentieth of an 8-bit step. */
const STEPS = 65535
const ENCODED = Uint8Array.from({ length: STEPS + 1 }, (_, step) => Math.round(255 * srgbFromLinear(step / STEPS)))

/** What a picture to look at is made of. */
export interface Shown {
  /** sRGB, red green blue a pixel; of white mattes it is not looked at. */
  plate: Uint8Array | null
  /** Nearest first, of as many pixels. */
  alphas: readonly Float32Array[]
  colours: readonly Rgb[]
  /** The mattes are held out, so that they add up. */
  areShares: boolean
}

/**
 * A picture to look at, sRGB of eight bits: all mattes in white, in their colours over the plate, or the plate where they are. What is mixed is light (Porter & Duff 1984, over).
 */
export function showPicture(
  layout: OutputLayout,
  { plate, alphas, colours, areShares }: Shown,
  pixels: number,
): Uint8Array {
  // prettier-ignore
  const out = new Uint8Array(3 * pixels)
  if (layout === 'overlay') {
    const lights = colours.map((colour) => colour.map((value) => LINEAR[value]!))
    for (let i = 0; i < pixels; i++) {
      for (let c = 0; c < 3; c++) {
        let light = LINEAR[plate![3 * i + c]!]!
        for (let m = alphas.length - 1; m >= 0; m--) light += (lights[m]![c]! - light) * OVERLAY * alphas[m]![i]!
        out[3 * i + c] = ENCODED[Math.round(light * STEPS)]!
      }
    }
    return out
  }
  const covered = coveredByAny(alphas, areShares, pixels)
  for (let i = 0; i < pixels; i++) {
    const alpha = covered[i]!
    for (let c = 0; c < 3; c++) {
      out[3 * i + c] =
        layout === 'white'
          ? Math.round(255 * alpha)
          : ENCODED[Math.round((LINEAR[plate![3 * i + c]!]! * alpha + GROUND * (1 - alpha)) * STEPS)]!
    }
  }
  return out
}
