import { solveSymmetric } from '../geometry'

const CHANNELS = 3
/** Keeps a picture without any noise from having one of no spread. */
const LEAST_VARIANCE = 1e-8
/** Sides that differ by no more are of one colour: green stands for it. */
const LEAST_DIFFERENCE = 1e-9

/**
 * The one mixture of the colour channels in which the two sides of an edge differ most against how much either differs in itself (Fisher's linear discriminant,
 * 1936): a red board before red bricks of all lightnesses is told by what red they are.
 *
 * @param distances  of the pixels outside of the outline
 * @param channels   red, green and blue of each pixel, linear light
 * @param far        pixels from the outline beyond which a pixel is of one side alone
 * @returns          a value for each pixel, so scaled that the weights' lengths add up to 1
 */
export function colourContrast(distances: Float64Array, channels: readonly Float64Array[], far: number): Float64Array {
  const means = [new Float64Array(CHANNELS), new Float64Array(CHANNELS)] as const
  const counts = [0, 0]
  const sideOf = (n: number) => (distances[n]! > far ? 1 : distances[n]! < -far ? 0 : -1)
  for (let n = 0; n < distances.length; n++) {
    const side = sideOf(n)
    if (side < 0) continue
    counts[side]!++
    for (let c = 0; c < CHANNELS; c++) means[side as 0 | 1][c]! += channels[c]![n]!
  }
  for (const side of [0, 1] as const) for (let c = 0; c < CHANNELS; c++) means[side][c]! /= Math.max(1, counts[side]!)
  const within = new Float64Array(CHANNELS * CHANNELS)
  for (let n = 0; n < distances.length; n++) {
    const side = sideOf(n)
    if (side < 0) continue
    for (let a = 0; a < CHANNELS; a++)
      for (let b = 0; b < CHANNELS; b++)
        within[CHANNELS * a + b]! += (channels[a]![n]! - means[side as 0 | 1][a]!) * (channels[b]![n]! - means[side as 0 | 1][b]!) // prettier-ignore
  }
  const total = Math.max(1, counts[0]! + counts[1]!)
  for (let i = 0; i < within.length; i++)
    within[i] = within[i]! / total + (i % (CHANNELS + 1) === 0 ? LEAST_VARIANCE : 0)
  const weights = Float64Array.from({ length: CHANNELS }, (_, c) => means[0][c]! - means[1][c]!)
  const isAlike = weights.every((difference) => Math.abs(difference) < LEAST_DIFFERENCE)
  if (isAlike || !solveSymmetric(within, weights, CHANNELS)) return channels[1]!.slice()
  const length = weights.reduce((sum, w) => sum + Math.abs(w), 0)
  const mixed = (n: number) => channels.reduce((sum, channel, c) => sum + (weights[c]! * channel[n]!) / length, 0)
  return Float64Array.from(distances, (_, n) => mixed(n))
}
