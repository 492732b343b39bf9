import { availableParallelism } from 'node:os'
import { Problem } from '../errors'
import { threadPool } from '../threads'
import { NewestFirst } from './newestFirst'
import type { LiveAnswer, LiveTask } from './task'

/** What is told while frames are made. */
const IN_TURN: ReadonlySet<LiveTask['what']> = new Set(['versions'])

/** Threads that make frames, one a core, and one that tells which version they are, so that this never waits for a frame. */
export interface LiveThreads {
  /** Never rejects: what goes wrong is an answer as well, since an error of one bundle is unknown in another. */
  ask(task: LiveTask): Promise<LiveAnswer>
  /** Starts a thread for frames if there is none: the first one is soon asked for. */
  warmUp(): void
  close(): Promise<void>
}

const pool = (maxThreads: number) =>
  threadPool<LiveTask, LiveAnswer>(new URL('./liveThread.ts', import.meta.url), {
    maxThreads,
    taskQueue: new NewestFirst(),
  })

export function newLiveThreads(): LiveThreads {
  const renderers = pool(availableParallelism())
  const ledger = pool(1)
  return {
    ask: (task) =>
      (IN_TURN.has(task.what) ? ledger : renderers)
        .run(task)
        .catch((error: unknown) => ({ failure: { ...INTERRUPTED, message: `${INTERRUPTED.message} (${String(error)})` } })), // prettier-ignore
    warmUp() {
      if (renderers.threads.length === 0) void renderers.run({ what: 'nothing' }).catch(() => undefined)
    },
    close: async () => void (await Promise.all([renderers.destroy(), ledger.destroy()])),
  }
}

/** Of a thread that died. */
export const INTERRUPTED = { status: 503, code: 'live-interrupted', message: 'The live hand-off was interrupted: ask again' } // prettier-ignore

// Threads are started from where the files are, which the bundles of routes are not: the web server does it for them.
const holder = globalThis as unknown as { tenderLassoLiveThreads?: LiveThreads }

export function startLiveThreads(): LiveThreads {
  return (holder.tenderLassoLiveThreads ??= newLiveThreads())
}

/** @throws Problem 503 where they were not started */
export function liveThreads(): LiveThreads {
  if (!holder.tenderLassoLiveThreads) throw new Problem(503, 'no-live-handoff', 'The live hand-off does not run')
  return holder.tenderLassoLiveThreads
}
