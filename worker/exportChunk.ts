import { isMovie } from '@tender-lasso/core/document'
import { orm } from '@tender-lasso/server/database'
import { documentAt } from '@tender-lasso/server/editLog'
import { Problem } from '@tender-lasso/server/errors'
import {
  copyToFolder,
  deliveryOf,
  handoffTarget,
  MOVIE_FRAMES,
  readManifest,
  shareWork,
  writeFrames,
  writeManifest,
  writeMovies,
  type Delivery,
  type FrameWork,
  type ManifestFile,
  type SharedWork,
} from '@tender-lasso/server/handoff'
import { chunkResults, type ChunkWork } from '@tender-lasso/server/jobs'
import { keys, openStore } from '@tender-lasso/server/store'

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
    return finished(claim.jobId, work, signal)
  }
  const frames = Array.from({ length: claim.lastFrame - claim.firstFrame + 1 }, (_, i) => claim.firstFrame + i)
  return writeFrames(work.shared, frames, progress, signal)
}

/** Puts a delivery together whose frames are all there, and copies it to where it is wanted. */
async function finished(jobId: string, { payload, target }: FrameWork, signal: AbortSignal) {
  const store = openStore(target.store)
  // An earlier try may have come so far that the pictures of a movie are being taken away.
  if (!(await readManifest(store, target.key))) {
    const files = (await chunkResults<ManifestFile[]>(jobId)).flat()
    const isOfMovies = isMovie(payload.output.format)
    await writeManifest(payload, target, isOfMovies ? await writeMovies(payload, target, files, signal) : files)
  }
  const copied = await copyToFolder(payload, target, signal)
  await store.delete(keys.below(target.key, MOVIE_FRAMES))
  return copied
}

type Work = FrameWork & { shared: SharedWork }

/** What the frames of a hand-off are made from, kept for its next chunk. */
let latest: { jobId: string; work: Promise<Work> } | null = null

function workOf(jobId: string, shotId: string, payload: Delivery): Promise<Work> {
  if (latest?.jobId !== jobId) {
    const work = loadWork(jobId, shotId, payload)
    latest = { jobId, work }
    work.catch(() => (latest = null))
  }
  return latest!.work
}

async function loadWork(jobId: string, shotId: string, payload: Delivery): Promise<Work> {
  const target = await handoffTarget(shotId, jobId)
  const document = await documentAt((await orm()).em.fork(), shotId, payload.sequence)
  const work = { document, payload, target }
  return { ...work, shared: shareWork(work) }
}
