import { once } from 'node:events'
import { Worker } from 'node:worker_threads'
import type { LumaImage } from '@tender-lasso/core/image'
import { dealtByPlace, type TrackRun } from '@tender-lasso/core/tracking'
import { median } from './benchmark'
import type { PointsWork } from './pointsWorker'

const THREADS = 2
const PASSES = 5

/** A thread does not read TypeScript by itself. */
const TYPESCRIPT_FIRST = `import('tsx/esm/api').then(({ register }) => {
  register()
  return import(${JSON.stringify(new URL('./pointsWorker.ts', import.meta.url).href)})
})`

/**
 * Frames of all points a second over two threads, each with the points of one side as the application deals them out:
 * median of several passes. The pictures are in memory.
 */
export async function pointsTogether(frames: readonly LumaImage[], runs: readonly TrackRun[]): Promise<number> {
  const shared = frames.map((frame) => {
    const data = new Float32Array(new SharedArrayBuffer(frame.data.byteLength))
    data.set(frame.data)
    return { ...frame, data }
  })
  const workers = dealtByPlace(runs, THREADS).map((share) => {
    const workerData: PointsWork = { frames: shared, runs: share.map((i) => runs[i]!) }
    return new Worker(TYPESCRIPT_FIRST, { workerData, eval: true })
  })
  const pass = async () => {
    const start = performance.now()
    const found = await Promise.all(
      workers.map(async (worker) => {
        const answer = once(worker, 'message')
        worker.postMessage('go')
        return Number((await answer)[0])
      }),
    )
    const seconds = (performance.now() - start) / 1000
    return found.reduce((sum, one) => sum + one, 0) / runs.length / seconds
  }
  // The first one finds nothing compiled.
  await pass()
  const rates: number[] = []
  for (let i = 0; i < PASSES; i++) rates.push(await pass())
  await Promise.all(workers.map((worker) => worker.terminate()))
  return median(rates)
}
