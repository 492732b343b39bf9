import { orm, type JobRow } from '../database'
import { readSettings } from '../settings'
import type { JobKind } from '../database'

/** A chunk that this worker has, until its lease runs out. */
export interface Claim {
  jobId: string
  index: number
  kind: JobKind
  shotId: string
  payload: unknown
  isFinish: boolean
  firstFrame: number
  lastFrame: number
  worker: string
}

/** After so many workers have ended over a chunk without getting on with it, its job has failed. */
const MOST_TRIES = 10

interface ClaimedRow {
  job_id: string
  index: number
  is_finish: boolean
  first_frame: number
  last_frame: number
}

/**
 * Takes the next chunk that nobody works at, by a conditional update: of two workers one gets it. A chunk whose worker died
 * is free when its lease has run out.
 *
 * @param others  jobs that this worker is at already: those of others come first, so that a slow one stops nobody
 */
export async function claimChunk(worker: string, others: readonly string[]): Promise<Claim | null> {
  const em = (await orm()).em.fork()
  const marks = others.length ? others.map(() => '?').join(',') : `''`
  const [row] = await em.execute<ClaimedRow[]>(
    `update job_chunk set worker = ?, lease_until = now() + ? * interval '1 second', tries = tries + 1
     where (job_id, index) = (
       select c.job_id, c.index from job_chunk c join job j on j.id = c.job_id
       where j.state in ('queued', 'running') and not c.is_done and c.tries < ?
         and (c.lease_until is null or c.lease_until < now())
         and (not c.is_finish or not exists
           (select 1 from job_chunk o where o.job_id = c.job_id and not o.is_finish and not o.is_done))
       order by c.job_id in (${marks}), j.created_at, c.index
       limit 1 for update of c skip locked)
     returning job_id, index, is_finish, first_frame, last_frame`,
    [worker, readSettings().leaseSeconds, MOST_TRIES, ...others],
  )
  if (!row) {
    await failWornOut()
    return null
  }
  const [job] = await em.execute<Pick<JobRow, 'kind' | 'payload'>[] & { shot_id: string }[]>(
    `update job set state = 'running' where id = ? and state in ('queued', 'running') returning kind, shot_id, payload`,
    [row.job_id],
  )
  // Cancelled in this very moment: the lease is given back.
  if (!job) {
    await em.execute(`update job_chunk set lease_until = null where job_id = ? and index = ?`, [row.job_id, row.index])
    return null
  }
  return {
    jobId: row.job_id,
    index: row.index,
    kind: job.kind,
    shotId: job.shot_id,
    payload: job.payload,
    isFinish: row.is_finish,
    firstFrame: row.first_frame,
    lastFrame: row.last_frame,
    worker,
  }
}

/** A frame that ends every worker that touches it must not do so for ever. */
async function failWornOut() {
  await (await orm()).em.fork().execute(
    `update job set state = 'failed', message = 'Its worker ended ' || c.tries || ' times over frames ' ||
       c.first_frame || ' to ' || c.last_frame || ', so it was given up'
     from job_chunk c where c.job_id = job.id and job.state in ('queued', 'running') and not c.is_done
       and c.tries >= ? and c.lease_until < now()`,
    [MOST_TRIES],
  )
}

/** Renews a lease and stores progress. False: the job has ended, or another worker has the chunk. */
export async function renewLease(claim: Claim, doneFrames: number): Promise<boolean> {
  const rows = await (await orm()).em.fork().execute<unknown[]>(
    `update job_chunk c set lease_until = now() + ? * interval '1 second', done_frames = ?,
       tries = case when ? > done_frames then 1 else tries end
     from job j where j.id = c.job_id and j.state = 'running'
       and c.job_id = ? and c.index = ? and c.worker = ? and not c.is_done returning 1`,
    [readSettings().leaseSeconds, doneFrames, doneFrames, claim.jobId, claim.index, claim.worker],
  )
  return rows.length > 0
}

/** Gives a chunk back unfinished, for anybody to take at once. */
export async function releaseChunk(claim: Claim): Promise<void> {
  await (await orm()).em.fork().execute(
    `update job_chunk set lease_until = null, worker = null, tries = greatest(0, tries - 1)
     where job_id = ? and index = ? and worker = ? and not is_done`,
    [claim.jobId, claim.index, claim.worker],
  )
}

/**
 * Marks a chunk as done, with what it made; with the last step its job is done. False: the lease was lost, and another
 * worker makes it.
 */
export async function finishChunk(claim: Claim, doneFrames: number, result: unknown): Promise<boolean> {
  return (await orm()).em.fork().transactional(async (tx) => {
    const rows = await tx.execute<unknown[]>(
      `update job_chunk set is_done = true, done_frames = ?, result = ?::jsonb, lease_until = null
       where job_id = ? and index = ? and worker = ? and not is_done returning 1`,
      [doneFrames, JSON.stringify(result ?? null), claim.jobId, claim.index, claim.worker],
    )
    if (rows.length === 0) return false
    if (claim.isFinish) {
      // As many frames as there were: a movie's head may have promised more.
      await tx.execute(
        `update job set state = 'done', message = null,
           total = (select sum(done_frames) from job_chunk where job_id = job.id) where id = ? and state = 'running'`,
        [claim.jobId],
      )
    }
    return true
  })
}

/** Ends a job that cannot go on, with words for the artist; the chunk is free for a retry. */
export async function failJob(claim: Claim, message: string): Promise<void> {
  await (await orm()).em.fork().transactional(async (tx) => {
    await tx.execute(`update job set state = 'failed', message = ? where id = ? and state = 'running'`, [
      message,
      claim.jobId,
    ])
    await tx.execute(`update job_chunk set lease_until = null where job_id = ? and index = ? and worker = ?`, [
      claim.jobId,
      claim.index,
      claim.worker,
    ])
  })
}

/** What the chunks of a job have made, in their order. */
export async function chunkResults<Result>(jobId: string): Promise<Result[]> {
  const rows = await (
    await orm()
  ).em
    .fork()
    .execute<{ result: Result }[]>(
      `select result from job_chunk where job_id = ? and is_done and not is_finish order by index`,
      [jobId],
    )
  return rows.map((row) => row.result)
}
