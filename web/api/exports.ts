import path from 'node:path'
import { notFound } from '@tender-lasso/server/errors'
import { readManifest, type Manifest } from '@tender-lasso/server/handoff'
import { findJob } from '@tender-lasso/server/jobs'
import { readSettings } from '@tender-lasso/server/settings'

/** Folder and manifest of a finished hand-off. */
export async function finishedExport(jobId: string): Promise<{ folder: string; manifest: Manifest }> {
  const job = await findJob(jobId)
  const folder = path.join(readSettings().exports, job.shotId, job.id)
  const manifest = await readManifest(folder)
  if (!manifest) throw notFound('The finished hand-off')
  return { folder, manifest }
}
