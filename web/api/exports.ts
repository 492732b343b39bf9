import { notFound } from '@tender-lasso/server/errors'
import { readManifest, type Manifest } from '@tender-lasso/server/handoff'
import { findJob } from '@tender-lasso/server/jobs'
import { keys, mediaStore, type Store } from '@tender-lasso/server/store'

/** Where a finished hand-off is, and its manifest. */
export async function finishedExport(
  jobId: string,
): Promise<{ store: Store; shotId: string; key: string; manifest: Manifest }> {
  const job = await findJob(jobId)
  const store = mediaStore()
  const key = keys.handoff(job.shotId, job.id)
  const manifest = await readManifest(store, key)
  if (!manifest) throw notFound('The finished hand-off')
  return { store, shotId: job.shotId, key, manifest }
}
