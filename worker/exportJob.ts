import path from 'node:path'
import { orm, ShotEntity } from '@tender-lasso/server/database'
import { documentAt } from '@tender-lasso/server/editLog'
import {
  fileNameOf,
  finishedFrame,
  writeFrame,
  writeManifest,
  type HandoffPayload,
  type ManifestFile,
} from '@tender-lasso/server/handoff'
import type { RunningJob } from '@tender-lasso/server/jobs'
import { readSettings } from '@tender-lasso/server/settings'

/** Writes the mattes frame by frame, skipping what an earlier try has finished; the manifest comes last. */
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
  const files: ManifestFile[] = []
  const [first, last] = payload.range
  for (let frame = first; frame <= last; frame++) {
    files.push(
      ...((await finishedFrame(payload, target, frame)) ?? (await writeFrame(document, payload, target, frame))),
    )
    await job.progress(frame - first + 1, last - first + 1)
  }
  await writeManifest(payload, target, files)
}
