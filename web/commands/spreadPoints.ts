import { objectAdded } from '@tender-lasso/core/edits'
import { type Track } from '@tender-lasso/core/document'
import { boundsOf } from '@tender-lasso/core/geometry'
import { newPointTrack } from './newObjects'
import { wordsOf, edit, whileOpen } from '../session'
import { onlyTracks, say, select, useShot } from '../store'
import { plateOf, trackWorkers } from './trackWorkers'

/** Points that an area gets at most; more cost time and tell no more of one surface. */
const MOST_POINTS = 100
const HALF = 8

/** Many points on the corners inside an outline of the present frame, as tracks that are followed together. */
export async function spreadPoints(outline: readonly number[]): Promise<void> {
  const { info, frame } = useShot.getState()
  if (!info) return
  const isOpen = whileOpen()
  const box = boundsOf(outline)
  const area = (box.right - box.left) * (box.bottom - box.top)
  const spacing = Math.max(2 * HALF, Math.sqrt(area / MOST_POINTS) * 0.8)
  try {
    const [worker] = trackWorkers(1)
    const polygon = Float64Array.from(outline)
    const features = await worker!.features(plateOf(info), frame, [polygon], spacing, MOST_POINTS)
    if (!isOpen()) return
    const { document } = useShot.getState()
    if (features.length === 0) return say('doubtful', 'No corners here: mark an area with more texture')
    const made: Track[] = []
    let grown = document
    for (const { x, y } of features) {
      const track = newPointTrack(grown, frame, x, y, HALF)
      grown = { objects: new Map(grown.objects).set(track.id, track) }
      made.push(track)
    }
    if (!edit(`spread ${made.length} points`, made.map(objectAdded))) return
    select(onlyTracks(made.map((t) => t.id)))
    say('said', `${made.length} points; track them together (W)`)
  } catch (error) {
    say('bad', wordsOf(error))
  }
}
