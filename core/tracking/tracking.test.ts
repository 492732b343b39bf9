import { describe, expect, it } from 'vitest'
import { applyToPoint, homographyFromPoints, identity, type Matrix3 } from '../geometry'
import type { LumaImage } from '../image'
import { PlanarTracker, runTrack } from './index'

/** Deterministic normal deviates (Park & Miller, with Box & Muller). */
function normalDeviates(seed: number) {
  let state = seed
  const uniform = () => (state = (state * 16807) % 2147483647) / 2147483647
  return () => Math.sqrt(-2 * Math.log(uniform())) * Math.cos(2 * Math.PI * uniform())
}

/** A textured plane known at every real position: sums of waves, so warping it needs no interpolation. */
function texture(x: number, y: number): number {
  let sum = 0
  for (let k = 0; k < 14; k++) {
    const angle = k * 2.39996
    const frequency = 0.035 + 0.03 * k
    sum += Math.sin(frequency * (x * Math.cos(angle) + y * Math.sin(angle)) + k * 1.7) / (1 + 0.35 * k)
  }
  return 0.5 + 0.09 * sum
}

const box = { left: 0, top: 0, width: 320, height: 260 }

function picture(inverse: Matrix3, change: (value: number, x: number, y: number) => number = (v) => v): LumaImage {
  const data = new Float32Array(box.width * box.height)
  const p = [0, 0]
  for (let j = 0; j < box.height; j++) {
    for (let i = 0; i < box.width; i++) {
      applyToPoint(inverse, i + 0.5, j + 0.5, p)
      data[j * box.width + i] = change(texture(p[0]!, p[1]!), i + 0.5, j + 0.5)
    }
  }
  return { ...box, data }
}

const region = [100, 80, 200, 80, 200, 180, 100, 180]

function cornerError(found: Matrix3, truth: Matrix3): number {
  let sum = 0
  for (let i = 0; i < 8; i += 2) {
    const p = applyToPoint(found, region[i]!, region[i + 1]!)
    const q = applyToPoint(truth, region[i]!, region[i + 1]!)
    sum += (p[0]! - q[0]!) ** 2 + (p[1]! - q[1]!) ** 2
  }
  return Math.sqrt(sum / 4)
}

/** Homography from the region's corners moved by noise, and its inverse. */
function displaced(sigma: number, seed: number) {
  const normal = normalDeviates(seed)
  const to = region.map((value) => value + sigma * normal())
  return { motion: homographyFromPoints(region, to), inverse: homographyFromPoints(to, region) }
}

describe('planar alignment (protocol of Baker & Matthews, IJCV 2004: canonical points displaced by Gaussian noise)', () => {
  for (const sigma of [1, 3, 6]) {
    it(`converges from corners displaced by sigma ${sigma} px, perspective, with grain of 4/255`, () => {
      const grain = normalDeviates(77)
      const reference = picture(identity(), (v) => v + (grain() * 4) / 255)
      const tracker = new PlanarTracker(reference, region, [], 'perspective')
      let converged = 0
      let worst = 0
      for (let trial = 0; trial < 20; trial++) {
        const { motion, inverse } = displaced(sigma, 100 + trial)
        const found = tracker.align(
          picture(inverse, (v) => v + (grain() * 4) / 255),
          identity(),
        )
        const error = cornerError(found.matrix, motion)
        if (error < 1) {
          converged++
          worst = Math.max(worst, error)
        }
      }
      expect(converged).toBeGreaterThanOrEqual(19)
      expect(worst).toBeLessThan(0.4)
    })
  }

  it('is exact on clean pictures: position to 0.005 px, perspective to 0.02 px', () => {
    const reference = picture(identity())
    const shift = Float64Array.of(1, 0, 7.37, 0, 1, -4.81, 0, 0, 1)
    const back = Float64Array.of(1, 0, -7.37, 0, 1, 4.81, 0, 0, 1)
    const position = new PlanarTracker(reference, region, [], 'position').align(picture(back), identity())
    expect(cornerError(position.matrix, shift)).toBeLessThan(0.005)
    const { motion, inverse } = displaced(4, 5)
    const perspective = new PlanarTracker(reference, region, [], 'perspective').align(picture(inverse), identity())
    expect(cornerError(perspective.matrix, motion)).toBeLessThan(0.02)
    expect(perspective.match).toBeGreaterThan(0.999)
  })

  it('takes an exposure change of 30 % and an occluder over 25 % of the region without sliding', () => {
    const { motion, inverse } = displaced(3, 9)
    const tracker = new PlanarTracker(picture(identity()), region, [], 'perspective')
    const found = tracker.align(
      picture(inverse, (v, x) => (x > 150 && x < 175 ? 0.9 : 0.7 * v + 0.02)),
      identity(),
    )
    expect(cornerError(found.matrix, motion)).toBeLessThan(0.05)
    expect(found.kept).toBeLessThan(0.85)
    expect(found.kept).toBeGreaterThan(0.6)
  })

  it('refuses a region without texture and one that is too small, with a code', () => {
    const flat: LumaImage = { ...box, data: new Float32Array(box.width * box.height).fill(0.4) }
    expect(() => new PlanarTracker(flat, region, [], 'perspective')).toThrow(
      expect.objectContaining({ code: 'no-texture' }),
    )
    expect(() => new PlanarTracker(flat, [10, 10, 13, 10, 13, 13], [], 'position')).toThrow(
      expect.objectContaining({ code: 'region-too-small' }),
    )
  })
})

describe('a run over frames', () => {
  const motionAt = (frame: number) => {
    const t = frame - 1001
    return Float64Array.of(1, 0, 6 * t, 0, 1, 2 * t, 0, 0, 1)
  }
  const run = {
    model: 'perspective' as const,
    referenceFrame: 1001,
    region,
    leaveOut: [],
    minimumMatch: 0.7,
    frames: [1002, 1003, 1004, 1005, 1006],
    known: [],
  }
  const pictureOf = (frame: number) => {
    const m = motionAt(frame)
    return picture(Float64Array.of(1, 0, -m[2]!, 0, 1, -m[5]!, 0, 0, 1))
  }

  it('follows the plane and reports each frame', async () => {
    const seen: number[] = []
    const end = await runTrack(
      run,
      async (frame) => pictureOf(frame),
      (sample) => {
        seen.push(sample.frame)
        expect(cornerError(sample.matrix, motionAt(sample.frame))).toBeLessThan(0.02)
        return true
      },
    )
    expect(end).toEqual({ reason: 'finished' })
    expect(seen).toEqual(run.frames)
  })

  it('stops at the last good frame when the picture is gone, and when asked to', async () => {
    const seen: number[] = []
    const noise = normalDeviates(3)
    const end = await runTrack(
      run,
      async (frame) => (frame < 1004 ? pictureOf(frame) : picture(identity(), () => 0.5 + 0.1 * noise())),
      (sample) => seen.push(sample.frame) > 0,
    )
    expect(end).toMatchObject({ reason: 'lost', frame: 1004 })
    expect(seen).toEqual([1002, 1003])
    expect(
      await runTrack(
        run,
        async (frame) => pictureOf(frame),
        () => false,
      ),
    ).toEqual({ reason: 'stopped' })
  })
})
