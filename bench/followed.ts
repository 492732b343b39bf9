import { identity, type Matrix3 } from '@tender-lasso/core/geometry'
import type { LumaImage } from '@tender-lasso/core/image'
import { runTrack, type TrackRun } from '@tender-lasso/core/tracking'
import { median } from './benchmark'
import { cornerError } from './cornerError'
import { EccTracker, matOfLuma } from './ecc'
import type { OpenCv, OpenCvMat } from './openCv'
import { cut } from './photographedPlane'

/** A sequence whose motion is known, and a region of its frame 0. */
export interface KnownSequence {
  frames: readonly LumaImage[]
  region: readonly number[]
  motionOn(frame: number): Matrix3
}

export const USUAL_RUN = {
  texture: 'all',
  density: 1,
  preprocessing: { channel: 'luma', blur: 0, sharpen: 0, localContrast: false },
  patternUpdate: { when: 'first', below: 0 },
  mostReturnError: null,
  known: [],
} as const

/** One step a frame after the first. */
export const stepsOf = (frameCount: number) =>
  Array.from({ length: frameCount - 1 }, (_, i) => ({ frame: i + 1, pattern: 0, hidden: [] }))

export interface Followed {
  errors: number[]
  /** Milliseconds a frame. */
  times: number[]
  /** Frames there were to follow. */
  due: number
}

/** The region followed through the sequence by our tracker. */
export async function ours({ frames, region, motionOn }: KnownSequence, more: Partial<TrackRun> = {}) {
  const followed: Followed = { errors: [], times: [], due: frames.length - 1 }
  const run: TrackRun = {
    ...USUAL_RUN,
    surface: 'plane',
    model: 'perspective',
    search: [0, 0, 0, 0],
    patterns: [{ frame: 0, outlines: [region], hidden: [], matrix: identity() }],
    steps: stepsOf(frames.length),
    minimumMatch: 0.3,
    ...more,
  }
  let start = performance.now()
  await runTrack(
    run,
    (frame, box) => Promise.resolve(cut(frames[frame]!, box)),
    ({ frame, matrix }) => {
      const now = performance.now()
      followed.times.push(now - start)
      start = now
      followed.errors.push(cornerError(matrix, motionOn(frame), region))
      return true
    },
  )
  return followed
}

/**
 * The same by enhanced correlation.
 *
 * @param maskOf  a hand-made mask of a frame; null: none
 */
export function byEcc(
  cv: OpenCv,
  { frames, region, motionOn }: KnownSequence,
  maskOf: ((frame: number, image: LumaImage) => OpenCvMat) | null = null,
): Followed {
  const followed: Followed = { errors: [], times: [], due: frames.length - 1 }
  const ecc = new EccTracker(cv, frames[0]!, region, frames[0]!, { model: 'perspective', iterations: 50 })
  for (let frame = 1; frame < frames.length; frame++) {
    const current = matOfLuma(cv, frames[frame]!)
    const mask = maskOf?.(frame, frames[frame]!) ?? null
    const start = performance.now()
    const found = ecc.align(current, mask)
    followed.times.push(performance.now() - start)
    current.delete()
    mask?.delete()
    // It says that it has not converged: lost from here on.
    if (!found) break
    followed.errors.push(cornerError(found, motionOn(frame), region))
  }
  ecc.delete()
  return followed
}

/** Median and worst corner error, and how many frames were reached before it was lost (an error over 5 px). */
export function followedInWords({ errors, times, due }: Followed): string {
  const lostAt = errors.findIndex((error) => error > 5)
  const kept = lostAt < 0 ? errors : errors.slice(0, lostAt)
  const lost = kept.length < due ? `, lost after ${kept.length} of ${due} frames` : ''
  if (kept.length === 0) return `lost at once`
  return `${median(kept).toFixed(3)} px, worst ${Math.max(...kept).toFixed(3)}, ${median(times).toFixed(0)} ms${lost}`
}

/** The median corner error; infinite for what was lost on the way. */
export const followedError = ({ errors, due }: Followed) => (errors.length < due ? Infinity : median(errors))
