import { allOf, newId, type Guide } from '@tender-lasso/core/document'
import { objectAdded, objectsDeleted } from '@tender-lasso/core/edits'
import { pointerPlace, say, useShot } from '../store'
import { edit } from '../session'

/** Screen pixels within which the pointer means a guide that is there. */
const NEAR_PIXELS = 6

/** A guide through the pointer; one that lies there already is taken away. */
export function toggleGuide(axis: Guide['axis']) {
  const { document, view } = useShot.getState()
  const place = pointerPlace()
  if (!place) return say('said', 'Point at the picture where the guide is to lie')
  const at = axis === 'x' ? place[0] : place[1]
  const there = allOf(document, 'guide').find(
    (guide) => guide.axis === axis && Math.abs(guide.at - at) * view.zoom <= NEAR_PIXELS,
  )
  if (there) return edit('take a guide away', objectsDeleted(document, [there.id]))
  const guide: Guide = { kind: 'guide', id: newId(), axis, at: Math.round(at * 10) / 10 }
  if (edit(axis === 'x' ? 'upright guide' : 'level guide', [objectAdded(guide)])) {
    say('said', `Guide at ${axis} ${guide.at.toFixed(1)}; points catch on it while snapping is on`)
  }
}
