import { applyToPoint, homographyFromPoints, identity } from '@tender-lasso/core/geometry'
import type { LumaImage } from '@tender-lasso/core/image'
import { goodFeatures, runTogether, runTrack, type TrackRun } from '@tender-lasso/core/tracking'
import { median, type Benchmark } from './benchmark'
import { cornerError } from './cornerError'
import { loadOpenCv, type OpenCv, type OpenCvMat } from './openCv'
import { barOn, cut, planeFrames, PLANE_FRAMES, planeMotion, planeRegion, type Bar } from './photographedPlane'

const STEPS = Array.from({ length: PLANE_FRAMES - 1 }, (_, i) => ({ frame: i + 1, pattern: 0, hidden: [] }))

const USUAL = {
  texture: 'all',
  density: 1,
  look: { channel: 'luma', blur: 0, sharpen: 0, localContrast: false },
  steps: STEPS,
  patternUpdate: { when: 'first', below: 0 },
  mostReturnError: null,
  known: [],
} as const

interface Result {
  errors: number[]
  /** Milliseconds a frame. */
  times: number[]
}

async function ours(frames: readonly LumaImage[], region: readonly number[]): Promise<Result> {
  const errors: number[] = []
  const times: number[] = []
  const run: TrackRun = {
    ...USUAL,
    surface: 'plane',
    model: 'perspective',
    search: [0, 0, 0, 0],
    patterns: [{ frame: 0, outlines: [region], hidden: [], matrix: identity() }],
    minimumMatch: 0.3,
  }
  let start = performance.now()
  await runTrack(
    run,
    (frame, box) => Promise.resolve(cut(frames[frame]!, box)),
    ({ frame, matrix }) => {
      const now = performance.now()
      times.push(now - start)
      start = now
      errors.push(cornerError(matrix, planeMotion(frame), region))
      return true
    },
  )
  return { errors, times }
}

/**
 * Enhanced correlation (findTransformECC), perspective, to the reference, from the last frame's result.
 *
 * @param barOf  tells the bar of a frame, so that a hand-made mask leaves it out; null: no mask
 */
function theirs(
  cv: OpenCv,
  frames: readonly LumaImage[],
  region: readonly number[],
  barOf: ((frame: number) => Bar) | null,
): Result {
  const [left, top, right, , , bottom] = region as [number, number, number, number, number, number]
  const matOf = ({ width, height, data }: LumaImage) => cv.matFromArray(height, width, cv.CV_32FC1, data)
  const reference = matOf(cut(frames[0]!, { left, top, right, bottom }))
  const crop = frames[0]!
  const warp = cv.matFromArray(3, 3, cv.CV_32FC1, [1, 0, left - crop.left, 0, 1, top - crop.top, 0, 0, 1])
  const none = new cv.Mat()
  const result: Result = { errors: [], times: [] }
  for (const { frame } of STEPS) {
    const image = frames[frame]!
    const current = matOf(image)
    const mask = barOf ? maskOf(cv, image, barOf(frame)) : none
    const start = performance.now()
    try {
      cv.findTransformECC(reference, current, warp, cv.MOTION_HOMOGRAPHY, new cv.TermCriteria(3, 50, 1e-5), mask, 5)
    } catch {
      // It says that it has not converged: lost from here on.
      break
    } finally {
      current.delete()
      if (mask !== none) mask.delete()
    }
    result.times.push(performance.now() - start)
    const w = Float64Array.from(warp.data32F)
    // Pixel centres lie on whole numbers there and at halves here.
    const to = [0, 2, 4, 6].flatMap((k) => {
      const p = applyToPoint(w, region[k]! - left - 0.5, region[k + 1]! - top - 0.5)
      return [p[0]! + crop.left + 0.5, p[1]! + crop.top + 0.5]
    })
    result.errors.push(cornerError(homographyFromPoints(region, to), planeMotion(frame), region))
  }
  return result
}

function maskOf(cv: OpenCv, { left, width, height }: LumaImage, bar: Bar): OpenCvMat {
  const seen = new Uint8Array(width * height).fill(255)
  for (let y = 0; y < height; y++) {
    const [from, to] = [bar.left - left - 3, bar.right - left + 3].map((x) =>
      Math.min(width, Math.max(0, Math.round(x))),
    )
    seen.fill(0, y * width + from!, y * width + to!)
  }
  return cv.matFromArray(height, width, cv.CV_8UC1, seen)
}

/** Median and worst corner error, and how many frames were reached before it was lost (an error over 5 px). */
function words(result: Result): string {
  const lostAt = result.errors.findIndex((error) => error > 5)
  const kept = lostAt < 0 ? result.errors : result.errors.slice(0, lostAt)
  const lost = kept.length < STEPS.length ? `, lost after ${kept.length} of ${STEPS.length} frames` : ''
  return `${median(kept).toFixed(3)} px, worst ${Math.max(...kept).toFixed(3)}, ${median(result.times).toFixed(0)} ms${lost}`
}

const summary = (result: Result) => (result.errors.length < STEPS.length ? Infinity : median(result.errors))

export const planarAccuracy: Benchmark = {
  name: 'planar-accuracy',
  goal: 0.02,
  better: 'less',
  async run() {
    const frames = await planeFrames(null)
    const region = planeRegion(500, 350)
    const mine = await ours(frames, region)
    const { cv } = await loadOpenCv()
    return {
      value: summary(mine),
      unit: 'px median corner error',
      notes: `ours ${words(mine)}; findTransformECC WASM ${words(theirs(cv, frames, region, null))}`,
    }
  },
}

export const planarOccluded: Benchmark = {
  name: 'planar-occluded',
  goal: 0.05,
  better: 'less',
  async run() {
    const { cv } = await loadOpenCv()
    const rows: string[] = []
    let value = 0
    for (const [width, height] of [[500, 350], [120, 90]] as const) {
      const frames = await planeFrames(width)
      const region = planeRegion(width, height)
      const mine = await ours(frames, region)
      if (width === 500) value = summary(mine)
      rows.push(
        `${width} x ${height}: ours ${words(mine)}; ECC ${words(theirs(cv, frames, region, null))}; ` +
          `ECC with the bar masked by hand ${words(theirs(cv, frames, region, (frame) => barOn(frame, width)))}`,
      )
    } // prettier-ignore
    return { value, unit: 'px median corner error', notes: rows.join('\n  ') }
  },
}

const POINTS = 100
const HALF = 9

export const points: Benchmark = {
  name: 'points',
  goal: 0.1,
  better: 'less',
  async run() {
    const frames = await planeFrames(500)
    const region = planeRegion(500, 350)
    const features = goodFeatures(frames[0]!, [region], [], 22, POINTS)
    const runs = features.map(({ x, y }): TrackRun => ({
      ...USUAL,
      surface: 'point',
      model: 'similarity',
      search: [-20, -20, 20, 20],
      patterns: [
        { frame: 0, outlines: [[x - HALF, y - HALF, x + HALF, y - HALF, x + HALF, y + HALF, x - HALF, y + HALF]], hidden: [], matrix: identity() }, // prettier-ignore
      ],
      minimumMatch: 0.8,
      mostReturnError: 0.7,
    }))
    const counts = { good: 0, wrong: 0, due: 0 }
    const errors: number[] = []
    const start = performance.now()
    await runTogether(
      runs,
      (frame, box) => Promise.resolve(cut(frames[frame]!, box)),
      (i, { frame, matrix }) => {
        const { x, y } = features[i]!
        const [p, q] = [applyToPoint(matrix, x, y), applyToPoint(planeMotion(frame), x, y)]
        const error = Math.hypot(p[0]! - q[0]!, p[1]! - q[1]!)
        const bar = barOn(frame, 500)
        const isHidden = q[0]! > bar.left && q[0]! < bar.right
        if (isHidden || error > 1) counts.wrong++
        else {
          counts.good++
          errors.push(error)
        }
        return true
      },
    )
    const seconds = (performance.now() - start) / 1000
    const tracked = counts.good + counts.wrong
    // Until the bar meets them for the first time all are there to be followed.
    for (const { x, y } of features) {
      for (const { frame } of STEPS) {
        const [u] = applyToPoint(planeMotion(frame), x, y)
        if (barOn(frame, 500).right > u! - HALF - 4) break
        counts.due++
      }
    }
    return {
      value: median(errors),
      unit: 'px median error',
      notes:
        `${features.length} points: ${tracked} frames of points in ${seconds.toFixed(1)} s on one thread ` +
        `(${(tracked / seconds / POINTS).toFixed(1)} frames of 100 points a second); ` +
        `told although hidden or over 1 px off: ${counts.wrong}; good before the bar: ${counts.good} of ${counts.due} due`,
    }
  },
}
