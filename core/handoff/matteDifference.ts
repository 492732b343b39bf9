/** Coverage that two mattes may differ by and still be called alike: a step of eight bits. */
const ALIKE = 1 / 255
const MOST = 65535

/** As the viewer's colours for the two sides of a comparison: what was added since, and what was taken away. */
const ADDED = [230, 159, 0] as const
const TAKEN = [86, 180, 233] as const
/** How bright the matte itself is where nothing differs: dark enough for both colours to stand out. */
const GROUND = 0.45

export interface MatteDifference {
  /** sRGB, three bytes a pixel. */
  pixels: Uint8Array<ArrayBuffer>
  /** How many pixels differ by more than a step of eight bits. */
  differing: number
  /** Largest difference of coverage, 0 to 1. */
  largest: number
}

/**
 * One matte against another, as a picture: the first in grey; where the second has more in orange, where it has less in blue, the stronger the more.
 *
 * @param first, second  coverage as 16-bit numbers, of as many pixels
 */
export function matteDifference(first: Uint16Array, second: Uint16Array): MatteDifference {
  const pixels = new Uint8Array(3 * first.length)
  let [differing, largest] = [0, 0]
  for (let i = 0; i < first.length; i++) {
    const more = (second[i]! - first[i]!) / MOST
    const size = Math.abs(more)
    if (size > largest) largest = size
    if (size > ALIKE) differing++
    // What differs a little is seen, too: the root makes a tenth a third.
    const share = size > ALIKE ? Math.sqrt(size) : 0
    const grey = (255 * GROUND * first[i]!) / MOST
    const colour = more > 0 ? ADDED : TAKEN
    for (let c = 0; c < 3; c++) pixels[3 * i + c] = grey + (colour[c]! - grey) * share + 0.5
  }
  return { pixels, differing, largest }
}

/** A matte as grey, sRGB of eight bits a colour: coverage as it is, without a curve. */
export function matteGrey(matte: Uint16Array): Uint8Array<ArrayBuffer> {
  const pixels = new Uint8Array(3 * matte.length)
  for (let i = 0; i < matte.length; i++) pixels.fill((255 * matte[i]!) / MOST + 0.5, 3 * i, 3 * i + 3)
  return pixels
}
