import path from 'node:path'
import { orm, ShotEntity } from '@tender-lasso/server/database'
import { documentAt } from '@tender-lasso/server/editLog'
import { fileNameOf, writeFrames, writeManifest, type HandoffPayload } from '@tender-lasso/server/handoff'
import type { RunningJob } from '@tender-lasso/server/jobs'
import { readSettings } from '@tender-lasso/server/settings'

/** Writes the mattes of all frames, skipping what an earlier try has finished; the manifest comes last. */
export async function exportJob(job: RunningJob): Promise<void> {
  const payload = job.row.payload as HandoffPayload
  const em = (await orm()).em.fork()
  const shot = await em.findOneOrFail(ShotEntity, { id: job.row.shotId })
  const document = await documentAt(em, shot.id, payload.sequence)
  const target = {
    folder: path.join(readSettings().exports, shot.id, job.row.id),
    shotName: fileNameOf(shot.name),
    width: shot.width,
    height: shot.height,
  }
  const files = await writeFrames({ document, payload, target }, (done, total) => job.progress(done, total))
  await writeManifest(payload, target, files)
}
