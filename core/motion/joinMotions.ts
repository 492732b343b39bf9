import { CHANNEL_COUNT, channelsOf, homographyOf, invert, multiply, type Matrix3 } from '../geometry'
import { unwrapped } from './unwrapped'
import type { MotionSamples, MotionSplit } from './motionSamples'
import { motionOver, sampledMatrix, spanOf } from './relativeMotion'

/**
 * One motion out of two that know different frames: the second continues the first with its offset removed, so that
 * nothing jumps. Where both know a frame, the first passes over into the second; the offset is that of the middle of
 * this stretch.
 *
 * @returns null when they share no frame
 */
export function joinMotions(first: MotionSamples, second: MotionSamples): MotionSamples | null {
  const span = spanOf([first, second])
  const shared: number[] = []
  for (let frame = span[0]; frame <= span[1]; frame++) {
    if (sampledMatrix(first, frame) && sampledMatrix(second, frame)) shared.push(frame)
  }
  if (shared.length === 0) return null
  const joint = shared[shared.length >> 1]!
  const shift = multiply(invert(sampledMatrix(second, joint)!), sampledMatrix(first, joint)!)
  const [from, to] = [shared[0]!, shared.at(-1)!]
  const secondComesLater = spanOf([second])[1] > spanOf([first])[1]
  return motionOver(span, first, (frame) => {
    const a = sampledMatrix(first, frame)
    const own = sampledMatrix(second, frame)
    const b = own && multiply(own, shift)
    if (!a || !b) return a ?? b
    const along = to === from ? 0.5 : (frame - from) / (to - from)
    return blendedMatrix(a, b, secondComesLater ? along : 1 - along, first)
  })
}

/** Two motions mixed in their channels about a pivot; share 0 is the first. */
function blendedMatrix(a: Matrix3, b: Matrix3, share: number, { pivot, pixelAspect }: MotionSplit): Matrix3 {
  const p = channelsOf(a, pivot[0], pivot[1], pixelAspect)
  const q = unwrapped(channelsOf(b, pivot[0], pivot[1], pixelAspect), p)
  for (let c = 0; c < CHANNEL_COUNT; c++) p[c]! += share * (q[c]! - p[c]!)
  return homographyOf(p, pivot[0], pivot[1], pixelAspect)
}
