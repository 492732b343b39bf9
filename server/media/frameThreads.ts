import { availableParallelism } from 'node:os'
import Piscina from 'piscina'
import { errorOfTask, type TaskFailure } from '../errors'
import type { FrameTask } from './frameTask'

/** Threads without work are kept so long: starting one takes a second. */
const IDLE_MS = 120_000

let pool: Piscina<FrameTask, TaskFailure | null> | null = null

/** As many frames as this machine has cores. */
export const FRAMES_AT_ONCE = availableParallelism()

/**
 * Makes the files of a frame in a thread of its own; a decoded picture is handed over to it.
 *
 * @throws Problem 422 naming the file, or what the disk says; the signal's reason when the work was ended
 */
export async function makeFrameInThread(task: FrameTask, signal?: AbortSignal): Promise<void> {
  pool ??= new Piscina<FrameTask, TaskFailure | null>({
    filename: new URL('./frameThread.ts', import.meta.url).href,
    execArgv: ['--import', 'tsx'],
    minThreads: 0,
    maxThreads: FRAMES_AT_ONCE,
    idleTimeout: IDLE_MS,
  })
  signal?.throwIfAborted()
  const transferList = 'rgb' in task.source ? [task.source.rgb.buffer as ArrayBuffer] : []
  const failure = await pool.run(task, { signal, transferList }).catch((error: unknown) => {
    signal?.throwIfAborted()
    throw error
  })
  if (failure) throw errorOfTask(failure)
}
