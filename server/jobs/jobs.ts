import { newId } from '@tender-lasso/core/document'
import { JobEntity, orm, type JobRow } from '../database'
import { notFound, Problem } from '../errors'
import { queue, type JobKind } from './queue'

export interface NewJob {
  kind: JobKind
  shotId: string
  title: string
  total: number
  payload: unknown
}

/** Puts a job in the queue. A worker that dies gives it back after its lease. */
export async function startJob(job: NewJob): Promise<string> {
  const em = (await orm()).em.fork()
  const id = newId()
  em.create(JobEntity, {
    id,
    ...job,
    state: 'queued',
    done: 0,
    message: null,
    cancelRequested: false,
    createdAt: new Date(),
  })
  await em.flush()
  await send(job.kind, id)
  return id
}

async function send(kind: JobKind, id: string) {
  await (await queue()).send(kind, { id }, { retryLimit: 3, retryDelay: 1, expireInSeconds: 3600 })
}

export async function listJobs(shotId?: string): Promise<JobRow[]> {
  const em = (await orm()).em.fork()
  return em.find(JobEntity, shotId ? { shotId } : {}, { orderBy: { createdAt: 'desc' }, limit: 50 })
}

export async function findJob(id: string): Promise<JobRow> {
  const job = await (await orm()).em.fork().findOne(JobEntity, { id })
  if (!job) throw notFound('The job')
  return job
}

/** Asks a job to stop; a queued one stops at once, a running one after its present frame. */
export async function cancelJob(id: string): Promise<void> {
  const em = (await orm()).em.fork()
  const job = await em.findOne(JobEntity, { id })
  if (!job) throw notFound('The job')
  if (job.state === 'queued') job.state = 'cancelled'
  job.cancelRequested = true
  await em.flush()
}

/** Starts a failed or cancelled job again; it goes on with the frames that are missing. */
export async function retryJob(id: string): Promise<void> {
  const em = (await orm()).em.fork()
  const job = await em.findOne(JobEntity, { id })
  if (!job) throw notFound('The job')
  if (job.state !== 'failed' && job.state !== 'cancelled') {
    throw new Problem(
      409,
      'job-not-ended',
      `The job is ${job.state}; only a failed or cancelled one can be started again`,
    )
  }
  Object.assign(job, { state: 'queued', message: null, cancelRequested: false, done: 0 })
  await em.flush()
  await send(job.kind as JobKind, id)
}

/**
 * Puts jobs back into the queue whose worker died in the middle. Called when a worker starts; a job that another worker
 * still has is at worst done twice, and its chunks are the same.
 */
export async function resumeInterruptedJobs(): Promise<void> {
  const em = (await orm()).em.fork()
  for (const job of await em.find(JobEntity, { state: 'running' })) await send(job.kind as JobKind, job.id)
}
