import { allOf, findObject, tracksThatMove, type DocumentObject, type RotoDocument } from '../document'

/**
 * All that some Parts need to be what they are: their Subjects and shapes, what carries them, what they follow, the tracks that move any of it, and the
 * Seams between their shapes. Of Parts that are not among them nothing is left out of a track.
 */
export function objectsOfParts(document: RotoDocument, partIds: readonly string[]): DocumentObject[] {
  const found = new Map<string, DocumentObject>()
  const take = (object: DocumentObject | undefined) => {
    if (!object || found.has(object.id)) return
    found.set(object.id, object)
    if (object.kind === 'part') {
      take(findObject(document, 'subject', object.subjectId))
      take(document.objects.get(object.parentId ?? ''))
      take(document.objects.get(object.instance?.of ?? ''))
      allOf(document, 'shape').forEach((shape) => shape.partId === object.id && take(shape))
    }
    if (object.kind === 'part' || object.kind === 'shape') {
      for (const trackId of tracksThatMove(object)) take(findObject(document, 'track', trackId))
    }
  }
  for (const id of partIds) take(findObject(document, 'part', id))
  for (const seam of allOf(document, 'seam')) {
    if (found.has(seam.ownerId) && found.has(seam.borrowerId)) found.set(seam.id, seam)
  }
  return [...found.values()].map((object) =>
    object.kind === 'track'
      ? { ...object, leaveOut: object.leaveOut.filter((one) => one.kind !== 'part' || found.has(one.partId)) }
      : object,
  )
}
