import { isDatabaseAway } from '../database'
import { log } from '../log'
import { Problem } from '../errors'
import { readSettings } from '../settings'
import { wordsOfFailure } from '../store'
import type { JobKind } from '../database'
import { claimChunk, failJob, finishChunk, releaseChunk, renewLease, type Claim } from './leases'
import { workerGone, workerSeen } from './workers'

/** What a worker does with a chunk. */
export interface ChunkWork {
  claim: Claim
  /** Aborted when the job was cancelled, the lease was lost, or the worker is told to end. */
  signal: AbortSignal
  /** Frames of the chunk made so far. @throws when the work is to stop */
  progress(doneFrames: number): Promise<void>
}

/** Makes the frames of a chunk, or takes the last step; what it returns is kept with the chunk. */
export type ChunkHandler = (work: ChunkWork) => Promise<unknown>

const LOOK_MS = 400
const RENEW_MS = 1000
const PROGRESS_MS = 300
const MOST_PAUSE_MS = 5000
/** Chunks of a worker at once: one heavy picture does not stop what else waits. */
const LANES = 2

/** Takes chunks and makes them until it is told to end; then gives back what it has. Nothing that fails ends it. */
export async function workUntil(
  stop: AbortSignal,
  worker: string,
  handlers: Record<JobKind, ChunkHandler>,
): Promise<void> {
  const held = new Map<number, string>()
  const lane = async (number: number) => {
    let pause = LOOK_MS
    while (!stop.aborted) {
      try {
        const claim = await claimChunk(worker, [...held.values()])
        pause = LOOK_MS
        if (claim) {
          held.set(number, claim.jobId)
          await runChunk(claim, handlers[claim.kind], stop)
          continue
        }
      } catch (error) {
        // A database that is away comes back: the pauses grow, the worker stays.
        log.error({ err: error }, 'a chunk of a job could not be taken')
        pause = Math.min(MOST_PAUSE_MS, pause * 2)
      } finally {
        held.delete(number)
      }
      await pausing(pause, stop)
    }
  }
  const tell = async () => {
    while (!stop.aborted) {
      await workerSeen(worker).catch(() => undefined)
      await pausing(2000, stop)
    }
    await workerGone(worker).catch(() => undefined)
  }
  await Promise.all([tell(), ...Array.from({ length: LANES }, (_, i) => lane(i))])
}

async function runChunk(claim: Claim, handler: ChunkHandler, stop: AbortSignal) {
  const ending = new AbortController()
  const onStop = () => ending.abort(new Error('the worker is told to end'))
  stop.addEventListener('abort', onStop)
  let done = 0
  let stored = 0
  let renewedAt = Date.now()
  const renew = async () => {
    stored = Date.now()
    try {
      if (await renewLease(claim, done)) renewedAt = Date.now()
      else ending.abort(new Error('the chunk is not this worker\'s any more')) // prettier-ignore
    } catch {
      // While the database is away the lease holds as long as it was given; then somebody else may have the chunk.
      if (Date.now() - renewedAt > readSettings().leaseSeconds * 1000) ending.abort(new Error('the lease ran out'))
    }
  }
  const timer = setInterval(() => void renew(), RENEW_MS)
  try {
    const result = await handler({
      claim,
      signal: ending.signal,
      async progress(doneFrames) {
        done = doneFrames
        if (Date.now() - stored > PROGRESS_MS) await renew()
        ending.signal.throwIfAborted()
      },
    })
    await untilStored(() => finishChunk(claim, done, result), renewedAt)
  } catch (error) {
    // Whoever waits for the job's end, to delete its shot for instance, need not wait for the lease's.
    if (ending.signal.aborted) await releaseChunk(claim).catch(() => undefined)
    else if (isDatabaseAway(error)) {
      // No fault of the job's: whoever is there when the database is back goes on with it.
      await releaseChunk(claim).catch(() => undefined)
      throw error
    } else await untilStored(() => failJob(claim, failureOf(error)), renewedAt)
  } finally {
    clearInterval(timer)
    stop.removeEventListener('abort', onStop)
  }
}

function failureOf(error: unknown): string {
  if (!(error instanceof Problem)) log.error({ err: error }, 'a chunk of a job failed unforeseen')
  return error instanceof Problem ? error.message : wordsOfFailure(error)
}

/** Tries again while the database is away, as long as the lease may hold; after that the chunk is anybody's. */
async function untilStored<Result>(store: () => Promise<Result>, renewedAt: number): Promise<void> {
  for (;;) {
    try {
      await store()
      return
    } catch (error) {
      if (Date.now() - renewedAt > readSettings().leaseSeconds * 1000) throw error
      await new Promise((resolve) => setTimeout(resolve, LOOK_MS))
    }
  }
}

function pausing(milliseconds: number, stop: AbortSignal): Promise<void> {
  return new Promise((resolve) => {
    if (stop.aborted) return resolve()
    const end = () => {
      clearTimeout(timer)
      stop.removeEventListener('abort', end)
      resolve()
    }
    const timer = setTimeout(end, milliseconds)
    stop.addEventListener('abort', end)
  })
}
