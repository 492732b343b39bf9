import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { closeOrm, JobChunkEntity, JobEntity, migrate, orm, type JobKind } from '../database'
import { Problem } from '../errors'
import { deleteShot, findShot } from '../shots'
import { shotInDatabase } from '../testing'
import { cancelJob, claimChunk, chunkResults, createJob, findJob, finishChunk, listJobs, renewLease, retryJob, workUntil, type ChunkHandler} from './index' // prettier-ignore

beforeAll(async () => {
  process.env.TENDER_LASSO_LEASE = '1'
  await migrate()
})
afterAll(async () => {
  delete process.env.TENDER_LASSO_LEASE
  await closeOrm()
})
// Others' jobs would be taken first.
beforeEach(async () => void (await (await orm()).em.fork().nativeDelete(JobEntity, {})))

async function newJob(kind: JobKind = 'export', frames = 10, chunkFrames: number | null = 2) {
  const shotId = await shotInDatabase()
  const em = (await orm()).em.fork()
  const range = [1001, 1000 + frames] as const
  const id = await em.transactional((tx) =>
    createJob(tx, { kind, shotId, title: 'trial', range, chunkFrames, payload: {} }),
  )
  return { shotId, id }
}

const sleep = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))
async function until(holds: () => Promise<boolean>) {
  for (let i = 0; i < 200; i++) {
    if (await holds()) return
    await sleep(50)
  }
  throw new Error('waited in vain')
}
const stateOf = async (id: string) => (await findJob(id)).state

describe('chunks under leases', () => {
  it('of many who claim, each gets another one; the last step is free when all others are done', async () => {
    const { id } = await newJob()
    const claims = await Promise.all(Array.from({ length: 8 }, (_, i) => claimChunk(`w${i}`, [])))
    const got = claims.filter((claim) => claim !== null)
    expect(got.map(({ index }) => index).sort()).toEqual([0, 1, 2, 3, 4])
    for (const claim of got) expect(await finishChunk(claim, 2, [claim.firstFrame])).toBe(true)
    const last = await claimChunk('w9', [])
    expect(last).toMatchObject({ isFinish: true, firstFrame: 1001, lastFrame: 1010 })
    expect(await claimChunk('w10', [])).toBeNull()
    await finishChunk(last!, 0, null)
    expect(await findJob(id)).toMatchObject({ state: 'done', total: 10 })
    expect((await chunkResults<number[]>(id)).flat()).toEqual([1001, 1003, 1005, 1007, 1009])
  })

  it('a lease that is not renewed runs out: another has the chunk, and the first one cannot finish it', async () => {
    await newJob('export', 2)
    const first = (await claimChunk('slow', []))!
    expect(await claimChunk('other', [])).toBeNull()
    await sleep(1100)
    const second = (await claimChunk('other', []))!
    expect(second.index).toBe(first.index)
    expect(await renewLease(first, 1)).toBe(false)
    expect(await finishChunk(first, 2, 'wrong')).toBe(false)
    expect(await finishChunk(second, 2, 'right')).toBe(true)
  })

  it('a chunk over which workers end again and again fails its job, with words; one that gets on does not', async () => {
    const { id } = await newJob('export', 4)
    for (let i = 0; i < 6; i++) {
      const claim = await claimChunk(`w${i}`, [])
      if (claim && i < 2) await renewLease(claim, i + 1)
      await sleep(1050)
    }
    await until(async () => (await claimChunk('late', [])) === null || (await stateOf(id)) === 'failed')
    for (let i = 0; i < 16 && (await stateOf(id)) !== 'failed'; i++) {
      await claimChunk(`x${i}`, [])
      await sleep(1050)
    }
    expect(await findJob(id)).toMatchObject({ state: 'failed', message: expect.stringContaining('frames 1001 to 1002') as string }) // prettier-ignore
    await retryJob(id)
    expect(await claimChunk('again', [])).toMatchObject({ index: 0 })
  }, 60_000)

  it('a cancelled queued job is over at once, and can be started again; a done one cannot', async () => {
    const { id, shotId } = await newJob('ingest')
    await cancelJob(id)
    expect(await claimChunk('w', [])).toBeNull()
    expect(await findShot(shotId)).toMatchObject({ state: 'failed', message: 'Reading was cancelled', jobId: id })
    await retryJob(id)
    expect(await findShot(shotId)).toMatchObject({ state: 'ingesting' })
    await expect(retryJob(id)).rejects.toMatchObject({ code: 'job-not-ended' })
  })

  it('a shot is deleted while it is read and while it exports: its jobs end first', async () => {
    for (const kind of ['ingest', 'export'] as const) {
      const { id, shotId } = await newJob(kind)
      const claim = (await claimChunk('w', []))!
      const deleted = deleteShot(shotId)
      await until(async () => !(await renewLease(claim, 1)))
      await deleted
      await expect(findJob(id)).rejects.toMatchObject({ status: 404 })
    }
  })
})

describe('a worker', () => {
  function working(handler: ChunkHandler, name = 'worker') {
    const stop = new AbortController()
    const ended = workUntil(stop.signal, name, { ingest: handler, export: handler })
    return { stop: async () => (stop.abort(), ended) }
  }

  it('does all chunks of several jobs, a slow one beside the others', async () => {
    const [slow, quick] = [await newJob('export', 2), await newJob('export', 6)]
    let isFree = false
    const worker = working(async ({ claim, progress }) => {
      if (claim.jobId === slow.id) while (!isFree) await sleep(20)
      await progress(claim.lastFrame - claim.firstFrame + 1)
    })
    await until(async () => (await stateOf(quick.id)) === 'done')
    expect(await stateOf(slow.id)).toBe('running')
    isFree = true
    await until(async () => (await stateOf(slow.id)) === 'done')
    await worker.stop()
  })

  it('hears of a cancellation within two seconds, also in the middle of a frame', async () => {
    const { id } = await newJob()
    let heard = 0
    const worker = working(({ signal }) => new Promise((_, reject) => signal.addEventListener('abort', () => reject(new Error(`stopped ${(heard = Date.now())}`))))) // prettier-ignore
    await until(async () => (await stateOf(id)) === 'running')
    const asked = Date.now()
    await cancelJob(id)
    await until(() => Promise.resolve(heard > 0))
    expect(heard - asked).toBeLessThan(2000)
    expect(await stateOf(id)).toBe('cancelled')
    await worker.stop()
  })

  it('says why a job failed, in words, and goes on with the next', async () => {
    const [full, broken, fine] = [await newJob(), await newJob(), await newJob()]
    const worker = working(({ claim }) => {
      if (claim.jobId === full.id) return Promise.reject(Object.assign(new Error('ENOSPC: no space left'), { code: 'ENOSPC' })) // prettier-ignore
      if (claim.jobId === broken.id) return Promise.reject(new Problem(422, 'corrupt-file', 'a.png is damaged'))
      return Promise.resolve(null)
    })
    await until(async () => (await stateOf(fine.id)) === 'done')
    await until(async () => (await stateOf(broken.id)) === 'failed')
    expect((await findJob(full.id)).message).toContain('The disk is full. What was finished is kept')
    expect((await findJob(broken.id)).message).toBe('a.png is damaged')
    await worker.stop()
  })

  it('takes a database that is away for no fault of the job: the chunk is made again', async () => {
    const { id } = await newJob('export', 2)
    let tries = 0
    const worker = working(() => {
      // As the driver says it when the server dies under a query, and when it is not there.
      if (++tries === 1) return Promise.reject(Object.assign(new Error('select 1 - terminating connection'), { code: '57P01' })) // prettier-ignore
      if (tries === 2) return Promise.reject(new Error('select 1', { cause: Object.assign(new Error('x'), { code: 'ECONNREFUSED' }) })) // prettier-ignore
      return Promise.resolve(null)
    })
    await until(async () => (await stateOf(id)) === 'done')
    expect(tries).toBeGreaterThanOrEqual(4)
    await worker.stop()
  })

  it('gives its chunk back when it is told to end', async () => {
    const { id } = await newJob('export', 2)
    const worker = working(({ signal }) => new Promise((_, reject) => signal.addEventListener('abort', () => reject(new Error('ended'))))) // prettier-ignore
    await until(async () => (await stateOf(id)) === 'running')
    await worker.stop()
    const chunk = await (await orm()).em.fork().findOneOrFail(JobChunkEntity, { jobId: id, index: 0 })
    expect(chunk).toMatchObject({ leaseUntil: null, tries: 0 })
    expect((await listJobs()).find((job) => job.id === id)?.state).toBe('running')
  })
})
