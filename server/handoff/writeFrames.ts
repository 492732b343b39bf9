import { availableParallelism } from 'node:os'
import Piscina from 'piscina'
import type { FrameWork, ManifestFile } from './write'

/** Threads without work are kept so long: a hand-off's next chunk uses them again. */
const IDLE_MS = 8000

/** Writes frames of one hand-off, spread over the machine's cores. */
class FramesWriter {
  private readonly pool: Piscina<number, ManifestFile[]>
  private busy = 0
  private idle: ReturnType<typeof setTimeout> | undefined

  constructor(
    work: FrameWork,
    private readonly onIdle: () => void,
  ) {
    const threads = availableParallelism()
    this.pool = new Piscina<number, ManifestFile[]>({
      filename: new URL('./frameThread.ts', import.meta.url).href,
      execArgv: ['--import', 'tsx'],
      minThreads: threads,
      maxThreads: threads,
      workerData: work,
    })
  }

  /**
   * Writes some frames; those that an earlier try has left whole are kept.
   *
   * @param onFrame  called after each frame, in no order; when it throws, the work ends and the error is thrown on
   * @returns the files in the order of the frames
   */
  async write(
    frames: readonly number[],
    onFrame: (done: number) => Promise<void>,
    signal?: AbortSignal,
  ): Promise<ManifestFile[]> {
    clearTimeout(this.idle)
    this.busy++
    try {
      let next = 0
      let done = 0
      const files: ManifestFile[][] = []
      // Each lane hands out one frame at a time, so that a cancelled job has nothing queued behind it.
      const lane = async () => {
        while (next < frames.length) {
          signal?.throwIfAborted()
          const index = next++
          files[index] = await this.pool.run(frames[index]!, { signal })
          await onFrame(++done)
        }
      }
      const ended = await Promise.allSettled(Array.from({ length: this.pool.maxThreads }, lane))
      for (const one of ended) if (one.status === 'rejected') throw one.reason
      return files.flat()
    } finally {
      if (--this.busy === 0) this.idle = setTimeout(() => void this.close(), IDLE_MS)
    }
  }

  async close(): Promise<void> {
    clearTimeout(this.idle)
    this.onIdle()
    await this.pool.destroy()
  }
}

const writers = new Map<string, FramesWriter>()

/** The one writer of a hand-off in this process; it ends when it has had nothing to do for a while. */
export function framesWriter(jobId: string, work: FrameWork): FramesWriter {
  let writer = writers.get(jobId)
  if (!writer) writers.set(jobId, (writer = new FramesWriter(work, () => writers.delete(jobId))))
  return writer
}
