import { orm } from '@tender-lasso/server/database'
import { documentAt } from '@tender-lasso/server/editLog'
import { Problem } from '@tender-lasso/server/errors'
import {
  copyToFolder,
  deliveryOf,
  framesWriter,
  handoffTarget,
  writeManifest,
  type Delivery,
  type FrameWork,
  type ManifestFile,
} from '@tender-lasso/server/handoff'
import { chunkResults, type ChunkWork } from '@tender-lasso/server/jobs'

/** Writes the mattes of a chunk's frames, skipping what an earlier try has finished; the manifest is the last step. */
export async function exportChunk({
  claim,
  signal,
  progress,
}: ChunkWork): Promise<ManifestFile[] | { folder: string } | null> {
  const delivery = deliveryOf(claim.payload)
  if (!delivery)
    throw new Problem(409, 'delivery-unknown', 'This delivery is of a form that is not known any more: write it anew')
  const work = await workOf(claim.jobId, claim.shotId, delivery)
  if (claim.isFinish) {
    const files = await chunkResults<ManifestFile[]>(claim.jobId)
    await writeManifest(work.payload, work.target, files.flat())
    return copyToFolder(work.payload, work.target, signal)
  }
  const frames = Array.from({ length: claim.lastFrame - claim.firstFrame + 1 }, (_, i) => claim.firstFrame + i)
  return framesWriter(claim.jobId, work).write(frames, progress, signal)
}

/** What the frames of a hand-off are made from, kept for its next chunk. */
let latest: { jobId: string; work: Promise<FrameWork> } | null = null

function workOf(jobId: string, shotId: string, payload: Delivery): Promise<FrameWork> {
  if (latest?.jobId !== jobId) {
    const work = loadWork(jobId, shotId, payload)
    latest = { jobId, work }
    work.catch(() => (latest = null))
  }
  return latest!.work
}

async function loadWork(jobId: string, shotId: string, payload: Delivery): Promise<FrameWork> {
  const target = await handoffTarget(shotId, jobId)
  const document = await documentAt((await orm()).em.fork(), shotId, payload.sequence)
  return { document, payload, target }
}
