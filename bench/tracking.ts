import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { applyToPoint, homographyFromPoints, identity, invert, type Matrix3 } from '@tender-lasso/core/geometry'
import type { LumaImage } from '@tender-lasso/core/image'
import { runTrack, type TrackRun } from '@tender-lasso/core/tracking'
import {
  decodeTile,
  eachTile,
  encodeAnalysisFrame,
  pasteTile,
  readAnalysisIndex,
  stretchUnder,
  tileRange,
  tileSize,
  tilesUnder,
} from '@tender-lasso/formats/analysis'
import { median, type Benchmark } from './benchmark'
import { cornerError } from './cornerError'
import { EccTracker, matOfLuma } from './ecc'
import { loadOpenCv } from './openCv'

const WIDTH = 2048
const HEIGHT = 1152
const FRAMES = 12
const REGION = [700, 380, 1200, 380, 1200, 730, 700, 730]

/** A textured plane known everywhere, so that the truth has no interpolation in it. */
function texture(x: number, y: number): number {
  let sum = 0
  for (let k = 0; k < 16; k++) {
    const angle = k * 2.39996
    const frequency = 0.02 + 0.022 * k
    sum += Math.sin(frequency * (x * Math.cos(angle) + y * Math.sin(angle)) + k * 1.7) / (1 + 0.3 * k)
  }
  return 0.5 + 0.09 * sum
}

/** Smooth hand-held motion of up to about 6 px a frame, with turn and perspective. */
function truthAt(i: number): Matrix3 {
  const to = REGION.map((value, k) => {
    const own = k * 1.3
    return value + (k % 2 ? 3 : 5) * i + 6 * Math.sin(i / 4 + own) - 6 * Math.sin(own)
  })
  return homographyFromPoints(REGION, to)
}

function greyPicture(plane: Uint16Array) {
  const rgb = Uint16Array.from({ length: 3 * plane.length }, (_, i) => plane[Math.floor(i / 3)]!)
  return { rgb, shown: rgb, width: WIDTH, height: HEIGHT }
}

function framePlane(i: number): Uint16Array {
  const back = invert(truthAt(i))
  const out = new Uint16Array(WIDTH * HEIGHT)
  const p = [0, 0]
  let state = 12345 + i
  const uniform = () => (state = (state * 16807) % 2147483647) / 2147483647
  for (let y = 0; y < HEIGHT; y++) {
    for (let x = 0; x < WIDTH; x++) {
      applyToPoint(back, x + 0.5, y + 0.5, p)
      const grain = ((uniform() + uniform() + uniform() + uniform() - 2) * Math.sqrt(3) * 2) / 255
      out[y * WIDTH + x] = Math.min(1, Math.max(0, texture(p[0]!, p[1]!) + grain)) * 65535
    }
  }
  return out
}

const file = (folder: string, i: number) => path.join(folder, `${i}.tlaf`)

/** A box of a frame, its tiles read from disk and unpacked, as the browser's worker does over HTTP. */
function readBox(
  folder: string,
  i: number,
  box: { left: number; top: number; right: number; bottom: number },
): LumaImage {
  const bytes = readFileSync(file(folder, i))
  const index = readAnalysisIndex(bytes)
  const image: LumaImage = stretchUnder(index, box)
  for (const [column, row] of eachTile(tilesUnder(index, box)!)) {
    const { offset, length } = tileRange(index, 0, column, row)
    const tile = decodeTile(bytes.subarray(offset, offset + length), tileSize(index, column, row))
    pasteTile(index, tile, column, row, image)
  }
  return image
}

/** Enhanced correlation of the same crop, to the reference, from the previous frame's warp. Times and errors a frame. */
async function openCv(folder: string): Promise<{ times: number[]; errors: number[] }> {
  const { cv } = await loadOpenCv()
  const crop = { left: 600, top: 280, right: 1400, bottom: 900 }
  const region = readBox(folder, 0, crop)
  const ecc = new EccTracker(cv, region, REGION, crop, { model: 'perspective', iterations: 50 })
  const times: number[] = []
  const errors: number[] = []
  for (let i = 1; i < FRAMES; i++) {
    const start = performance.now()
    const current = matOfLuma(cv, readBox(folder, i, crop))
    const found = ecc.align(current)
    times.push(performance.now() - start)
    current.delete()
    if (!found) throw new Error(`findTransformECC has lost the plane on frame ${i}`)
    errors.push(cornerError(found, truthAt(i), REGION))
  }
  return { times, errors }
}

export const planarTrack: Benchmark = {
  name: 'planar-track',
  goal: 1,
  better: 'less',
  async run() {
    const folder = mkdtempSync(path.join(tmpdir(), 'tender-lasso-bench-'))
    try {
      for (let i = 0; i < FRAMES; i++) {
        writeFileSync(file(folder, i), encodeAnalysisFrame(greyPicture(framePlane(i))))
      }
      const times: number[] = []
      const errors: number[] = []
      const run: TrackRun = {
        surface: 'plane',
        model: 'perspective',
        search: [0, 0, 0, 0],
        texture: 'all',
        density: 1,
        preprocessing: { channel: 'luma', blur: 0, sharpen: 0, localContrast: false },
        patterns: [{ frame: 0, outlines: [REGION], hidden: [], matrix: identity() }],
        steps: Array.from({ length: FRAMES - 1 }, (_, i) => ({ frame: i + 1, pattern: 0, hidden: [] })),
        patternUpdate: { when: 'first', below: 0 },
        minimumMatch: 0.5,
        mostReturnError: null,
        known: [],
      }
      let start = 0
      await runTrack(
        run,
        (i, box) => {
          if (i > 0 && start === 0) start = performance.now()
          return Promise.resolve(readBox(folder, i, box))
        },
        ({ frame, matrix }) => {
          const now = performance.now()
          times.push(now - start)
          start = now
          errors.push(cornerError(matrix, truthAt(frame), REGION))
          return true
        },
      )
      const theirs = await openCv(folder)
      const ours = median(times)
      return {
        value: ours / median(theirs.times),
        unit: 'x OpenCV ECC',
        notes:
          `${ours.toFixed(1)} ms a frame, corner error ${median(errors).toFixed(3)} px (worst ${Math.max(...errors).toFixed(3)}); ` +
          `findTransformECC WASM ${median(theirs.times).toFixed(1)} ms, ${median(theirs.errors).toFixed(3)} px`,
      }
    } finally {
      rmSync(folder, { recursive: true, force: true })
    }
  },
}
