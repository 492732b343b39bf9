import { isExr, type Output } from '../document'

/** What a frame can be asked for as: all mattes of the output in one EXR, or one grey picture of all that they cover. */
export const LIVE_ENDINGS = ['exr', 'png'] as const
export type LiveEnding = (typeof LIVE_ENDINGS)[number]

/** What an output is at a place in the log. */
export interface LiveFacts {
  shot: string
  output: string
  /** The edit of the shot's log up to which it is true. */
  sequence: number
  range: [number, number]
  width: number
  height: number
  pixelAspect: number
  rate: { numerator: number; denominator: number }
  /** What the mattes are called in channels. */
  mattes: string[]
}

/** What an output gives at its live address. */
export interface LiveManifest extends LiveFacts {
  /** By frame: another word whenever the frame's files are others. */
  versions: Record<string, string>
}

/** Who may read a shot's live hand-off; times as ISO 8601. */
export interface LiveToken {
  id: string
  /** Whom it was made for. */
  name: string
  createdAt: string
  expiresAt: string
  usedAt: string | null
}

/**
 * An output as it is given live: one file a frame, since that is one address, and of EXR only the pixels where there is something, which is what takes the time.
 */
export function liveOutput(output: Output, ending: LiveEnding): Output {
  if (ending === 'png') return { ...output, layout: 'one', format: 'png16', window: 'full' }
  if (output.layout === 'object-id') return output
  return { ...output, layout: 'channels', format: isExr(output.format) ? output.format : 'exr-half', window: 'data' }
}

/**
 * Coverage of several mattes together. Where they are held out they share the pixel and add up; where they are not, the largest counts.
 *
 * @param alphas  of one size, Float32 coverage
 */
export function coveredByAny(alphas: readonly Float32Array[], areShares: boolean, length: number): Float32Array {
  const out = new Float32Array(length)
  for (const alpha of alphas) {
    if (areShares) for (let i = 0; i < length; i++) out[i] = Math.min(1, out[i]! + alpha[i]!)
    else for (let i = 0; i < length; i++) out[i] = Math.max(out[i]!, alpha[i]!)
  }
  return out
}
