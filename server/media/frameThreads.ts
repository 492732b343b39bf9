import { availableParallelism } from 'node:os'
import { errorOfTask, type TaskFailure } from '../errors'
import { answerOf, threadPool } from '../threads'
import type { FrameTask } from './frameTask'

let pool: ReturnType<typeof threadPool<FrameTask, TaskFailure | null>> | null = null

/** As many frames as this machine has cores. */
export const FRAMES_AT_ONCE = availableParallelism()

/**
 * Makes the files of a frame in a thread of its own; a decoded picture is handed over to it.
 *
 * @throws Problem 422 naming the file, or what the disk says; the signal's reason when the work was ended
 */
export async function makeFrameInThread(task: FrameTask, signal?: AbortSignal): Promise<void> {
  pool ??= threadPool<FrameTask, TaskFailure | null>(new URL('./frameThread.ts', import.meta.url), { maxThreads: FRAMES_AT_ONCE }) // prettier-ignore
  signal?.throwIfAborted()
  const transferList = 'rgb' in task.source ? [task.source.rgb.buffer as ArrayBuffer] : []
  const failure = await answerOf(pool, task, { signal, transferList })
  if (failure) throw errorOfTask(failure)
}
