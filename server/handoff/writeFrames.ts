import { availableParallelism } from 'node:os'
import Piscina from 'piscina'
import type { FrameWork, ManifestFile } from './write'

/**
 * Writes all frames of a hand-off, spread over the machine's cores; frames that an earlier try has left whole are kept.
 *
 * @param onFrame  called after each frame, in no order; when it throws, the work ends and the error is thrown on
 * @returns the files in the order of the frames
 */
export async function writeFrames(
  work: FrameWork,
  onFrame: (done: number, total: number) => Promise<void>,
): Promise<ManifestFile[]> {
  const [first, last] = work.payload.range
  const frames = Array.from({ length: last - first + 1 }, (_, i) => first + i)
  const threads = Math.min(availableParallelism(), frames.length)
  const pool = new Piscina<number, ManifestFile[]>({
    filename: new URL('./frameThread.ts', import.meta.url).href,
    execArgv: ['--import', 'tsx'],
    minThreads: threads,
    maxThreads: threads,
    workerData: work,
  })
  try {
    let next = 0
    let done = 0
    const files: ManifestFile[][] = []
    // Each lane hands out one frame at a time, so that a cancelled job has nothing queued behind it.
    const lane = async () => {
      while (next < frames.length) {
        const index = next++
        files[index] = await pool.run(frames[index]!)
        await onFrame(++done, frames.length)
      }
    }
    await Promise.all(Array.from({ length: threads }, lane))
    return files.flat()
  } finally {
    await pool.destroy()
  }
}
