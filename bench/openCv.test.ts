import { beforeAll, describe, expect, it } from 'vitest'
import {
  applyToPoint,
  homographyFromPoints,
  identity,
  robustHomographyFromPoints,
  squareRound,
  type Matrix3,
} from '@tender-lasso/core/geometry'
import type { LumaImage } from '@tender-lasso/core/image'
import { goodFeatures, PatternTracker } from '@tender-lasso/core/tracking'
import { median } from './benchmark'
import { loadOpenCv, type OpenCv, type OpenCvMat } from './openCv'
import { normalDeviates, photograph, planeMotion, planeRegion, surfaceUnder, type Surface } from './photographedPlane'

/** What these tests use of OpenCV beside what the benchmarks do. */
interface Reference extends OpenCv {
  CV_32FC2: number
  CV_64F: number
  RANSAC: number
  TM_CCOEFF_NORMED: number
  Size: new (width: number, height: number) => unknown
  findHomography(
    from: OpenCvMat,
    to: OpenCvMat,
    method: number,
    threshold?: number,
  ): OpenCvMat & { data64F: Float64Array }
  matchTemplate(image: OpenCvMat, template: OpenCvMat, result: OpenCvMat, method: number): void
  minMaxLoc(result: OpenCvMat): { maxLoc: { x: number; y: number } }
  calcOpticalFlowPyrLK(
    a: OpenCvMat, b: OpenCvMat, from: OpenCvMat, to: OpenCvMat, status: OpenCvMat, error: OpenCvMat, window: unknown, levels: number,
  ): void // prettier-ignore
}

let cv: Reference
let surface: Surface
beforeAll(async () => {
  cv = (await loadOpenCv()).cv as Reference
  surface = await photograph('building')
})

const BOX = { left: 700, top: 400, width: 420, height: 320 }

/** A stretch of the photographed plane under a motion, with grain of sigma 2 of 255. */
function pictureUnder(motion: Matrix3, seed: number): LumaImage {
  const normal = normalDeviates(seed)
  return surfaceUnder(surface, motion, BOX, () => (2 * normal()) / 255)
}

const floats = ({ width, height, data }: LumaImage) => cv.matFromArray(height, width, cv.CV_32FC1, data)
const bytes = ({ width, height, data }: LumaImage) =>
  cv.matFromArray(
    height,
    width,
    cv.CV_8UC1,
    Uint8Array.from(data, (v) => Math.round(255 * Math.min(1, Math.max(0, v)))),
  )

describe('beside OpenCV', () => {
  const truth = planeMotion(20)
  const from = Array.from({ length: 24 }, (_, i) => [760 + 60 * (i % 6), 430 + 70 * Math.floor(i / 6)]).flat()

  function moved(noise: number, seed: number): number[] {
    const normal = normalDeviates(seed)
    const to: number[] = []
    for (let i = 0; i < from.length; i += 2) {
      const p = applyToPoint(truth, from[i]!, from[i + 1]!)
      to.push(p[0]! + noise * normal(), p[1]! + noise * normal())
    }
    return to
  }

  function farthest(a: Matrix3, b: Matrix3): number {
    const corners = [760, 430, 1060, 430, 1060, 640, 760, 640]
    return Math.max(
      ...[0, 2, 4, 6].map((k) => {
        const [p, q] = [a, b].map((m) => applyToPoint(m, corners[k]!, corners[k + 1]!))
        return Math.hypot(p![0]! - q![0]!, p![1]! - q![1]!)
      }),
    )
  }

  const theirHomography = (to: readonly number[], method: number) =>
    Float64Array.from(
      cv.findHomography(
        cv.matFromArray(from.length / 2, 1, cv.CV_32FC2, from),
        cv.matFromArray(from.length / 2, 1, cv.CV_32FC2, to),
        method,
        1,
      ).data64F,
    )

  it('findHomography, least squares: the same map to half of the noise at the corners; it minimises distances, the DLT an algebraic error', () => {
    for (const seed of [3, 4, 5]) {
      const to = moved(0.2, seed)
      expect(farthest(homographyFromPoints(from, to), theirHomography(to, 0))).toBeLessThan(0.1)
    }
  })

  it('findHomography with RANSAC: a quarter of wrong points leaves ours as near to the truth', () => {
    const wrong = [1, 4, 9, 13, 18, 22]
    const to = moved(0.05, 6).map((value, k) => (wrong.includes(k >> 1) ? value + 25 + 7 * (k % 5) : value))
    const ours = robustHomographyFromPoints(from, to)
    wrong.forEach((i) => expect(ours.weights[i]).toBe(0))
    expect(farthest(ours.matrix, truth)).toBeLessThan(0.1)
    expect(farthest(ours.matrix, truth)).toBeLessThan(farthest(theirHomography(to, cv.RANSAC), truth) + 0.05)
  })

  it('matchTemplate: the integer search finds the same pixel', () => {
    const reference = pictureUnder(identity(), 11)
    for (const [dx, dy] of [[0, 0], [13, -8], [-17, 15], [6, 19]] as const) {
      const image = pictureUnder(Float64Array.of(1, 0, dx, 0, 1, dy, 0, 0, 1), 12)
      const [x, y, half] = [905, 560, 10]
      const square = squareRound(x, y, half)
      const tracker = new PatternTracker(reference, { outlines: [square], hidden: [] }, { surface: 'point', model: 'position', search: [-20, -20, 20, 20], texture: 'all', density: 1 })
      const [fx, fy] = applyToPoint(tracker.align(image, identity()).matrix, x, y)
      const at = (left: number, top: number, size: number, { data }: LumaImage): LumaImage => ({
        left, top, width: size, height: size,
        data: Float32Array.from({ length: size * size }, (_, i) => data[(top - BOX.top + Math.floor(i / size)) * BOX.width + left - BOX.left + (i % size)]!),
      })
      const result = new cv.Mat()
      cv.matchTemplate(floats(at(x - half - 20, y - half - 20, 2 * half + 40, image)), floats(at(x - half, y - half, 2 * half, reference)), result, cv.TM_CCOEFF_NORMED)
      const { maxLoc } = cv.minMaxLoc(result)
      expect([maxLoc.x - 20, maxLoc.y - 20]).toEqual([dx, dy])
      expect(Math.hypot(fx! - x - dx, fy! - y - dy)).toBeLessThan(0.2)
    } // prettier-ignore
  })

  it('calcOpticalFlowPyrLK: points on a tilting plane are found at least as near to the truth', () => {
    const [reference, motion] = [pictureUnder(identity(), 21), planeMotion(1)]
    const image = pictureUnder(motion, 22)
    const features = goodFeatures(reference, [planeRegion(260, 200)], [], 18, 60)
    const errors = { ours: [] as number[], theirs: [] as number[] }
    const start = features.flatMap(({ x, y }) => [x - BOX.left - 0.5, y - BOX.top - 0.5])
    const [to, status, error] = [new cv.Mat(), new cv.Mat(), new cv.Mat()]
    cv.calcOpticalFlowPyrLK(bytes(reference), bytes(image), cv.matFromArray(features.length, 1, cv.CV_32FC2, start), to, status, error, new cv.Size(21, 21), 3) // prettier-ignore
    features.forEach(({ x, y }, i) => {
      const [tx, ty] = applyToPoint(motion, x, y)
      const off = (fx: number, fy: number) => Math.hypot(fx - tx!, fy - ty!)
      errors.theirs.push(off(to.data32F[2 * i]! + BOX.left + 0.5, to.data32F[2 * i + 1]! + BOX.top + 0.5))
      const tracker = new PatternTracker(reference, { outlines: [squareRound(x, y, 10)], hidden: [] }, { surface: 'point', model: 'similarity', search: [-20, -20, 20, 20], texture: 'all', density: 1 }) // prettier-ignore
      const [fx, fy] = applyToPoint(tracker.align(image, identity()).matrix, x, y)
      errors.ours.push(off(fx!, fy!))
    })
    expect(features.length).toBeGreaterThan(40)
    expect(median(errors.ours)).toBeLessThan(0.1)
    expect(median(errors.ours)).toBeLessThan(1.1 * median(errors.theirs))
  })
})
