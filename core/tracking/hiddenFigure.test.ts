import sharp, { type Region } from 'sharp'
import { beforeAll, describe, expect, it } from 'vitest'
import { applyToPoint, identity, invert, linearAbout, multiply, translation, type Box, type Matrix3 } from '../geometry'
import type { LumaImage } from '../image'
import { runTogether, type LostEnd, type TrackedFrame, type TrackRun } from './index'

/**
 * A film made of photographs of Debian's package opencv-doc: a cut-out of one, moved and turned over another, passes behind
 * a post; beyond the post stands a second one like it. The truth is the path.
 */
const PHOTOGRAPHS = '/usr/share/doc/opencv-doc/examples/data'
const [WIDTH, HEIGHT] = [560, 260]
const POST = [246, 300] as const
const FIGURE = { width: 52, height: 96 }
const START = [120, 130] as const
const FRAMES = 70

interface Grey {
  data: Uint8Array
  width: number
  height: number
}

async function grey(name: string, region?: Region): Promise<Grey> {
  let picture = sharp(`${PHOTOGRAPHS}/${name}`).greyscale()
  if (region) picture = picture.extract(region)
  const { data, info } = await picture.raw().toBuffer({ resolveWithObject: true })
  return { data, width: info.width, height: info.height }
}

function valueIn({ data, width, height }: Grey, x: number, y: number): number {
  const u = Math.min(width - 1.001, Math.max(0, x - 0.5))
  const v = Math.min(height - 1.001, Math.max(0, y - 0.5))
  const [j, k] = [Math.floor(u), Math.floor(v)]
  const at = (row: number, column: number) => data[row * width + column]!
  const [fu, fv] = [u - j, v - k]
  return ((1 - fv) * ((1 - fu) * at(k, j) + fu * at(k, j + 1)) + fv * ((1 - fu) * at(k + 1, j) + fu * at(k + 1, j + 1))) / 255 // prettier-ignore
}

/** Where the figure of the first frame is on a later one. */
function pathAt(frame: number): Matrix3 {
  const angle = 0.002 * frame
  const turn = linearAbout(START[0], START[1], Math.cos(angle), -Math.sin(angle), Math.sin(angle), Math.cos(angle))
  return multiply(translation(4 * frame, 3 * Math.sin(frame / 6)), turn)
}

/** The second one: it stands beyond the post, a little darker. */
const BYSTANDER = translation(338 - START[0], 2)

let wall: Grey
let person: Grey
beforeAll(async () => {
  wall = await grey('building.jpg')
  person = await grey('messi5.jpg', { left: 90, top: 70, ...FIGURE })
})

function frameOf(frame: number): LumaImage {
  const data = new Float32Array(WIDTH * HEIGHT)
  const backs = [invert(pathAt(frame)), invert(BYSTANDER)]
  const p = [0, 0]
  let state = 17 + frame
  const uniform = () => (state = (state * 16807) % 2147483647) / 2147483647
  for (let y = 0; y < HEIGHT; y++) {
    for (let x = 0; x < WIDTH; x++) {
      let value = valueIn(wall, x + 150.5, y + 80.5)
      for (const [i, back] of backs.entries()) {
        applyToPoint(back, x + 0.5, y + 0.5, p)
        const [u, v] = [p[0]! - START[0] + FIGURE.width / 2, p[1]! - START[1] + FIGURE.height / 2]
        if (u > 0 && v > 0 && u < FIGURE.width && v < FIGURE.height) value = valueIn(person, u, v) * (i ? 0.9 : 1)
      }
      if (x >= POST[0] && x < POST[1]) value = 0.25 + 0.05 * Math.sin(y / 3)
      data[y * WIDTH + x] = value + ((uniform() + uniform() - 1) * 4) / 255
    }
  }
  return { left: 0, top: 0, width: WIDTH, height: HEIGHT, data }
}

function stretchOf(image: LumaImage, box: Box): LumaImage {
  const [left, top] = [Math.max(0, box.left), Math.max(0, box.top)]
  const [width, height] = [
    Math.max(0, Math.min(WIDTH, box.right) - left),
    Math.max(0, Math.min(HEIGHT, box.bottom) - top),
  ]
  const data = new Float32Array(width * height)
  for (let y = 0; y < height; y++) {
    data.set(image.data.subarray((top + y) * WIDTH + left, (top + y) * WIDTH + left + width), y * width)
  }
  return { left, top, width, height, data }
}

const post = Float64Array.of(POST[0], 0, POST[1], 0, POST[1], HEIGHT, POST[0], HEIGHT)
const [w, h] = [FIGURE.width / 2 - 3, FIGURE.height / 2 - 3]
const outline = [
  START[0] - w,
  START[1] - h,
  START[0] + w,
  START[1] - h,
  START[0] + w,
  START[1] + h,
  START[0] - w,
  START[1] + h,
]

async function tracked(hidden: readonly Float64Array[]) {
  const films = new Map<number, LumaImage>()
  const run: TrackRun = {
    surface: 'plane',
    model: 'similarity',
    search: [-40, -40, 40, 40],
    texture: 'all',
    density: 1,
    preprocessing: { channel: 'luma', blur: 0, sharpen: 0, localContrast: false },
    patterns: [{ frame: 0, outlines: [outline], hidden: [], matrix: identity() }],
    steps: Array.from({ length: FRAMES - 1 }, (_, i) => ({ frame: i + 1, pattern: 0, hidden })),
    patternUpdate: { when: 'first', below: 0.9 },
    minimumMatch: 0.7,
    mostReturnError: null,
    known: [],
  }
  const samples: TrackedFrame[] = []
  const pictures = (frame: number, box: Box) => {
    if (!films.has(frame)) films.set(frame, frameOf(frame))
    return Promise.resolve(stretchOf(films.get(frame)!, box))
  }
  const [end] = await runTogether([run], pictures, (_, sample) => samples.push(sample) > 0)
  return { samples, end: end as LostEnd }
}

function missOf({ frame, matrix }: TrackedFrame): number {
  const [p, q] = [applyToPoint(matrix, START[0], START[1]), applyToPoint(pathAt(frame), START[0], START[1])]
  return Math.hypot(p[0]! - q[0]!, p[1]! - q[1]!)
}

describe('a figure that passes behind a post, with another like it beyond', () => {
  it('is lost while the post, left out, hides most of it, never on the other one, and is found again', async () => {
    const { samples, end } = await tracked([post])
    expect(end.reason).toBe('hidden')
    expect(Math.max(...samples.map(missOf))).toBeLessThan(1.5)
    // Until most of it is behind the post: its middle is then about 10 px from the post's edge.
    expect(samples.length).toBeGreaterThan(24)
    const again = end.again!
    expect(again.frame).toBeGreaterThan(end.frame)
    expect(missOf(again)).toBeLessThan(1)
  })

  it('is lost, not led astray, by a post that nobody has left out', async () => {
    const { samples, end } = await tracked([])
    expect(end.reason).not.toBe('finished')
    expect(Math.max(...samples.map(missOf))).toBeLessThan(2.5)
  })
})
