import type { LumaImage } from '../image'
import { numbersFrom } from '../testing'
import { edgeSpread } from './edgeSpread'
import type { EdgePlace } from './softness'

export const SIZE = 64

/** A half plane whose edge goes through the middle of a picture. */
export interface Edge {
  sigma: number
  box?: number
  degrees: number
  /** How far the step lies outside of where the outline says. */
  off?: number
  levels?: readonly [inside: number, outside: number]
  grain?: number
}

/** Pixels, each the mean over its square, of a half plane whose edge goes through the middle. */
export function pictured(
  { sigma, box = 0, degrees, off = 0, levels = [0.7, 0.3], grain = 0 }: Edge,
  seed = 1,
): LumaImage {
  const random = numbersFrom(seed)
  const [nx, ny] = [Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180)]
  const data = new Float32Array(SIZE * SIZE)
  const soft = Math.max(1e-3, sigma)
  // Eight sigmas beyond where it sweeps there is nothing left of the edge.
  const reach = 8 * soft + box / 2
  for (let y = 0; y < SIZE; y++) {
    for (let x = 0; x < SIZE; x++) {
      let share = 0
      for (let i = 0; i < 16; i++) {
        const px = x + ((i % 4) + 0.5) / 4 - 32.2
        const py = y + (Math.floor(i / 4) + 0.5) / 4 - 31.6
        const away = px * nx + py * ny - off
        share += (Math.abs(away) > reach ? Number(away > 0) : edgeSpread(away, soft, box)[0]) / 16
      }
      // The sum of twelve even numbers is as good as normal.
      let noise = -6
      for (let i = 0; i < 12; i++) noise += random()
      data[y * SIZE + x] = levels[0] + (levels[1] - levels[0]) * share + grain * noise
    }
  }
  return { left: 0, top: 0, width: SIZE, height: SIZE, data }
}

export const placeOf = ({ degrees, box = 0 }: Edge): EdgePlace => ({
  x: 32.2,
  y: 31.6,
  normalX: Math.cos((degrees * Math.PI) / 180),
  normalY: Math.sin((degrees * Math.PI) / 180),
  sweep: box,
  turn: 0,
  at: 0,
})
