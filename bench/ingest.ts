import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { ingestMovie, ingestPictures, inspectFiles, type IngestedShot } from '@tender-lasso/server/media'
import { keepOriginal, openStore } from '@tender-lasso/server/store'
import type { Benchmark } from './benchmark'

const PICTURES = 72
const MOVIE_SECONDS = 4
/** The first frames start the threads. */
const WARM_UP = 8
const MOVIE_GOAL = 12

/** A scene with grain and some movement, as ffmpeg's own test source draws it. */
const scene = (size: string) => `testsrc2=s=${size}:r=24,noise=alls=8:allf=t`

/** Frames a second of plates read: pictures, and a movie beside them, and by how much memory grew between halves. */
export const ingest: Benchmark = {
  name: 'ingest',
  goal: 15,
  better: 'more',
  async run() {
    const folder = mkdtempSync(path.join(tmpdir(), 'tender-lasso-bench-'))
    const ffmpeg = (...args: string[]) => execFileSync('ffmpeg', ['-v', 'error', ...args], { cwd: folder })
    try {
      ffmpeg('-f', 'lavfi', '-i', scene('1280x720'), '-frames:v', `${PICTURES}`, 'p.%04d.png')
      ffmpeg('-f', 'lavfi', '-i', scene('1920x1080'), '-t', `${MOVIE_SECONDS}`, '-c:v', 'libx264', '-preset', 'fast', '-b:v', '24M', '-pix_fmt', 'yuv420p', 'm.mp4') // prettier-ignore
      const names = Array.from({ length: PICTURES }, (_, i) => `p.${String(i + 1).padStart(4, '0')}.png`)
      const pictures = await rateOf(folder, names, 'pictures')
      const movie = await rateOf(folder, ['m.mp4'], 'movie')
      const words = (what: string, { rate, growth }: typeof movie) =>
        `${what} ${rate.toFixed(1)} frames/s, memory of the second half ${(growth / 1e6).toFixed(0)} MB above the first`
      // A movie that misses its own goal misses the benchmark's.
      const value = Math.min(pictures.rate, (movie.rate * this.goal) / MOVIE_GOAL)
      return {
        value,
        unit: 'frames/s',
        notes: `${words('1280 x 720 PNG', pictures)}; ${words(`1080p H.264 (goal ${MOVIE_GOAL})`, movie)}`,
      }
    } finally {
      rmSync(folder, { recursive: true, force: true })
    }
  },
}

async function rateOf(folder: string, names: readonly string[], id: string) {
  const store = path.join(folder, id)
  const plate = await inspectFiles(names.map((name) => ({ name, path: path.join(folder, name) })))
  const sources = []
  for (const name of names) sources.push({ name, hash: await keepOriginal(openStore(store), path.join(folder, name)) })
  const [first, last] = [1001, 1000 + plate.frameCount]
  const { width, height, colourEncoding } = plate
  const shot: IngestedShot = { id, width, height, firstFrame: first, lastFrame: last, sources, colourEncoding }
  const most = [0, 0]
  let count = 0
  let start = 0
  const onFrame = () => {
    const half = 2 * count++ < plate.frameCount ? 0 : 1
    if (count === WARM_UP) start = performance.now()
    most[half] = Math.max(most[half]!, process.memoryUsage.rss())
    return Promise.resolve()
  }
  if (plate.kind === 'movie') await ingestMovie(shot, store, { onFrame })
  else {
    // As a worker does: two chunks at a time.
    const middle = (first + last) >> 1
    await Promise.all([
      ingestPictures(shot, [first, middle], store, { onFrame }),
      ingestPictures(shot, [middle + 1, last], store, { onFrame }),
    ])
  }
  const seconds = (performance.now() - start) / 1000
  return { rate: (plate.frameCount - WARM_UP) / seconds, growth: most[1]! - most[0]! }
}
