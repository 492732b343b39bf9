import { wrap, type Remote } from 'comlink'
import type { TrackWorker } from '../workers/track.worker'
import type { TrackPlate } from '../workers/track.worker'
import type { ShotInfo } from './types'

/** Workers that look at pictures; made when first needed and kept, with the tiles they have read. */
const workers: Remote<TrackWorker>[] = []

/** Cores that are left beside the page itself. */
const MOST_WORKERS = Math.max(2, Math.min(4, (globalThis.navigator?.hardwareConcurrency ?? 2) - 1))

/** As many workers as there is separate work for. */
export function trackWorkers(count: number): Remote<TrackWorker>[] {
  const wanted = Math.max(1, Math.min(count, MOST_WORKERS))
  while (workers.length < wanted) {
    workers.push(
      wrap<TrackWorker>(new Worker(new URL('../workers/track.worker.ts', import.meta.url), { type: 'module' })),
    )
  }
  return workers.slice(0, wanted)
}

export const plateOf = ({ id, width, height }: ShotInfo): TrackPlate => ({ shotId: id, width, height })
