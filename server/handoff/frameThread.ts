import { failureOfTask, type TaskFailure } from '../errors'
import { unpackWork, type SharedWork } from './sharedWork'
import { finishedFrame, writeFrame, type FrameWork, type ManifestFile } from './write'

export interface FrameTask {
  work: SharedWork
  frame: number
}
export type FrameAnswer = { files: ManifestFile[] } | { failure: TaskFailure }

/** Works whose frames come in turns: as many chunks are made at once. */
const KEPT = 2

const works = new Map<string, FrameWork>()
const buffers: Float32Array[] = []

/** One thread of hand-offs: writes a frame, unless an earlier try has left it whole. Never rejects. */
export default async function frameFiles({ work: shared, frame }: FrameTask): Promise<FrameAnswer> {
  try {
    const work = workOf(shared)
    const kept = await finishedFrame(work.payload, work.target, frame)
    return { files: kept ?? (await writeFrame(work, frame, buffers)) }
  } catch (error) {
    return { failure: failureOfTask(error) }
  }
}

function workOf(shared: SharedWork): FrameWork {
  const known = works.get(shared.id)
  if (known) return known
  const [oldest] = works.keys()
  if (works.size === KEPT) works.delete(oldest!)
  // This delivery may have fewer mattes than the one before, or smaller ones.
  buffers.length = 0
  const work = unpackWork(shared)
  works.set(shared.id, work)
  return work
}
