import { allOf, type Part, type RotoDocument, type Shape } from './objects'

/** Ids of the tracks that move a Part, hold its pivot or carry the line that it is reflected about, or move a shape, its pivot or points of it. */
export function tracksThatMove(object: Part | Shape): string[] {
  const ids = object.mover ? [object.mover.trackId] : []
  if (object.kind === 'part') {
    if (object.pin?.to === 'track') ids.push(object.pin.trackId)
    const line = object.instance?.mirror?.trackId
    return line ? [...ids, line] : ids
  }
  if (object.pivot?.to === 'track') ids.push(object.pivot.trackId)
  return [...ids, ...object.movedPoints.flatMap(({ mover }) => (mover ? [mover.trackId] : []))]
}

/** Parts and shapes that a track moves, wholly or in part. */
export function movedByTrack(document: RotoDocument, trackId: string): (Part | Shape)[] {
  return [...allOf(document, 'part'), ...allOf(document, 'shape')].filter((object) =>
    tracksThatMove(object).includes(trackId),
  )
}
