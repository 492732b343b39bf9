import sharp from 'sharp'
import { describe, expect, it } from 'vitest'
import {
  applyToPoint,
  boundsOf,
  homographyFromPoints,
  homographyOf,
  identity,
  invert,
  multiply,
  translation,
  type Box,
  type Matrix3,
} from '../geometry'
import type { LumaImage } from '../image'
import {
  goodFeatures,
  PatternTracker,
  runTogether,
  runTrack,
  SLIDES_BELOW,
  type PlanarModel,
  type TrackRun,
} from './index'

/** Deterministic normal deviates (Park & Miller, with Box & Muller). */
function normalDeviates(seed: number) {
  // Small seeds begin with small numbers, which would make the first deviate of every trial a large one.
  let state = (seed * 48271 * 16807) % 2147483647
  const uniform = () => (state = (state * 16807) % 2147483647) / 2147483647
  return () => Math.sqrt(-2 * Math.log(uniform())) * Math.cos(2 * Math.PI * uniform())
}

const WAVES = Array.from({ length: 14 }, (_, k) => {
  const [angle, frequency] = [k * 2.39996, 0.035 + 0.03 * k]
  const height = 0.09 / (1 + 0.35 * k)
  return { x: frequency * Math.cos(angle), y: frequency * Math.sin(angle), phase: k * 1.7, height }
})

/** A textured plane known at every real position: sums of waves, so warping it needs no interpolation. */
function texture(x: number, y: number): number {
  let sum = 0.5
  for (const wave of WAVES) sum += wave.height * Math.sin(wave.x * x + wave.y * y + wave.phase)
  return sum
}

type Surface = (x: number, y: number) => number

/** A photograph (Debian's package opencv-doc) between its pixels, by Catmull & Rom's cubic. */
async function photograph(name: string, left: number, top: number): Promise<Surface> {
  const file = `/usr/share/doc/opencv-doc/examples/data/${name}.jpg`
  const { data, info } = await sharp(file).greyscale().raw().toBuffer({ resolveWithObject: true })
  const weights = (t: number) => [
    ((2 - t) * t - 1) * t * 0.5,
    ((3 * t - 5) * t * t + 2) * 0.5,
    ((4 - 3 * t) * t + 1) * t * 0.5,
    (t - 1) * t * t * 0.5,
  ]
  return (x, y) => {
    const [u, v] = [x + left - 0.5, y + top - 0.5]
    const [i, j] = [Math.floor(u), Math.floor(v)]
    const [wx, wy] = [weights(u - i), weights(v - j)]
    let sum = 0
    for (let b = 0; b < 4; b++) {
      for (let a = 0; a < 4; a++) {
        sum += wx[a]! * wy[b]! * data[((j + b - 1) * info.width + i + a - 1) * info.channels]!
      }
    }
    return sum / 255
  }
}

const box = { left: 0, top: 0, width: 320, height: 260 }

function picture(
  inverse: Matrix3,
  change: (value: number, x: number, y: number) => number = (v) => v,
  surface: Surface = texture,
  { left, top, width, height } = box,
): LumaImage {
  const data = new Float32Array(width * height)
  const p = [0, 0]
  for (let j = 0; j < height; j++) {
    for (let i = 0; i < width; i++) {
      const [x, y] = [left + i + 0.5, top + j + 0.5]
      applyToPoint(inverse, x, y, p)
      data[j * width + i] = change(surface(p[0]!, p[1]!), x, y)
    }
  }
  return { left, top, width, height, data }
}

const region = [100, 80, 200, 80, 200, 180, 100, 180]
/** As far round the region as it is displaced, with half of that again for the coarsest level. */
const aboutRegion = { left: 60, top: 40, width: 180, height: 180 }

function cornerError(found: Matrix3, truth: Matrix3): number {
  let sum = 0
  for (let i = 0; i < 8; i += 2) {
    const p = applyToPoint(found, region[i]!, region[i + 1]!)
    const q = applyToPoint(truth, region[i]!, region[i + 1]!)
    sum += (p[0]! - q[0]!) ** 2 + (p[1]! - q[1]!) ** 2
  }
  return Math.sqrt(sum / 4)
}

const PLANE = { surface: 'plane', search: [0, 0, 0, 0], texture: 'all', density: 1 } as const

const planeTracker = (reference: LumaImage, model: PlanarModel, hidden: number[][] = []) =>
  new PatternTracker(reference, { outlines: [region], hidden }, { ...PLANE, model })

/** Homography from the region's corners moved by noise, and its inverse. */
const displaced = (sigma: number, seed: number) => displacedBy('perspective', sigma, seed)

/** As many of the region's corners moved by noise as the model has to be told, and the motion they make. */
function displacedBy(model: PlanarModel, sigma: number, seed: number) {
  const normal = normalDeviates(seed)
  const corners = region.map((value) => value + sigma * normal())
  const [ax, ay, bx, by, , , dx, dy] = corners as [number, number, number, number, number, number, number, number]
  const side = region[2]! - region[0]!
  const [x, y] = [region[0]!, region[1]!]
  let m: [number, number, number, number] = [1, 0, 0, 1]
  if (model === 'similarity') m = [(bx - ax) / side, -(by - ay) / side, (by - ay) / side, (bx - ax) / side]
  if (model === 'affine') m = [(bx - ax) / side, (dx - ax) / side, (by - ay) / side, (dy - ay) / side]
  const motion =
    model === 'perspective'
      ? homographyFromPoints(region, corners)
      : Float64Array.of(m[0], m[1], ax - m[0] * x - m[1] * y, m[2], m[3], ay - m[2] * x - m[3] * y, 0, 0, 1)
  return { motion, inverse: invert(motion) }
}

describe('planar alignment (protocol of Baker & Matthews, IJCV 2004: canonical points displaced by Gaussian noise)', () => {
  const surfaces: [string, () => Promise<Surface> | Surface][] = [
    ['a sum of waves', () => texture],
    ['a photograph of a building', () => photograph('building', 150, 120)],
  ]
  for (const [words, surfaceOf] of surfaces) {
    for (const model of ['perspective', 'affine', 'similarity', 'position'] as const) {
      for (const sigma of [1, 3, 6]) {
        it(`converges on ${words} displaced by sigma ${sigma} px, ${model}, with grain of 4/255`, async () => {
          const surface = await surfaceOf()
          const grain = normalDeviates(77)
          const grainy = (v: number) => v + (grain() * 4) / 255
          const tracker = planeTracker(picture(identity(), grainy, surface, aboutRegion), model)
          let converged = 0
          let worst = 0
          for (let trial = 0; trial < 20; trial++) {
            const { motion, inverse } = displacedBy(model, sigma, 100 + trial)
            const found = tracker.align(picture(inverse, grainy, surface, aboutRegion), identity())
            const error = cornerError(found.matrix, motion)
            if (error < 1) {
              converged++
              worst = Math.max(worst, error)
            }
          }
          expect(converged).toBeGreaterThanOrEqual(sigma === 6 ? 18 : 20)
          expect(worst).toBeLessThan({ perspective: 0.4, affine: 0.3, similarity: 0.2, position: 0.1 }[model])
        })
      }
    }
  }

  it('is exact on clean pictures: position to 0.005 px, perspective to 0.02 px', () => {
    const reference = picture(identity())
    const shift = Float64Array.of(1, 0, 7.37, 0, 1, -4.81, 0, 0, 1)
    const back = Float64Array.of(1, 0, -7.37, 0, 1, 4.81, 0, 0, 1)
    const position = planeTracker(reference, 'position').align(picture(back), identity())
    expect(cornerError(position.matrix, shift)).toBeLessThan(0.005)
    const { motion, inverse } = displaced(4, 5)
    const perspective = planeTracker(reference, 'perspective').align(picture(inverse), identity())
    expect(cornerError(perspective.matrix, motion)).toBeLessThan(0.02)
    expect(perspective.match).toBeGreaterThan(0.999)
  })

  it('turns in square pixels on a plate of pixels twice as wide as high', () => {
    const turned = homographyOf([150 + 3, 130 - 2, 0.06, 0.03, 0.03, 0, 0, 0], 150, 130, 2)
    const options = { ...PLANE, model: 'similarity', pixelAspect: 2 } as const
    const tracker = new PatternTracker(picture(identity()), { outlines: [region], hidden: [] }, options)
    expect(cornerError(tracker.align(picture(invert(turned)), identity()).matrix, turned)).toBeLessThan(0.01)
  })

  it('takes an exposure change of 30 % and an occluder over 25 % of the region without sliding', () => {
    const { motion, inverse } = displaced(3, 9)
    const tracker = planeTracker(picture(identity()), 'perspective')
    const found = tracker.align(
      picture(inverse, (v, x) => (x > 150 && x < 175 ? 0.9 : 0.7 * v + 0.02)),
      identity(),
    )
    expect(cornerError(found.matrix, motion)).toBeLessThan(0.05)
    expect(found.kept).toBeLessThan(0.85)
    expect(found.kept).toBeGreaterThan(0.6)
  })

  it('does not look at what is left out: a bright reflection that stays behind over a third of the region', () => {
    const still = (v: number, x: number, y: number) =>
      x > 100 && x < 135 ? 0.5 + 0.4 * Math.sin(x * 0.9) * Math.sin(y * 0.7) : v
    const { motion, inverse } = displaced(3, 21)
    const leaveOut = [[96, 76, 139, 76, 139, 184, 96, 184]]
    const tracker = planeTracker(picture(identity(), still), 'perspective', leaveOut)
    const found = tracker.align(picture(inverse, still), identity(), leaveOut)
    expect(cornerError(found.matrix, motion)).toBeLessThan(0.1)
    expect(() => planeTracker(picture(identity()), 'perspective', [region])).toThrow(
      expect.objectContaining({ code: 'region-left-out' }),
    )
  })

  it('leads back to where it was, and says so when the other picture shows something else there', () => {
    const reference = picture(identity())
    const tracker = new PatternTracker(
      reference,
      { outlines: [[140, 120, 158, 120, 158, 138, 140, 138]], hidden: [] },
      { ...PLANE, surface: 'point', model: 'similarity', search: [-20, -20, 20, 20] },
    )
    const moved = Float64Array.of(1, 0, 3.3, 0, 1, -2.2, 0, 0, 1)
    const here = { picture: picture(invert(moved)), motion: moved, hidden: [] }
    const back = (there: LumaImage) => tracker.returnError(here, { picture: there, motion: identity() }, [-4, -4, 4, 4])
    expect(back(reference)).toBeLessThan(0.01)
    // Two pixels further on all of it: that is how far off it comes back.
    const off = Float64Array.of(1, 0, 2, 0, 1, 0, 0, 0, 1)
    expect(back(picture(invert(off)))).toBeCloseTo(2, 1)
    // Something else altogether is looked for all round, and not taken for the same place.
    const other = picture(identity(), (_, x, y) => 0.5 + 0.3 * Math.sin(0.9 * x) * Math.sin(0.7 * y))
    expect(back(other)).toBeGreaterThan(0.7)
    const covered = { ...here, hidden: [[0, 0, 320, 0, 320, 260, 0, 260]] }
    expect(tracker.returnError(covered, { picture: reference, motion: identity() }, [-4, -4, 4, 4])).toBe(Infinity)
  })

  it('tells a pattern on a straight edge, along which it would slide, from one on a corner', () => {
    const grain = normalDeviates(5)
    const edge = (x: number, y: number) => 0.3 + 0.4 * Math.min(1, Math.max(0, (x - 137 - 0.1 * y) / 3 + 0.5))
    const corner = (x: number, y: number) => (x > 150 && y > 130 ? 0.7 : 0.3)
    const square = { outlines: [[141, 121, 159, 121, 159, 139, 141, 139]], hidden: [] }
    const holdOn = (surface: Surface) => {
      const seen = picture(identity(), (v) => v + (2 * grain()) / 255, surface)
      return new PatternTracker(seen, square, { ...PLANE, surface: 'point', model: 'position' }).hold
    }
    expect(holdOn(edge)).toBeLessThan(SLIDES_BELOW / 1.5)
    expect(holdOn(corner)).toBeGreaterThan(2 * SLIDES_BELOW)
    expect(planeTracker(picture(identity()), 'perspective').hold).toBeGreaterThan(2 * SLIDES_BELOW)
  })

  it('tells a place that is like no other from checks, which are alike everywhere', () => {
    const checks = picture(identity(), (_, x, y) => 0.5 + 0.2 * Math.sign(Math.sin(x * 0.4) * Math.sin(y * 0.4)))
    expect(planeTracker(checks, 'similarity').distinctness(checks, identity())).toBeLessThan(0.08)
    const wall = picture(identity())
    expect(planeTracker(wall, 'similarity').distinctness(wall, identity())).toBeGreaterThan(0.2)
  })

  it('refuses a region without texture and one that is too small, with a code', () => {
    const flat: LumaImage = { ...box, data: new Float32Array(box.width * box.height).fill(0.4) }
    expect(() => planeTracker(flat, 'perspective')).toThrow(expect.objectContaining({ code: 'no-texture' }))
    const speck = { outlines: [[10, 10, 13, 10, 13, 13]], hidden: [] }
    expect(() => new PatternTracker(flat, speck, { ...PLANE, model: 'position' })).toThrow(
      expect.objectContaining({ code: 'region-too-small' }),
    )
  })
})

describe('a run over frames', () => {
  const motionAt = (frame: number) => {
    const t = frame - 1001
    return Float64Array.of(1, 0, 6 * t, 0, 1, 2 * t, 0, 0, 1)
  }
  const frames = [1002, 1003, 1004, 1005, 1006]
  const run: TrackRun = {
    ...PLANE,
    model: 'perspective',
    preprocessing: { channel: 'luma', blur: 0, sharpen: 0, localContrast: false },
    patterns: [{ frame: 1001, outlines: [region], hidden: [], matrix: identity() }],
    steps: frames.map((frame) => ({ frame, pattern: 0, hidden: [] })),
    patternUpdate: { when: 'first', below: 0.9 },
    minimumMatch: 0.7,
    mostReturnError: null,
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
    expect(seen).toEqual(frames)
  })

  it('goes on with another pattern without a jump: the second surface moves otherwise, the track keeps its place', async () => {
    // Behind x = 210 another wall slides by 3 px a frame; from 1003 on the track follows it instead.
    const wall = (frame: number): LumaImage => {
      const [first, second] = [pictureOf(frame), picture(Float64Array.of(1, 0, -3 * (frame - 1001), 0, 1, 0, 0, 0, 1))]
      return { ...first, data: first.data.map((v, i) => (i % box.width >= 225 ? second.data[i]! : v)) }
    }
    const other = [230, 60, 300, 60, 300, 160, 230, 160]
    const atThree = motionAt(1003)
    const joined: TrackRun = {
      ...run,
      patterns: [...run.patterns, { frame: 1003, outlines: [other], hidden: [], matrix: atThree }],
      steps: run.steps.map((step) => (step.frame > 1003 ? { ...step, pattern: 1 } : step)),
    }
    const seen = new Map<number, Matrix3>()
    await runTrack(
      joined,
      async (frame) => wall(frame),
      (sample) => seen.set(sample.frame, sample.matrix).size > 0,
    )
    expect(cornerError(seen.get(1003)!, atThree)).toBeLessThan(0.03)
    for (const frame of [1004, 1005, 1006]) {
      const expected = multiply(translation(3 * (frame - 1003), 0), atThree)
      expect(cornerError(seen.get(frame)!, expected)).toBeLessThan(0.1)
    }
  })

  it('is not hidden by what its own pattern leaves out, however much that is: a window by its frame alone', async () => {
    const { left, right, top, bottom } = boundsOf(region)
    // Nine tenths of each way, so that four fifths of the region are pane.
    const [dx, dy] = [(right - left) / 20, (bottom - top) / 20]
    const pane = [left + dx, top + dy, right - dx, top + dy, right - dx, bottom - dy, left + dx, bottom - dy]
    const paneOn = (frame: number) => pane.map((v, i) => v + motionAt(frame)[i % 2 === 0 ? 2 : 5]!)
    const end = await runTrack(
      {
        ...run,
        model: 'position',
        patterns: [{ ...run.patterns[0]!, hidden: [pane] }],
        steps: run.steps.map((step) => ({ ...step, hidden: [paneOn(step.frame)] })),
      },
      async (frame) => pictureOf(frame),
      ({ frame, matrix }) => {
        expect(cornerError(matrix, motionAt(frame))).toBeLessThan(0.05)
        return true
      },
    )
    expect(end).toEqual({ reason: 'finished' })
  })

  it('takes its pattern anew on each frame, or when the match weakens, and says which it used', async () => {
    const patternsUsed = async (patternUpdate: TrackRun['patternUpdate']) => {
      const used: number[] = []
      await runTrack(
        { ...run, patternUpdate },
        async (frame) => pictureOf(frame),
        (sample) => used.push(sample.patternFrame) > 0,
      )
      return used
    }
    expect(await patternsUsed({ when: 'every', below: 0 })).toEqual([1001, 1002, 1003, 1004, 1005])
    expect(await patternsUsed({ when: 'weak', below: 0.5 })).toEqual([1001, 1001, 1001, 1001, 1001])
    expect(await patternsUsed({ when: 'weak', below: 1.1 })).toEqual([1001, 1002, 1003, 1004, 1005])
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

/** The stretch of a picture that a box asks for. */
function cut(image: LumaImage, wanted: Box): LumaImage {
  const [left, top] = [Math.max(0, wanted.left), Math.max(0, wanted.top)]
  const width = Math.max(0, Math.min(image.width, wanted.right) - left)
  const height = Math.max(0, Math.min(image.height, wanted.bottom) - top)
  const data = new Float32Array(width * height)
  for (let y = 0; y < height; y++) {
    const from = (top + y) * image.width + left
    data.set(image.data.subarray(from, from + width), y * width)
  }
  return { left, top, width, height, data }
}

describe('point tracks', () => {
  const around = (x: number, y: number, half = 11) => [
    x - half, y - half, x + half, y - half, x + half, y + half, x - half, y + half,
  ] // prettier-ignore
  const point: TrackRun = {
    surface: 'point',
    model: 'position',
    search: [-30, -30, 30, 30],
    texture: 'all',
    density: 1,
    preprocessing: { channel: 'luma', blur: 0, sharpen: 0, localContrast: false },
    patterns: [{ frame: 0, outlines: [around(150, 130)], hidden: [], matrix: identity() }],
    steps: [{ frame: 1, pattern: 0, hidden: [] }],
    patternUpdate: { when: 'first', below: 0.9 },
    minimumMatch: 0.7,
    mostReturnError: null,
    known: [],
  }

  it('finds a jump anywhere in the search box to 0.02 px, whatever the exposure does', async () => {
    for (const [x, y] of [[23.3, -17.6], [-28.2, 11.4], [4.5, 26.5]] as const) {
      const moved = picture(Float64Array.of(1, 0, -x, 0, 1, -y, 0, 0, 1), (v) => 0.75 * v + 0.1)
      let place: number[] = []
      await runTrack(
        point,
        async (frame) => (frame ? moved : picture(identity())),
        ({ matrix }) => (place = Array.from(applyToPoint(matrix, 150, 130))).length > 0,
      )
      expect(Math.hypot(place[0]! - 150 - x, place[1]! - 130 - y)).toBeLessThan(0.02)
    }
  }) // prettier-ignore

  it('with rotation and scale, and affine, it reports the turn of the pattern as well', async () => {
    const turn = multiply(
      translation(156.5, 126.2),
      multiply(Float64Array.of(1.06, -0.12, 0, 0.12, 1.06, 0, 0, 0, 1), translation(-150, -130)),
    )
    for (const model of ['similarity', 'affine'] as const) {
      let found = identity()
      await runTrack(
        { ...point, model },
        async (frame) => picture(frame ? invert(turn) : identity()),
        ({ matrix }) => (found = matrix).length > 0,
      )
      for (const corner of [0, 2, 4, 6]) {
        const [x, y] = [around(150, 130)[corner]!, around(150, 130)[corner + 1]!]
        const [p, q] = [applyToPoint(found, x, y), applyToPoint(turn, x, y)]
        expect(Math.hypot(p[0]! - q[0]!, p[1]! - q[1]!)).toBeLessThan(0.1)
      }
    }
  })

  it('a point on a turning object is followed inside, and stops at once when it may not turn', async () => {
    // Turned by 3 degrees, grown by 1 % and moved a frame: closed form.
    const truth = (frame: number) => {
      const [c, s] = [Math.cos(frame * 0.0524), Math.sin(frame * 0.0524)].map((v) => v * 1.01 ** frame) as [
        number,
        number,
      ]
      const turn = Float64Array.of(c, -s, 0, s, c, 0, 0, 0, 1)
      return multiply(translation(150 + 1.5 * frame, 130 - frame), multiply(turn, translation(-150, -130)))
    }
    const steps = Array.from({ length: 30 }, (_, i) => ({ frame: i + 1, pattern: 0, hidden: [] }))
    const usual = { ...point, steps, minimumMatch: 0.8, mostReturnError: 0.7 }
    const errors: number[] = []
    const pictures = (frame: number) => Promise.resolve(picture(invert(truth(frame))))
    const end = await runTrack({ ...usual, follows: true }, pictures, ({ frame, matrix }) => {
      const [p, q] = [applyToPoint(matrix, 150, 130), applyToPoint(truth(frame), 150, 130)]
      return errors.push(Math.hypot(p[0]! - q[0]!, p[1]! - q[1]!)) > 0
    })
    expect(end).toEqual({ reason: 'finished' })
    expect(Math.max(...errors)).toBeLessThan(0.2)
    let stiff = 0
    expect((await runTrack(usual, pictures, () => ++stiff > 0)).reason).not.toBe('finished')
    expect(stiff).toBeLessThan(15)
  })

  it('many at once: features lie on corners, are apart, and those that a bar covers are told as lost', async () => {
    const features = goodFeatures(picture(identity()), [[40, 40, 280, 40, 280, 220, 40, 220]], [], 18, 40)
    expect(features.length).toBe(40)
    for (const [i, a] of features.entries()) {
      for (const b of features.slice(0, i)) expect(Math.hypot(a.x - b.x, a.y - b.y)).toBeGreaterThanOrEqual(18)
    }
    // The wall moves by 2 px a frame, the bar comes in from the left by 12 px a frame and has a texture of its own.
    const pictureOf = (frame: number) =>
      picture(Float64Array.of(1, 0, -2 * frame, 0, 1, 0, 0, 0, 1), (v, x, y) =>
        x < 12 * frame ? 0.5 + 0.3 * Math.sin((x - 12 * frame) * 0.8) * Math.sin(y * 0.7) : v,
      )
    const pictures = Array.from({ length: 11 }, (_, frame) => pictureOf(frame))
    const runs = features.map(({ x, y }): TrackRun => ({
      ...point,
      search: [-12, -12, 12, 12],
      mostReturnError: 0.7,
      patterns: [{ frame: 0, outlines: [around(x, y, 8)], hidden: [], matrix: identity() }],
      steps: Array.from({ length: 10 }, (_, i) => ({ frame: i + 1, pattern: 0, hidden: [] })),
    }))
    let [wrong, good] = [0, 0]
    let worst = 0
    await runTogether(
      runs,
      async (frame, box) => cut(pictures[frame]!, box),
      (i, { frame, matrix }) => {
        const { x, y } = features[i]!
        const place = applyToPoint(matrix, x, y)
        const error = Math.hypot(place[0]! - x - 2 * frame, place[1]! - y)
        if (error > 1) wrong++
        else {
          good++
          worst = Math.max(worst, error)
        }
        return true
      },
    )
    expect(wrong).toBe(0)
    expect(worst).toBeLessThan(0.6)
    // Of 400 looks those whose pattern the bar has not touched yet.
    const free = features.reduce(
      (sum, { x }) => sum + Array.from({ length: 10 }, (_, i) => i + 1).filter((f) => x + 2 * f - 9 > 12 * f).length,
      0,
    )
    expect(good).toBeGreaterThanOrEqual(free)
  })
})
