import { expose } from 'comlink'
import { runTrack, type TrackedFrame, type TrackEnd, type TrackRun } from '@tender-lasso/core/tracking'
import { AnalysisTiles } from '../state/analysisTiles'

export interface TrackPlate {
  shotId: string
  width: number
  height: number
}

let isStopped = false

const trackWorker = {
  /** Tracks in this worker; `onFrame` gets each good frame as it is found. */
  async run(
    plate: TrackPlate,
    run: TrackRun,
    onFrame: (sample: TrackedFrame) => void,
  ): Promise<{ end: TrackEnd; samples: TrackedFrame[] }> {
    isStopped = false
    const tiles = new AnalysisTiles(plate.shotId, plate.width, plate.height)
    // Watching may lag behind on its own channel, so what was found comes back with the end as well.
    const samples: TrackedFrame[] = []
    const end = await runTrack(
      run,
      (frame, box) => tiles.image(frame, box),
      (sample) => {
        samples.push(sample)
        onFrame(sample)
        return !isStopped
      },
    )
    return { end, samples }
  },

  stop() {
    isStopped = true
  },
}

export type TrackWorker = typeof trackWorker
expose(trackWorker)
