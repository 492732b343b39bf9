import { boundsOfAll } from '../geometry'
import type { TrackRun } from './runTrack'

/**
 * Runs dealt out to so many workers, neighbours together, so that no two read the same stretch of a picture: indices from
 * left to right, evenly; fewer lists where there are fewer runs.
 */
export function dealtByPlace(runs: readonly TrackRun[], workers: number): number[][] {
  const leftOf = runs.map(({ patterns }) => boundsOfAll(patterns[0]!.outlines).left)
  const fromLeft = runs.map((_, i) => i).sort((a, b) => leftOf[a]! - leftOf[b]!)
  const most = Math.ceil(runs.length / workers)
  return Array.from({ length: workers }, (_, w) => fromLeft.slice(w * most, (w + 1) * most)).filter(
    (share) => share.length > 0,
  )
}
