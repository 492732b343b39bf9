import { JobEntity, orm, type JobRow } from '../database'
import { Problem } from '../errors'

/** Thrown inside a job to end it because the artist asked for it. */
export class JobCancelled extends Error {}

export interface RunningJob {
  row: JobRow
  /** Stores progress now and then, and throws {@link JobCancelled} when asked to stop. */
  progress(done: number, total?: number): Promise<void>
}

const PROGRESS_EVERY_MS = 250

/**
 * Runs one job from the queue and keeps its row true: running, then done, cancelled or failed with words. A failure
 * that the artist cannot mend (a database that went away) is thrown on, so that the queue tries again.
 */
export async function runJob(id: string, work: (job: RunningJob) => Promise<void>): Promise<void> {
  const start = (await orm()).em.fork()
  const row = await start.findOne(JobEntity, { id })
  if (!row || row.state === 'cancelled' || row.state === 'done') return
  row.state = 'running'
  await start.flush()
  let stored = 0
  const update = async (change: Partial<JobRow>) => {
    await (await orm()).em.fork().nativeUpdate(JobEntity, { id }, change)
  }
  try {
    await work({
      row,
      async progress(done, total = row.total) {
        if (Date.now() - stored < PROGRESS_EVERY_MS && done < total) return
        stored = Date.now()
        await update({ done, total })
        const now = await (await orm()).em.fork().findOne(JobEntity, { id }, { fields: ['cancelRequested'] })
        if (!now || now.cancelRequested) throw new JobCancelled()
      },
    })
    await update({ state: 'done', message: null })
  } catch (error) {
    if (error instanceof JobCancelled) await update({ state: 'cancelled' })
    else if (error instanceof Problem) await update({ state: 'failed', message: error.message })
    else {
      await update({ state: 'failed', message: `Stopped by an unexpected error: ${String(error)}` }).catch(
        () => undefined,
      )
      throw error
    }
  }
}
