import { workerData } from 'piscina'
import { finishedFrame, writeFrame, type FrameWork, type ManifestFile } from './write'

/** One thread of a hand-off: what is the same for all frames comes once, when the thread starts. */
const work = workerData as FrameWork
const buffers: Float32Array[] = []

/** Writes a frame, unless an earlier try has left it whole. */
export default async function frameFiles(frame: number): Promise<ManifestFile[]> {
  return (await finishedFrame(work.payload, work.target, frame)) ?? (await writeFrame(work, frame, buffers))
}
