import sharp from 'sharp'
import { applyToPoint, homographyOf, invert, type Matrix3 } from '@tender-lasso/core/geometry'
import type { LumaImage } from '@tender-lasso/core/image'

export const PLANE_FRAMES = 60
const CENTRE = [950, 555] as const
/** Stretch of the 2048 x 1152 plate in which the plane stays. */
const CROP = { left: 480, top: 200, width: 940, height: 710 }
/** Grain: sigma of 255. */
const GRAIN = 2
/** Exposure falls by this share over the sequence. */
const DRIFT = 0.15

/** A region of the plane on frame 0. */
export function planeRegion(width: number, height: number): number[] {
  const [x, y] = CENTRE
  const [left, top, right, bottom] = [x - width / 2, y - height / 2, x + width / 2, y + height / 2]
  return [left, top, right, top, right, bottom, left, bottom]
}

/** True motion from frame 0: pan of up to 13 px a frame, zoom, turn and perspective. */
export function planeMotion(i: number): Matrix3 {
  const wave = (period: number, phase = 0) => Math.sin((2 * Math.PI * i) / period + phase) - Math.sin(phase)
  return homographyOf(
    [
      CENTRE[0] + 100 * wave(49),
      CENTRE[1] + 45 * wave(37, 0.6),
      0.06 * wave(53, 0.3),
      0.07 * wave(61),
      0.05 * wave(61, 0.2),
      0.02 * wave(43),
      1.2e-4 * wave(47),
      1e-4 * wave(41),
    ],
    CENTRE[0],
    CENTRE[1],
  )
}

export interface Bar {
  /** Plate pixels. */
  left: number
  right: number
}

/** A bar that crosses a region of this width and hides 30 % of it, once over the sequence. */
export function barOn(i: number, width: number): Bar {
  const wide = 0.3 * width
  const left = CENTRE[0] - 0.75 * width - wide + ((1.5 * width + 2 * wide) * i) / (PLANE_FRAMES - 1)
  return { left, right: left + wide }
}

/** Value 0..1 at any place of the plane. */
export type Surface = (x: number, y: number) => number

/** A photograph (Debian's package opencv-doc) between its pixels by Catmull & Rom's cubic, mirrored beyond its edges. */
export async function photograph(name: string): Promise<Surface> {
  const file = `/usr/share/doc/opencv-doc/examples/data/${name}.jpg`
  const { data, info } = await sharp(file).greyscale().raw().toBuffer({ resolveWithObject: true })
  const { width, height, channels } = info
  const mirrored = (i: number, size: number) => {
    const k = ((i % (2 * size)) + 2 * size) % (2 * size)
    return k < size ? k : 2 * size - 1 - k
  }
  const weights = (t: number) => [
    ((2 - t) * t - 1) * t * 0.5,
    ((3 * t - 5) * t * t + 2) * 0.5,
    ((4 - 3 * t) * t + 1) * t * 0.5,
    (t - 1) * t * t * 0.5,
  ]
  return (x, y) => {
    const [u, v] = [x - CENTRE[0] + width / 2 - 0.5, y - CENTRE[1] + height / 2 - 0.5]
    const [i, j] = [Math.floor(u), Math.floor(v)]
    const [wx, wy] = [weights(u - i), weights(v - j)]
    let sum = 0
    for (let b = 0; b < 4; b++) {
      const row = mirrored(j + b - 1, height) * width
      for (let a = 0; a < 4; a++) sum += wx[a]! * wy[b]! * data[(row + mirrored(i + a - 1, width)) * channels]!
    }
    return sum / 255
  }
}

/** A stretch of the plate as it shows a surface under a motion. */
export function surfaceUnder(
  surface: Surface,
  motion: Matrix3,
  box: Omit<LumaImage, 'data'>,
  grain: () => number,
): LumaImage {
  const back = invert(motion)
  const data = new Float32Array(box.width * box.height)
  const place = [0, 0]
  for (let y = 0; y < box.height; y++) {
    for (let x = 0; x < box.width; x++) {
      applyToPoint(back, box.left + x + 0.5, box.top + y + 0.5, place)
      data[y * box.width + x] = surface(place[0]!, place[1]!) + grain()
    }
  }
  return { ...box, data }
}

/** Near enough to normal for grain: the sum of four uniform numbers (Park & Miller's), mean 0, deviation 1. */
export function normalDeviates(seed: number): () => number {
  let state = seed
  const uniform = () => (state = (state * 16807) % 2147483647) / 2147483647
  return () => (uniform() + uniform() + uniform() + uniform() - 2) * Math.sqrt(3)
}

/** All frames, with the bar when a region's width is given. */
export async function planeFrames(barFor: number | null): Promise<LumaImage[]> {
  const surface = await photograph('building')
  const normal = normalDeviates(4711)
  const grain = () => (normal() * GRAIN) / 255
  return Array.from({ length: PLANE_FRAMES }, (_, i) => {
    const back = invert(planeMotion(i))
    const bar = barFor === null ? null : barOn(i, barFor)
    const gain = 1 - (DRIFT * i) / (PLANE_FRAMES - 1)
    const data = new Float32Array(CROP.width * CROP.height)
    const place = [0, 0]
    for (let y = 0; y < CROP.height; y++) {
      for (let x = 0; x < CROP.width; x++) {
        const [px, py] = [CROP.left + x + 0.5, CROP.top + y + 0.5]
        applyToPoint(back, px, py, place)
        const isBar = bar !== null && px > bar.left && px < bar.right
        const value = isBar
          ? 0.45 + 0.3 * Math.sin((px - bar.left) * 0.55) * Math.sin(py * 0.31 + (px - bar.left) * 0.13)
          : surface(place[0]!, place[1]!)
        data[y * CROP.width + x] = Math.min(1, Math.max(0, gain * value + grain()))
      }
    }
    return { ...CROP, data }
  })
}

/** The stretch of a frame that a box asks for, as a new picture. */
export function cut(image: LumaImage, wanted: { left: number; top: number; right: number; bottom: number }): LumaImage {
  const left = Math.max(image.left, wanted.left)
  const top = Math.max(image.top, wanted.top)
  const width = Math.max(0, Math.min(image.left + image.width, wanted.right) - left)
  const height = Math.max(0, Math.min(image.top + image.height, wanted.bottom) - top)
  const data = new Float32Array(width * height)
  for (let y = 0; y < height; y++) {
    const from = (top + y - image.top) * image.width + left - image.left
    data.set(image.data.subarray(from, from + width), y * width)
  }
  return { left, top, width, height, data }
}
