import { availableParallelism } from 'node:os'
import { errorOfTask } from '../errors'
import { answerOf, threadPool } from '../threads'
import type { FrameAnswer, FrameTask } from './frameThread'
import type { SharedWork } from './sharedWork'
import type { ManifestFile } from './write'

const THREADS = availableParallelism()

/** They write the next delivery too. */
let pool: ReturnType<typeof threadPool<FrameTask, FrameAnswer>> | null = null

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
  pool ??= threadPool<FrameTask, FrameAnswer>(new URL('./frameThread.ts', import.meta.url), { maxThreads: THREADS })
  const answer = await answerOf(pool, task, { signal })
  if ('failure' in answer) throw errorOfTask(answer.failure)
  return answer.files
}
