import { controlPlacesAt } from '@tender-lasso/core/evaluation'
import { findObject } from '@tender-lasso/core/document'
import { pivotOnPlate } from '@tender-lasso/core/edits'
import { posedPart, type ShotState } from '../store'
import { chosenShapes } from '../selection'
import { reportedCentre } from './tools/trackHandles'

/**
 * The place of the plate that stays put on screen while the frames change: a track's centre, or of what is selected the middle
 * of its points, the pivot of a Part by itself. Null when nothing is kept, or where it is not on that frame.
 */
export function keptPlace(state: ShotState, frame: number): readonly [number, number] | null {
  const { document, selection, view } = state
  if (view.keepInView === null) return null
  if (view.keepInView !== 'selection') {
    const track = findObject(document, 'track', view.keepInView.trackId)
    return (track && reportedCentre(track, frame)) ?? null
  }
  const part = posedPart({ selection, document })
  if (part) return pivotOnPlate(document, part, frame)
  const isWanted = (id: string) => selection.pointIds.size === 0 || selection.pointIds.has(id)
  const places = chosenShapes({ document, selection }).flatMap((shape) => {
    const all = controlPlacesAt(document, shape, frame)
    return shape.pointIds.flatMap((id, i) => (isWanted(id) ? [[all[2 * i]!, all[2 * i + 1]!] as const] : []))
  })
  const mean = (axis: 0 | 1) => places.reduce((sum, place) => sum + place[axis], 0) / places.length
  return places.length ? [mean(0), mean(1)] : null
}
