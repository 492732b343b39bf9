import { findObject } from '@tender-lasso/core/document'
import { canBeTracked, trackPlans } from '@tender-lasso/core/tracks'
import { dealtByPlace } from '@tender-lasso/core/tracking'
import { MOST_AHEAD } from '../media'
import { holdBackground } from '../session'
import { shotRange, useShot, type ShotState } from '../store'
import { plateOf, trackWorkers } from './trackWorkers'

/** Milliseconds for which a choice of tracks rests before the helpers get ready for them. */
const REST_MS = 250

/**
 * While the artist looks at the tracks just chosen, the helpers start, fetch the frames that a run would look at first
 * and look at the nearest: a run then begins at full speed. Returns what ends it.
 */
export function watchTrackReadiness(): () => void {
  let timer: ReturnType<typeof setTimeout> | undefined
  const stop = useShot.subscribe((now, before) => {
    if (now.selection.trackIds === before.selection.trackIds) return
    clearTimeout(timer)
    if (now.selection.trackIds.length) timer = setTimeout(() => getReady(useShot.getState()), REST_MS)
  })
  return () => {
    stop()
    clearTimeout(timer)
  }
}

function getReady({ document, selection, info, frame, track: running, isPlaying }: ShotState) {
  if (!info || running || isPlaying) return
  const runs = selection.trackIds.flatMap((id) => {
    const track = findObject(document, 'track', id)
    if (!track || !canBeTracked(track)) return []
    return trackPlans(document, track, { way: 'forward', at: frame, range: shotRange(), mostFrames: MOST_AHEAD })
  })
  if (runs.length === 0) return
  const remotes = trackWorkers(runs.length)
  // Nobody has asked for it: what goes wrong is told when the tracks are tracked.
  dealtByPlace(runs, remotes.length).forEach((share, w) => {
    holdBackground(remotes[w]!.getReady(plateOf(info), share.map((i) => runs[i]!)).catch(() => undefined)) // prettier-ignore
  })
}
