import type { EntityManager } from '@mikro-orm/postgresql'
import { newId } from '@tender-lasso/core/document'
import { JobChunkEntity, JobEntity, orm, type JobKind, type JobRow } from '../database'
import { notFound, Problem } from '../errors'

export interface NewJob {
  kind: JobKind
  shotId: string
  title: string
  /** First and last frame. */
  range: readonly [number, number]
  /** Frames of a chunk that one worker makes at a time; null: the last step does it all. */
  chunkFrames: number | null
  payload: unknown
}

/** A job with how far it is. */
export type JobProgress = JobRow & { done: number }

/** Makes a job and its chunks within a transaction of the caller's. What is committed with it is there with it. */
export async function createJob(tx: EntityManager, { range, chunkFrames, ...job }: NewJob): Promise<string> {
  const id = newId()
  const [first, last] = range
  tx.create(JobEntity, { id, ...job, total: last - first + 1, state: 'queued', message: null, createdAt: new Date() })
  await tx.flush()
  const chunk = (index: number, from: number, to: number, isFinish: boolean) =>
    tx.create(JobChunkEntity, {
      jobId: id,
      index,
      isFinish,
      firstFrame: from,
      lastFrame: to,
      isDone: false,
      doneFrames: 0,
      tries: 0,
      worker: null,
      leaseUntil: null,
      result: null,
    })
  let index = 0
  if (chunkFrames !== null) {
    for (let from = first; from <= last; from += chunkFrames) {
      chunk(index++, from, Math.min(last, from + chunkFrames - 1), false)
    }
  }
  chunk(index, first, last, true)
  await tx.flush()
  return id
}

/** Which jobs are asked for; what is missing does not matter. */
interface WantedJobs {
  shotId?: string
  kind?: JobKind
  ids?: readonly string[]
}

/** The latest jobs, newest first, fifty where nothing else is said. */
export async function listJobs({ shotId, kind, ids }: WantedJobs = {}, most = 50): Promise<JobProgress[]> {
  const em = (await orm()).em.fork()
  const wanted = { ...(shotId && { shotId }), ...(kind && { kind }), ...(ids && { id: { $in: [...ids] } }) }
  const jobs = await em.find(JobEntity, wanted, { orderBy: { createdAt: 'desc' }, limit: most })
  const done = await framesDone(
    em,
    jobs.map(({ id }) => id),
  )
  return jobs.map((job) => ({ ...job, done: job.state === 'done' ? job.total : Math.min(job.total, done.get(job.id) ?? 0) })) // prettier-ignore
}

async function framesDone(em: EntityManager, ids: string[]): Promise<Map<string, number>> {
  if (ids.length === 0) return new Map()
  const marks = ids.map(() => '?').join(',')
  const rows = await em.execute<{ job_id: string; done: string }[]>(
    `select job_id, sum(done_frames) as done from job_chunk where job_id in (${marks}) group by job_id`,
    ids,
  )
  return new Map(rows.map((row) => [row.job_id, Number(row.done)]))
}

/** @throws Problem 404 when it is gone */
export async function findJob(id: string): Promise<JobRow> {
  const job = await (await orm()).em.fork().findOne(JobEntity, { id })
  if (!job) throw notFound('The job')
  return job
}

/** The job that last read each of some shots: what its state follows from. */
export async function latestIngests(em: EntityManager, shotIds: string[]): Promise<Map<string, JobProgress>> {
  if (shotIds.length === 0) return new Map()
  const marks = shotIds.map(() => '?').join(',')
  const ids = await em.execute<{ id: string }[]>(
    `select distinct on (shot_id) id from job where kind = 'ingest' and shot_id in (${marks})
     order by shot_id, created_at desc`,
    shotIds,
  )
  const jobs = await em.find(JobEntity, { id: { $in: ids.map(({ id }) => id) } }, { disableIdentityMap: true })
  const done = await framesDone(
    em,
    jobs.map(({ id }) => id),
  )
  return new Map(jobs.map((job) => [job.shotId, { ...job, done: done.get(job.id) ?? 0 }]))
}

/** Ends a job: a queued one at once, a running one for everybody who looks; its workers hear of it within a second. */
export async function cancelJob(id: string): Promise<void> {
  const em = (await orm()).em.fork()
  const job = await em.findOne(JobEntity, { id })
  if (!job) throw notFound('The job')
  await em.nativeUpdate(JobEntity, { id, state: { $in: ['queued', 'running'] } }, { state: 'cancelled', message: null })
}

/** Starts a failed or cancelled job again; it goes on with the frames that are missing. */
export async function retryJob(id: string): Promise<void> {
  const em = (await orm()).em.fork()
  await em.transactional(async (tx) => {
    const job = await tx.findOne(JobEntity, { id })
    if (!job) throw notFound('The job')
    const changed = await tx.nativeUpdate(
      JobEntity,
      { id, state: { $in: ['failed', 'cancelled'] } },
      { state: 'queued', message: null },
    )
    if (changed === 0) {
      throw new Problem(
        409,
        'job-not-ended',
        `The job is ${job.state}; only a failed or cancelled one is started again`,
      )
    }
    if ((await tx.count(JobChunkEntity, { jobId: id, isDone: false })) === 0) {
      throw new Problem(409, 'job-of-before', 'This job is from an earlier version of the application: start it anew')
    }
    await tx.nativeUpdate(JobChunkEntity, { jobId: id, isDone: false }, { tries: 0 })
  })
}

/** Ends all jobs of a shot and waits until no worker is at them any more. */
export async function endJobsOf(shotId: string, patienceMs = 15_000): Promise<void> {
  const em = (await orm()).em.fork()
  const running = { shotId, state: { $in: ['queued' as const, 'running' as const] } }
  await em.nativeUpdate(JobEntity, running, { state: 'cancelled', message: null })
  for (const until = Date.now() + patienceMs; Date.now() < until;) {
    const [{ count }] = await em.execute<[{ count: string }]>(
      `select count(*) from job_chunk c join job j on j.id = c.job_id
       where j.shot_id = ? and not c.is_done and c.lease_until > now()`,
      [shotId],
    )
    if (Number(count) === 0) return
    await new Promise((resolve) => setTimeout(resolve, 200))
  }
}
