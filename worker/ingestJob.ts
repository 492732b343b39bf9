import { orm, ShotEntity } from '@tender-lasso/server/database'
import { JobCancelled, type RunningJob } from '@tender-lasso/server/jobs'
import { ingestShot } from '@tender-lasso/server/media'
import { readSettings } from '@tender-lasso/server/settings'

/** Makes the frames of a shot and keeps the shot's state on the board true. */
export async function ingestJob(job: RunningJob): Promise<void> {
  const em = (await orm()).em.fork()
  const shot = await em.findOneOrFail(ShotEntity, { id: job.row.shotId })
  shot.state = 'ingesting'
  shot.message = null
  await em.flush()
  try {
    shot.lastFrame = await ingestShot(shot, readSettings(), { onFrame: (done, total) => job.progress(done, total) })
    shot.state = 'ready'
    await em.flush()
  } catch (error) {
    shot.state = 'failed'
    shot.message =
      error instanceof JobCancelled ? 'Reading was cancelled' : error instanceof Error ? error.message : String(error)
    await em.flush()
    throw error
  }
}
