import { findObject } from '@tender-lasso/core/document'
import { followedOn } from '@tender-lasso/core/evaluation'
import { hidingOutlinesOn, patternFor, placedPattern, runSettings } from '@tender-lasso/core/tracks'
import type { TrackRun } from '@tender-lasso/core/tracking'
import { wordsOf } from '../session'
import { mainTrackId, say, useShot, type ShotState } from '../store'
import { plateOf, trackWorkers } from './trackWorkers'

/** Keeps the pixels that the selected track uses on the present frame known while they are shown. Returns what ends it. */
export function watchPixelsUsed(): () => void {
  let generation = 0
  let timer: ReturnType<typeof setTimeout> | undefined
  const look = (now: ShotState) => {
    const own = ++generation
    clearTimeout(timer)
    timer = setTimeout(() => {
      void pixelsUsedNow(now)
        .then((pixelsUsed) => own === generation && useShot.setState({ pixelsUsed }))
        .catch((error: unknown) => own === generation && say('doubtful', wordsOf(error)))
    }, 60)
  }
  const stop = useShot.subscribe((now, before) => {
    if (!now.view.showPixelsUsed) {
      if (now.pixelsUsed) useShot.setState({ pixelsUsed: null })
      return
    }
    const isSame =
      now.document === before.document &&
      now.frame === before.frame &&
      now.selection.trackIds === before.selection.trackIds &&
      before.view.showPixelsUsed
    if (!isSame && !now.track && !now.isPlaying) look(now)
  })
  return () => {
    stop()
    clearTimeout(timer)
    generation++
  }
}

async function pixelsUsedNow({ document, selection, frame, info }: ShotState) {
  const id = mainTrackId(selection)
  const track = id ? findObject(document, 'track', id) : undefined
  const matrix = track && followedOn(track, frame)
  if (!track || !info || !matrix) return null
  const way = frame < track.referenceFrame ? -1 : 1
  const run: TrackRun = {
    ...runSettings(document, track),
    patterns: [placedPattern(document, track, patternFor(track, frame))],
    steps: [{ frame, pattern: 0, hidden: hidingOutlinesOn(document, track, frame) }],
    known: [frame - way, frame - 2 * way].flatMap((at) => {
      const known = followedOn(track, at)
      return known ? [{ frame: at, matrix: known, isExact: true }] : []
    }),
  }
  const [worker] = trackWorkers(1)
  const used = await worker!.pixelsUsed(plateOf(info), run, matrix)
  return used && { trackId: track.id, frame, ...used }
}
