import type { Remote } from 'comlink'
import type { TrackPlate, TrackWorker } from '../workers/track.worker'
import { watchedWorker, type WatchedWorker } from '../workers/watchedWorker'
import type { ShotInfo } from '../store'

/** Workers that look at pictures; made when first needed and kept, with the tiles they have read. */
let workers: WatchedWorker<TrackWorker>[] = []

/** Cores that are left beside the page itself. */
const MOST_WORKERS = Math.max(2, Math.min(4, (globalThis.navigator?.hardwareConcurrency ?? 2) - 1))

/** As many workers as there is separate work for; one that died is replaced. */
export function trackWorkers(count: number): Remote<TrackWorker>[] {
  const wanted = Math.max(1, Math.min(count, MOST_WORKERS))
  workers = workers.filter((worker) => !worker.isDead())
  while (workers.length < wanted) {
    const worker = new Worker(new URL('../workers/track.worker.ts', import.meta.url), { type: 'module' })
    workers.push(watchedWorker(worker, 'The helper that looks at pictures'))
  }
  return workers.slice(0, wanted).map(({ remote }) => remote)
}

export const plateOf = ({ id, width, height }: ShotInfo): TrackPlate => ({ shotId: id, width, height })
