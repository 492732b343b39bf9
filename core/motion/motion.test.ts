import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  affineFromPoints,
  applyToPoint,
  homographyOf,
  identity,
  invert,
  multiply,
  robustHomographyFromPoints,
  similarityFromPoints,
  translation,
  type Matrix3,
} from '../geometry'
import {
  averageMotion,
  bridgeSlopes,
  centreAt,
  disagreementOn,
  fillBridge,
  joinMotions,
  motionFromPoints,
  motionOver,
  runsOf,
  sampledMatrix,
  savitzkyGolay,
  savitzkyGolayWeights,
  smoothingSpline,
  motionAt,
  smoothMotion,
  strayFrames,
  strengthenedMotion,
  FULL_STRENGTH,
} from './index'
import { numberBetween } from '../testing/numberBetween'

const pivot = [300, 200] as const
const about = { pivot, pixelAspect: 1 }

/** A smooth motion with a turn, scale and perspective, known at every frame. */
const truth = (frame: number): Matrix3 =>
  homographyOf(
    [300 + 3 * frame, 200 - frame, 0.02 * frame, 0.004 * frame, -0.003 * frame, 0.01, 1e-5 * frame, 0],
    pivot[0],
    pivot[1],
  )

const noise = (seed: number) => {
  let state = seed * 7919 + 1
  return () => (state = (state * 48271) % 2147483647) / 2147483647 - 0.5
}

function largestMove(a: Matrix3, b: Matrix3): number {
  return Math.max(
    ...[[200, 100], [400, 120], [300, 330]].map(([x, y]) => {
      const [p, q] = [applyToPoint(a, x!, y!), applyToPoint(b, x!, y!)]
      return Math.hypot(p[0]! - q[0]!, p[1]! - q[1]!)
    }),
  ) // prettier-ignore
}

describe('Savitzky & Golay 1964', () => {
  it('has the published quadratic tables for 5, 7 and 9 points', () => {
    const published: [number, number, number[]][] = [
      [2, 35, [-3, 12, 17, 12, -3]],
      [3, 21, [-2, 3, 6, 7, 6, 3, -2]],
      [4, 231, [-21, 14, 39, 54, 59, 54, 39, 14, -21]],
    ]
    for (const [half, norm, table] of published) {
      savitzkyGolayWeights(half).forEach((weight, i) => expect(weight * norm).toBeCloseTo(table[i]!, 10))
    }
  })

  it('leaves every quadratic as it is, to the ends', () => {
    const quadratic = Float64Array.from({ length: 20 }, (_, i) => 3 - 0.7 * i + 0.04 * i * i)
    for (const half of [1, 2, 5, 40]) {
      savitzkyGolay(quadratic, half).forEach((value, i) => expect(value).toBeCloseTo(quadratic[i]!, 9))
    }
  })
})

describe('smoothing spline (Reinsch 1967)', () => {
  it('leaves a straight line, and tends to the regression line when it is very stiff', () => {
    const random = noise(3)
    const values = Float64Array.from({ length: 30 }, (_, i) => 2 + 0.5 * i + random())
    smoothingSpline(
      values.map((_, i) => 2 + 0.5 * i),
      50,
    ).forEach((v, i) => expect(v).toBeCloseTo(2 + 0.5 * i, 9))
    const mean = values.reduce((a, b) => a + b) / 30
    const slope = values.reduce((sum, v, i) => sum + (i - 14.5) * (v - mean), 0) / ((30 * (900 - 1)) / 12)
    smoothingSpline(values, 1e9).forEach((v, i) => expect(v).toBeCloseTo(mean + slope * (i - 14.5), 3))
  })

  it('meets its own condition: residual = stiffness times the fourth difference of the curve, in the middle', () => {
    // The natural spline's third derivative jumps by (y - g) / stiffness at each knot.
    const random = noise(8)
    const values = Float64Array.from({ length: 40 }, () => random())
    const stiffness = 4
    const g = smoothingSpline(values, stiffness)
    // Second derivatives from the continuity equations of the interpolating natural spline through g.
    const n = 38
    const gamma = new Float64Array(n + 2)
    const [c, d] = [new Float64Array(n), new Float64Array(n)]
    for (let i = 0; i < n; i++) {
      const right = g[i]! - 2 * g[i + 1]! + g[i + 2]!
      const pivotValue = 2 / 3 - (i ? (1 / 6) * c[i - 1]! : 0)
      c[i] = 1 / 6 / pivotValue
      d[i] = (right - (i ? (1 / 6) * d[i - 1]! : 0)) / pivotValue
    }
    for (let i = n - 1; i >= 0; i--) gamma[i + 1] = d[i]! - c[i]! * gamma[i + 2]!
    for (let i = 1; i < 39; i++) {
      const jump = gamma[i - 1]! - 2 * gamma[i]! + gamma[i + 1]!
      expect(values[i]! - g[i]!).toBeCloseTo(stiffness * jump, 9)
    }
  })
})

describe('repair', () => {
  it('a Bridge over a motion of constant change gives it back, however long the gap and wherever the turn wraps', () => {
    fc.assert(
      fc.property(fc.integer({ min: 2, max: 30 }), numberBetween(-3, 3), (gap, angle) => {
        const moved = (f: number) =>
          homographyOf([300 + 3 * f, 200 - f, angle + 0.02 * f, 0.004 * f, -0.003 * f, 0.01, 1e-5 * f, 0], ...pivot)
        const samples = motionOver([0, 50], about, (frame) => (frame <= 10 || frame >= 10 + gap ? moved(frame) : null))
        expect(fillBridge(samples, 10, 10 + gap, bridgeSlopes(samples, 10, 10 + gap))).toBe(true)
        expect(runsOf(samples)).toEqual([{ first: 0, last: 50 }])
        for (let frame = 11; frame < 10 + gap; frame++) {
          expect(largestMove(sampledMatrix(samples, frame)!, moved(frame))).toBeLessThan(1e-6)
        }
      }),
    )
  })

  it('does nothing without both ends', () => {
    const samples = motionOver([0, 20], about, (frame) => (frame < 10 ? truth(frame) : null))
    expect(fillBridge(samples, 9, 15, { leaving: new Float64Array(8), arriving: new Float64Array(8) })).toBe(false)
  })

  it('smoothing takes out jitter and leaves the motion, channel by channel and range by range', () => {
    for (const method of ['polynomial', 'spline'] as const) {
      const random = noise(5)
      const jittery = motionOver([0, 60], about, (frame) => multiply(translation(random(), random()), truth(frame)))
      const all = { method, position: 5, rotation: 0, scale: 0, perspective: 0, range: null }
      const smooth = smoothMotion(jittery, all)
      const rms = (motion: typeof smooth) =>
        Math.sqrt(
          Array.from({ length: 61 }, (_, f) => {
            const [x, y] = centreAt(motion, f)!
            const [u, v] = applyToPoint(truth(f), pivot[0], pivot[1])
            return (x - u!) ** 2 + (y - v!) ** 2
          }).reduce((a, b) => a + b) / 61,
        )
      expect(rms(smooth)).toBeLessThan(0.6 * rms(jittery))
      const part = smoothMotion(jittery, { ...all, range: [20, 30] })
      expect(sampledMatrix(part, 19)).toEqual(sampledMatrix(jittery, 19))
      expect(sampledMatrix(part, 25)).not.toEqual(sampledMatrix(jittery, 25))
    }
  })
})

describe('a plate of pixels twice as wide as high', () => {
  const squeezed = { pivot, pixelAspect: 2 }
  // A rigid turn of the surface as it is seen, 20 degrees a frame.
  const turn = (frame: number) => homographyOf([300, 200, frame * (Math.PI / 9), 0, 0, 0, 0, 0], 300, 200, 2)
  const turning = motionOver([0, 12], squeezed, turn)

  it('stays rigid between frames, across a Bridge and under smoothing', () => {
    for (const time of [0.5, 3.25, 11.7]) {
      expect(largestMove(motionAt(turning, time).matrix!, turn(time))).toBeLessThan(1e-6)
    }
    const broken = motionOver([0, 12], squeezed, (frame) => (frame > 4 && frame < 8 ? null : turn(frame)))
    fillBridge(broken, 4, 8, bridgeSlopes(broken, 4, 8))
    const smoothing = { method: 'polynomial', position: 3, rotation: 3, scale: 3, perspective: 3, range: null } as const
    const smooth = smoothMotion(turning, smoothing)
    for (let frame = 5; frame < 8; frame++) {
      expect(largestMove(sampledMatrix(broken, frame)!, turn(frame))).toBeLessThan(1e-6)
      expect(largestMove(sampledMatrix(smooth, frame)!, turn(frame))).toBeLessThan(1e-6)
    }
  })

  it('has half of a turn, and the turn of two points, in square pixels', () => {
    const half = strengthenedMotion(turning, 0, { ...FULL_STRENGTH, rotation: 0.5 })
    expect(largestMove(sampledMatrix(half, 6)!, turn(3))).toBeLessThan(1e-6)
    const places = [[250, 180], [340, 230]] as const // prettier-ignore
    const points = places.map((place) =>
      motionOver([0, 6], { pivot: place, pixelAspect: 2 }, (frame) => {
        const [u, v] = applyToPoint(turn(frame), place[0]!, place[1]!)
        return translation(u! - place[0], v! - place[1])
      }),
    )
    expect(largestMove(sampledMatrix(motionFromPoints(points, 'similarity', 0), 5)!, turn(5))).toBeLessThan(1e-6)
  })
})

describe('combining', () => {
  it('the average of a motion and its mirror in jitter is the motion itself', () => {
    const random = noise(11)
    const jitter = Array.from({ length: 30 }, () => [random(), random()] as const)
    const moved = (sign: number) =>
      motionOver([0, 29], about, (f) => multiply(translation(sign * jitter[f]![0], sign * jitter[f]![1]), truth(f)))
    // On frame 0 both must agree, since motions are taken relative to it.
    jitter[0] = [0, 0]
    const mean = averageMotion([moved(1), moved(-1)], 0, [300, 200])
    for (let f = 0; f < 30; f++) {
      const relative = multiply(truth(f), invert(truth(0)))
      expect(largestMove(sampledMatrix(mean, f)!, relative)).toBeLessThan(1e-6)
    }
  })

  it('joins two tracks of different places and ranges without a jump', () => {
    const first = motionOver([0, 20], about, truth)
    // The second was begun on frame 15 on another feature of the same surface: its matrices lead from there.
    const second = motionOver([15, 40], { pivot: [340, 260], pixelAspect: 1 }, (f) =>
      multiply(truth(f), invert(truth(15))),
    )
    const whole = joinMotions(first, second)!
    for (let f = 0; f <= 40; f++) expect(largestMove(sampledMatrix(whole, f)!, truth(f))).toBeLessThan(1e-6)
    expect(joinMotions(first, motionOver([25, 40], about, truth))).toBeNull()
  })

  it('two, three and four points give rotation and scale, affine and perspective motion exactly', () => {
    const places = [[200, 100], [420, 130], [390, 320], [210, 280]] as const // prettier-ignore
    const similar = (f: number) => homographyOf([300 + f, 200, 0.03 * f, 0.01 * f, 0.01 * f, 0, 0, 0], 300, 200)
    const affine = (f: number) => homographyOf([300 + f, 200, 0.03 * f, 0.01 * f, -0.01 * f, 0.02 * f, 0, 0], 300, 200)
    const kinds = [['similarity', 2, similar], ['affine', 3, affine], ['perspective', 4, truth]] as const // prettier-ignore
    for (const [model, count, motion] of kinds) {
      const points = places.slice(0, count).map(([x, y]) =>
        motionOver([0, 12], { pivot: [x, y], pixelAspect: 1 }, (f) => {
          const [u, v] = applyToPoint(motion(f), x, y)
          return translation(u! - x, v! - y)
        }),
      )
      const found = motionFromPoints(points, model, 0)
      const start = motion(0)
      for (let f = 0; f <= 12; f++) {
        expect(largestMove(multiply(sampledMatrix(found, f)!, start), motion(f))).toBeLessThan(1e-6)
      }
    }
  })

  it('a homography from 30 points with a third of them wrong is as good as from the right ones alone', () => {
    const random = noise(17)
    const from: number[] = []
    const to: number[] = []
    for (let i = 0; i < 30; i++) {
      const [x, y] = [200 + 220 * (random() + 0.5), 100 + 220 * (random() + 0.5)]
      const [u, v] = applyToPoint(truth(6), x, y)
      from.push(x, y)
      to.push(u! + 0.2 * random() + (i % 3 ? 0 : 40 * random()), v! + 0.2 * random() + (i % 3 ? 0 : 30 * random()))
    }
    const { matrix, weights } = robustHomographyFromPoints(from, to)
    expect(largestMove(matrix, truth(6))).toBeLessThan(0.25)
    expect(weights.filter((w, i) => i % 3 !== 0 && w > 0.3).length).toBeGreaterThanOrEqual(19)
  })

  it('linear fits are least squares: no nearby map of their kind has a smaller error (Umeyama 1991)', () => {
    const random = noise(23)
    const from = Array.from({ length: 16 }, () => 300 * random())
    const to = from.map((value) => 1.3 * value + 20 * random())
    const error = (m: Matrix3) => {
      let sum = 0
      for (let i = 0; i < 16; i += 2) {
        const p = applyToPoint(m, from[i]!, from[i + 1]!)
        sum += (p[0]! - to[i]!) ** 2 + (p[1]! - to[i + 1]!) ** 2
      }
      return sum
    }
    const [similar, affine] = [similarityFromPoints(from, to), affineFromPoints(from, to)]
    for (const way of [1e-4, -1e-4]) {
      for (const at of [0, 1, 2, 3, 4, 5]) {
        const near = affine.slice()
        near[at]! += way
        expect(error(near)).toBeGreaterThan(error(affine))
      }
      for (const [a, b] of [[way, 0], [0, way]] as const) {
        const near = similar.slice()
        near[0]! += a
        near[4]! += a
        near[1]! -= b
        near[3]! += b
        expect(error(near)).toBeGreaterThan(error(similar))
      } // prettier-ignore
    }
    expect(error(affine)).toBeLessThanOrEqual(error(similar))
  })

  it('a point that leaves its neighbours is told from the frame on which it does; those beside it are not', () => {
    const random = noise(41)
    const places = Array.from({ length: 30 }, (_, i) => [200 + 30 * (i % 6), 100 + 30 * Math.floor(i / 6)] as const)
    const points = places.map((place, i) =>
      motionOver([0, 20], { pivot: place, pixelAspect: 1 }, (f) => {
        const [u, v] = applyToPoint(multiply(truth(f), invert(truth(0))), ...place)
        const slip = i % 7 === 3 && f > 8 ? 0.8 * (f - 8) : 0
        return translation(u! - place[0] + slip + 0.1 * random(), v! - place[1] + 0.1 * random())
      }),
    )
    strayFrames(points, 0).forEach((frames, i) => {
      if (i % 7 === 3) expect(frames.slice(-10)).toEqual([11, 12, 13, 14, 15, 16, 17, 18, 19, 20])
      else expect(frames).toEqual([])
    })
    expect(strayFrames(points.slice(0, 5), 0).flat()).toEqual([])
  })

  it('disagreement is nothing for equal motions and half the distance for two that differ', () => {
    const still = motionOver([0, 3], about, () => identity())
    const sliding = motionOver([0, 3], about, (f) => translation(2 * f, 0))
    expect(disagreementOn([still, still], 0, 2, [300, 200])).toBe(0)
    expect(disagreementOn([still, sliding], 0, 3, [300, 200, 310, 220])).toBeCloseTo(3, 12)
    expect(disagreementOn([still], 0, 3, [300, 200])).toBeNull()
  })
})
