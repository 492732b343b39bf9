import { availableParallelism } from 'node:os'
import Piscina from 'piscina'
import { errorOfTask } from '../errors'
import type { FrameAnswer, FrameTask } from './frameThread'
import type { SharedWork } from './sharedWork'
import type { ManifestFile } from './write'

/**
 * Threads without work are kept so long, and write the next delivery too: starting one takes a second, and what a new one
 * does is slow until it is compiled.
 */
const IDLE_MS = 120_000

const THREADS = availableParallelism()

let pool: Piscina<FrameTask, FrameAnswer> | null = null

/**
 * Writes some frames of a delivery, spread over the machine's cores; those that an earlier try has left whole are kept.
 *
 * @param onFrame  called after each frame, in no order; when it throws, the work ends and the error is thrown on
 * @returns the files in the order of the frames
 * @throws Problem with what a frame could not be written for; the signal's reason when the work was ended
 */
export async function writeFrames(
  work: SharedWork,
  frames: readonly number[],
  onFrame: (done: number) => Promise<void>,
  signal?: AbortSignal,
): Promise<ManifestFile[]> {
  let next = 0
  let done = 0
  const files: ManifestFile[][] = []
  // Each lane hands out one frame at a time, so that a cancelled job has nothing queued behind it.
  const lane = async () => {
    while (next < frames.length) {
      signal?.throwIfAborted()
      const index = next++
      files[index] = await writeFrameInThread({ work, frame: frames[index]! }, signal)
      await onFrame(++done)
    }
  }
  const ended = await Promise.allSettled(Array.from({ length: THREADS }, lane))
  for (const one of ended) if (one.status === 'rejected') throw one.reason
  return files.flat()
}

async function writeFrameInThread(task: FrameTask, signal?: AbortSignal): Promise<ManifestFile[]> {
  pool ??= new Piscina<FrameTask, FrameAnswer>({
    filename: new URL('./frameThread.ts', import.meta.url).href,
    execArgv: ['--import', 'tsx'],
    minThreads: 0,
    maxThreads: THREADS,
    idleTimeout: IDLE_MS,
  })
  const answer = await pool.run(task, { signal }).catch((error: unknown) => {
    signal?.throwIfAborted()
    throw error
  })
  if ('failure' in answer) throw errorOfTask(answer.failure)
  return answer.files
}
