import {
  applyToPoint,
  CHANNEL,
  CHANNEL_COUNT,
  channelsOf,
  homographyOf,
  invert,
  multiply,
  MATRIX_LENGTH,
  matrixAt,
} from '../geometry'
import { motionAt, type MotionSamples } from './motionSamples'
import { unwrapped } from './unwrapped'

/** Share of each channel of a motion that is taken over: 1 wholly, 0 not at all. */
export interface MotionStrength {
  readonly x: number
  readonly y: number
  readonly rotation: number
  readonly scale: number
  readonly skew: number
  readonly perspective: number
}

export const FULL_STRENGTH: MotionStrength = { x: 1, y: 1, rotation: 1, scale: 1, skew: 1, perspective: 1 }

export const isFullStrength = (strength: MotionStrength) => Object.values(strength).every((share) => share === 1)

/**
 * The motion since a reference frame, H(t) . H(reference)^-1, with its channels about the centre there taken at their
 * shares. On the reference frame it is the identity whatever the shares are.
 */
export function strengthenedMotion(samples: MotionSamples, reference: number, strength: MotionStrength): MotionSamples {
  const { firstFrame, present, pixelAspect } = samples
  const atReference = motionAt(samples, reference).matrix
  if (!atReference) return samples
  const [x, y] = applyToPoint(atReference, samples.pivot[0], samples.pivot[1])
  const pivot = [x!, y!] as const
  const back = invert(atReference)
  const shares = new Float64Array(CHANNEL_COUNT)
  shares[CHANNEL.x] = strength.x
  shares[CHANNEL.y] = strength.y
  shares[CHANNEL.rotation] = strength.rotation
  shares[CHANNEL.logScaleX] = shares[CHANNEL.logScaleY] = strength.scale
  shares[CHANNEL.skew] = strength.skew
  shares[CHANNEL.perspectiveX] = shares[CHANNEL.perspectiveY] = strength.perspective
  const still = Float64Array.of(pivot[0], pivot[1], 0, 0, 0, 0, 0, 0)
  const matrices = samples.matrices.slice()
  // From the reference frame outwards, so that a rotation of more than half a turn is known as such.
  const start = Math.min(present.length, Math.max(0, reference - firstFrame))
  for (const way of [1, -1] as const) {
    let neighbour: ArrayLike<number> = still
    for (let i = way > 0 ? start : start - 1; i >= 0 && i < present.length; i += way) {
      if (!present[i]) continue
      const since = multiply(matrixAt(samples.matrices, i), back)
      const channels = unwrapped(channelsOf(since, pivot[0], pivot[1], pixelAspect), neighbour)
      neighbour = channels
      const taken = channels.map((value, k) => still[k]! + shares[k]! * (value - still[k]!))
      matrices.set(homographyOf(taken, pivot[0], pivot[1], pixelAspect), i * MATRIX_LENGTH)
    }
  }
  return { firstFrame, present, matrices, pivot, pixelAspect }
}
