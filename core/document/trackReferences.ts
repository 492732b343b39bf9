import { allOf, type Part, type RotoDocument, type Shape } from './objects'

/** Ids of the tracks that move a Part or hold its pivot, or move a shape, its pivot or points of it. */
export function tracksThatMove(object: Part | Shape): string[] {
  const ids = object.mover ? [object.mover.trackId] : []
  if (object.kind === 'part') return object.pin?.to === 'track' ? [...ids, object.pin.trackId] : ids
  if (object.pivot?.to === 'track') ids.push(object.pivot.trackId)
  return [...ids, ...object.movedPoints.flatMap(({ mover }) => (mover ? [mover.trackId] : []))]
}

/** Parts and shapes that a track moves, wholly or in part. */
export function movedByTrack(document: RotoDocument, trackId: string): (Part | Shape)[] {
  return [...allOf(document, 'part'), ...allOf(document, 'shape')].filter((object) =>
    tracksThatMove(object).includes(trackId),
  )
}
