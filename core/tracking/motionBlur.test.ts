import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { applyToPoint, homographyOf, identity, translation, type Matrix3 } from '../geometry'
import type { LumaImage } from '../image'
import { medianOf } from './median'
import { streaksOf, type Streak } from './motionBlur'
import { runTrack, type TrackRun } from './runTrack'
import { numberBetween } from '../testing/numberBetween'

const streakOf = (exposing: Parameters<typeof streaksOf>[0], x: number, y: number): Streak => {
  const out: Streak = { x: 0, y: 0, shiftX: 0, shiftY: 0 }
  streaksOf(exposing)(x, y, out)
  return out
}

const speed = numberBetween(-30, 30)

describe('streaks of an open shutter', () => {
  it('at constant speed are speed times open time, and lie evenly round mid-exposure', () => {
    fc.assert(
      fc.property(speed, speed, numberBetween(0.1, 1), (vx, vy, shutter) => {
        const motions = [translation(2 * vx, 2 * vy), translation(vx, vy), identity()] as const
        const streak = streakOf({ shutter, motions, besidePattern: null }, 310, 120)
        expect(streak.x).toBeCloseTo(shutter * vx, 6)
        expect(streak.y).toBeCloseTo(shutter * vy, 6)
        expect(Math.hypot(streak.shiftX, streak.shiftY)).toBeLessThan(1e-6)
      }),
    )
  })

  it('under acceleration a are shifted by a s^2 / 24, the mean of a t^2 / 2 over the open time', () => {
    const [a, s] = [6, 0.5]
    const at = (t: number) => translation((a * t * t) / 2, 0)
    const streak = streakOf({ shutter: s, motions: [at(4), at(3), at(2)], besidePattern: null }, 0, 0)
    expect(streak.x).toBeCloseTo(s * a * 4, 9)
    expect(streak.shiftX).toBeCloseTo(-(a * s * s) / 24, 9)
  })

  it('are nothing where the pattern is blurred alike, and the root of the difference of squares where it is less', () => {
    const motions = [translation(20, 0), translation(0, 0), null] as const
    expect(streakOf({ shutter: 0.5, motions, besidePattern: translation(-20, 0) }, 50, 50).x).toBeCloseTo(0, 9)
    expect(streakOf({ shutter: 0.5, motions, besidePattern: translation(12, 0) }, 50, 50).x).toBeCloseTo(8, 9)
    expect(streakOf({ shutter: 0.5, motions, besidePattern: translation(40, 0) }, 50, 50).x).toBe(0)
  })
})

/** Patches light and dark with soft rims: waves alone keep their phase under any blur and would hide an error. */
function surface(x: number, y: number): number {
  let sum = 0
  for (let k = 0; k < 8; k++) {
    const frequency = 0.06 + 0.025 * k
    sum += Math.sin(frequency * (x * Math.cos(k * 2.39996) + y * Math.sin(k * 2.39996)) + k * 1.7) / (1 + 0.35 * k)
  }
  return 0.5 + 0.35 * Math.tanh(2.5 * sum)
}

/** The mean of what an open shutter sees of the surface under a motion. */
function exposed(motionAt: (time: number) => [number, number], frame: number, shutter: number): LumaImage {
  const size = { left: 0, top: 0, width: 260, height: 180 }
  const data = new Float32Array(size.width * size.height)
  const looks = shutter === 0 ? 1 : 12
  for (let look = 0; look < looks; look++) {
    const [dx, dy] = motionAt(frame + shutter * ((look + 0.5) / looks - 0.5))
    for (let j = 0, at = 0; j < size.height; j++) {
      for (let i = 0; i < size.width; i++, at++) data[at]! += surface(i + 0.5 - dx, j + 0.5 - dy) / looks
    }
  }
  return { ...size, data }
}

describe('tracking through motion blur', () => {
  const region = [40, 50, 120, 50, 120, 130, 40, 130]
  const frames = 13
  // From rest to 20 px a frame and to rest again.
  const swing = (t: number): [number, number] => {
    const share = t / (frames - 1)
    return [10 * (frames - 1) * (share - Math.sin(2 * Math.PI * share) / (2 * Math.PI)), 6 * share * share]
  }

  /** Median over the frames of the worst corner's error. */
  async function usualError(pictures: readonly LumaImage[], shutter: number): Promise<number> {
    const run: TrackRun = {
      shutter,
      surface: 'plane',
      model: 'perspective',
      search: [0, 0, 0, 0],
      texture: 'all',
      density: 1,
      preprocessing: { channel: 'luma', blur: 0, sharpen: 0, localContrast: false },
      patterns: [{ frame: 0, outlines: [region], hidden: [], matrix: identity() }],
      steps: Array.from({ length: frames - 1 }, (_, i) => ({ frame: i + 1, pattern: 0, hidden: [] })),
      patternUpdate: { when: 'first', below: 0 },
      minimumMatch: 0.5,
      mostReturnError: null,
      known: [],
    }
    const errors: number[] = []
    const note = ({ frame, matrix }: { frame: number; matrix: Matrix3 }) => {
      const [x, y] = swing(frame)
      const missed = [0, 2, 4, 6].map((k) => {
        const [u, v] = applyToPoint(matrix, region[k]!, region[k + 1]!)
        return Math.hypot(u! - region[k]! - x, v! - region[k + 1]! - y)
      })
      return errors.push(Math.max(...missed)) > 0
    }
    await runTrack(run, (frame) => Promise.resolve(pictures[frame]!), note)
    return errors.length === frames - 1 ? medianOf(Float32Array.from(errors), errors.length) : Infinity
  }

  it('of up to 10 px finds mid-exposure to 0.05 px, and does no harm where the plate is sharp after all', async () => {
    const blurred = Array.from({ length: frames }, (_, i) => exposed(swing, i, 0.5))
    const sharp = Array.from({ length: frames }, (_, i) => exposed(swing, i, 0))
    const errors = await Promise.all([usualError(blurred, 0.5), usualError(blurred, 0), usualError(sharp, 0.5)])
    expect(errors[0]).toBeLessThan(0.05)
    expect(errors[0]).toBeLessThan(0.5 * errors[1])
    expect(errors[2]).toBeLessThan(0.02)
  })
})

it('a turning plane is streaked more the farther from the turn', () => {
  const turn = (angle: number) => homographyOf([100, 100, angle, 0, 0, 0, 0, 0], 100, 100)
  const exposing = { shutter: 0.5, motions: [turn(0.2), turn(0.1), turn(0)] as const, besidePattern: null }
  const [near, far] = [110, 180].map((x) => streakOf(exposing, x, 100))
  // The path is the chord of half the angle.
  expect(Math.hypot(far!.x, far!.y)).toBeCloseTo(8 * Math.hypot(near!.x, near!.y), 9)
  expect(Math.hypot(far!.x, far!.y)).toBeGreaterThan(0.95 * 80 * 0.05)
})
