import { spawnSync } from 'node:child_process'
import sharp from 'sharp'
import { beforeAll, describe, expect, it } from 'vitest'
import { blurred, type LumaImage } from '../image'
import { numbersFrom } from '../testing'
import { estimateShutter, movingEdgeAt } from './shutter'
import { softnessAlong, softnessOf, type EdgePlace } from './softness'

/**
 * A photographed thing (board.jpg of Debian's package opencv-doc) before a light ground, moved along a known path while the shutter is open, blurred by a known
 * Gaussian, with grain, as H.264 keeps it. The truth is what was done to it.
 */
const PHOTOGRAPHS = process.env.TENDER_LASSO_PHOTOGRAPHS ?? '/usr/share/doc/opencv-doc/examples/data'
const [WIDTH, HEIGHT] = [420, 320]
/** Pixels of the picture are made of so many along each axis. */
const FINE = 2
const MOMENTS = 24
/** The board is turned by 13 degrees about the middle of the picture, and so large. */
const TURN = (13 * Math.PI) / 180
const [HALF_WIDTH, HALF_HEIGHT] = [120, 90]
const GROUND = 0.85
const GRAIN = 2 / 255

let board: { data: Buffer; width: number }
beforeAll(async () => {
  const { data, info } = await sharp(`${PHOTOGRAPHS}/board.jpg`).greyscale().raw().toBuffer({ resolveWithObject: true })
  board = { data, width: info.width }
})

interface Taken {
  sigma: number
  /** Pixels that it goes a frame, and degrees of the shutter. */
  velocity: readonly [number, number]
  shutter: number
}

function picture({ sigma, velocity, shutter }: Taken): LumaImage {
  const [width, height] = [WIDTH * FINE, HEIGHT * FINE]
  const fine = new Float32Array(width * height)
  const [c, s] = [Math.cos(TURN), Math.sin(TURN)]
  // What stands still is the same at every moment.
  const moments = velocity[0] === 0 && velocity[1] === 0 ? 1 : MOMENTS
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      let sum = 0
      for (let k = 0; k < moments; k++) {
        const share = ((k + 0.5) / moments - 0.5) * (shutter / 360)
        const dx = (x + 0.5) / FINE - WIDTH / 2 - velocity[0] * share
        const dy = (y + 0.5) / FINE - HEIGHT / 2 - velocity[1] * share
        const u = c * dx + s * dy
        const v = -s * dx + c * dy
        const isBoard = Math.abs(u) < HALF_WIDTH && Math.abs(v) < HALF_HEIGHT
        sum += isBoard ? board.data[Math.floor(240 + v) * board.width + Math.floor(320 + u)]! / 255 : GROUND
      }
      fine[y * width + x] = sum / moments
    }
  }
  const soft = blurred({ left: 0, top: 0, width, height, data: fine }, FINE * sigma)
  const random = numbersFrom(7)
  const data = Float32Array.from({ length: WIDTH * HEIGHT }, (_, i) => {
    const at = FINE * Math.floor(i / WIDTH) * width + FINE * (i % WIDTH)
    let noise = -6
    for (let n = 0; n < 12; n++) noise += random()
    return (
      (soft.data[at]! + soft.data[at + 1]! + soft.data[at + width]! + soft.data[at + width + 1]!) / 4 + GRAIN * noise
    )
  })
  return { left: 0, top: 0, width: WIDTH, height: HEIGHT, data: throughMovie(data) }
}

/** The picture as a movie keeps it: 8 bit, H.264. */
function throughMovie(data: Float32Array): Float32Array {
  const size = ['-f', 'rawvideo', '-pix_fmt', 'gray', '-s', `${WIDTH}x${HEIGHT}`]
  const bytes = Uint8Array.from(data, (value) => Math.round(255 * Math.min(1, Math.max(0, value))))
  const ffmpeg = (args: string[], input: Uint8Array) => {
    const { stdout, stderr, status } = spawnSync('ffmpeg', ['-v', 'error', ...args, '-'], { input, maxBuffer: 1e8 })
    if (status !== 0) throw new Error(stderr.toString())
    return stdout
  }
  const movie = ffmpeg([...size, '-i', '-', '-c:v', 'libx264', '-crf', '14', '-pix_fmt', 'yuv444p', '-color_range', 'pc', '-f', 'matroska'], bytes) // prettier-ignore
  return Float32Array.from(ffmpeg(['-i', '-', '-f', 'rawvideo', '-pix_fmt', 'gray'], movie), (value) => value / 255)
}

/** Places along the four sides of the board, away from its corners, with how far each moves along its normal in so many degrees. */
function placesOf(velocity: readonly [number, number], degrees: number): EdgePlace[] {
  const [c, s] = [Math.cos(TURN), Math.sin(TURN)]
  const sides = [[1, 0, HALF_WIDTH, HALF_HEIGHT], [-1, 0, HALF_WIDTH, HALF_HEIGHT], [0, 1, HALF_HEIGHT, HALF_WIDTH], [0, -1, HALF_HEIGHT, HALF_WIDTH]] as const // prettier-ignore
  return sides.flatMap(([nu, nv, out, half]) =>
    Array.from({ length: Math.floor((2 * half - 40) / 6) }, (_, i): EdgePlace => {
      const along = -half + 20 + 6 * i
      const [u, v] = [nu * out + nv * along, nv * out + nu * along]
      const [normalX, normalY] = [c * nu - s * nv, s * nu + c * nv]
      const sweep = (Math.abs(velocity[0] * normalX + velocity[1] * normalY) * degrees) / 360
      return { x: WIDTH / 2 + c * u - s * v, y: HEIGHT / 2 + s * u + c * v, normalX, normalY, sweep, turn: 0, at: 0 }
    }),
  )
}

describe('a photographed edge', () => {
  it.each([1, 1.5, 2.5])(
    'blurred by %d px is found as soft, to a tenth, still and with 8 px of motion blur',
    (sigma) => {
      for (const velocity of [[0, 0], [14, 8]] as const) {
      const image = picture({ sigma, velocity, shutter: 180 })
      const measures = softnessAlong([image], placesOf(velocity, 180))
      const found = softnessOf(measures)!
      expect(Math.abs(found.sigma - sigma)).toBeLessThan(0.1 * sigma)
      expect(found.clear / found.all).toBeGreaterThan(0.6)
    } // prettier-ignore
    },
  )

  it.each([90, 180, 270])('taken with a shutter of %d degrees says so, to a tenth or 15 degrees', (shutter) => {
    const velocity = [16, 9] as const
    const image = picture({ sigma: 1, velocity, shutter })
    const edges = placesOf(velocity, 360).flatMap((place) => movingEdgeAt([image], place) ?? [])
    // Others of the same picture stand still: they say how soft it is.
    const still = picture({ sigma: 1, velocity: [0, 0], shutter })
    edges.push(...placesOf([0, 0], 360).flatMap((place) => movingEdgeAt([still], place) ?? []))
    const found = estimateShutter(edges)!
    expect(Math.abs(found.angle - shutter)).toBeLessThan(Math.max(0.1 * shutter, 15))
  })
})
