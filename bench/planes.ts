import { applyToPoint, identity } from '@tender-lasso/core/geometry'
import type { LumaImage } from '@tender-lasso/core/image'
import { goodFeatures, runTogether, type TrackRun } from '@tender-lasso/core/tracking'
import { median, type Benchmark } from './benchmark'
import { byEcc, followedError, followedInWords, ours, stepsOf, USUAL_RUN } from './followed'
import { loadOpenCv, type OpenCv, type OpenCvMat } from './openCv'
import { pointsTogether } from './pointsTogether'
import { barOn, cut, planeFrames, PLANE_FRAMES, planeMotion, planeRegion, type Bar } from './photographedPlane'

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

export const planarAccuracy: Benchmark = {
  name: 'planar-accuracy',
  goal: 0.02,
  better: 'less',
  async run() {
    const frames = await planeFrames(null)
    const region = planeRegion(500, 350)
    const sequence = { frames, region, motionOn: planeMotion }
    const mine = await ours(sequence)
    const { cv } = await loadOpenCv()
    return {
      value: followedError(mine),
      unit: 'px median corner error',
      notes: `ours ${followedInWords(mine)}; findTransformECC WASM ${followedInWords(byEcc(cv, sequence))}`,
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
      const sequence = { frames, region: planeRegion(width, height), motionOn: planeMotion }
      const mine = await ours(sequence)
      if (width === 500) value = followedError(mine)
      const masked = byEcc(cv, sequence, (frame, image) => maskOf(cv, image, barOn(frame, width)))
      rows.push(
        `${width} x ${height}: ours ${followedInWords(mine)}; ECC ${followedInWords(byEcc(cv, sequence))}; ` +
          `ECC with the bar masked by hand ${followedInWords(masked)}`,
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
      ...USUAL_RUN,
      steps: stepsOf(PLANE_FRAMES),
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
    const ends = await runTogether(
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
    // An error would look like a point that is told as lost.
    const failed = ends.find((end) => end instanceof Error)
    if (failed) throw failed
    const rate = await pointsTogether(await planeFrames(null), runs)
    const tracked = counts.good + counts.wrong
    // Until the bar meets them for the first time all are there to be followed.
    for (const { x, y } of features) {
      for (let frame = 1; frame < PLANE_FRAMES; frame++) {
        const [u] = applyToPoint(planeMotion(frame), x, y)
        if (barOn(frame, 500).right > u! - HALF - 4) break
        counts.due++
      }
    }
    return {
      value: median(errors),
      unit: 'px median error',
      notes:
        `${features.length} points: ${tracked} frames of points; without the bar ${rate.toFixed(1)} frames of all points ` +
        `a second over two threads (goal 30${rate < 30 ? ', missed' : ''}); told although hidden or over 1 px off: ${counts.wrong}; good before the bar: ${counts.good} of ${counts.due} due`,
    }
  },
}
