import { parentPort, workerData } from 'node:worker_threads'
import type { LumaImage } from '@tender-lasso/core/image'
import { runTogether, type TrackRun } from '@tender-lasso/core/tracking'
import { cut } from './photographedPlane'

/** What a thread of {@link './pointsTogether'} gets: pictures in shared memory, and its share of the points. */
export interface PointsWork {
  frames: LumaImage[]
  runs: TrackRun[]
}

const { frames, runs } = workerData as PointsWork

// Each message asks for one pass over all frames.
parentPort!.on('message', () => {
  let found = 0
  void runTogether(
    runs,
    (frame, box) => Promise.resolve(cut(frames[frame]!, box)),
    () => ++found > 0,
  ).then(() => parentPort!.postMessage(found))
})
