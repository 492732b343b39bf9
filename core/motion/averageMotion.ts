import { CHANNEL_COUNT, channelsOf, homographyOf } from '../geometry'
import { unwrapped } from './unwrapped'
import type { MotionSamples } from './motionSamples'
import { motionOver, relativeMotion, spanOf } from './relativeMotion'

/**
 * The mean of several motions, all taken relative to one frame and about one pivot, channel by channel: a frame has a
 * value where at least one motion knows it, so a motion that comes or goes does not jump only if they agree.
 *
 * @param reference  a frame that all of them know
 * @param pivot      plate pixels of the reference frame
 */
export function averageMotion(
  motions: readonly MotionSamples[],
  reference: number,
  pivot: readonly [number, number],
): MotionSamples {
  const { pixelAspect } = motions[0]!
  return motionOver(spanOf(motions), { pivot, pixelAspect }, (frame) => {
    const known = motions.flatMap((motion) => {
      const relative = relativeMotion(motion, reference, frame)
      return relative ? [channelsOf(relative, pivot[0], pivot[1], pixelAspect)] : []
    })
    if (known.length === 0) return null
    const mean = new Float64Array(CHANNEL_COUNT)
    for (const channels of known) {
      unwrapped(channels, known[0]!)
      for (let c = 0; c < CHANNEL_COUNT; c++) mean[c]! += channels[c]! / known.length
    }
    return homographyOf(mean, pivot[0], pivot[1], pixelAspect)
  })
}
