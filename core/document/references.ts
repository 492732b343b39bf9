import { tracksThatMove } from './trackReferences'
import { findObject, type DocumentObject, type Part, type RotoDocument, type Seam, type Shape } from './objects'
import { hasSeamCycle } from './seams'
import type { Track } from './track'

/**
 * The first reference that a batch would break, in words: what an object points at must be there, and chains must end.
 * Looked at for what the batch touched, and for all where it deleted something. What was broken before stays allowed: an
 * artist must be able to mend it.
 */
export function brokenReference(
  before: RotoDocument,
  after: RotoDocument,
  touched: ReadonlySet<string>,
): string | null {
  const isDeleting = [...touched].some((id) => !after.objects.has(id))
  const isOutlineChanged = [...touched].some((id) => after.objects.get(id)?.kind === 'shape')
  for (const object of isDeleting ? after.objects.values() : touchedOf(after, touched)) {
    const broken = brokenOf(after, object, touched)
    if (broken === null) continue
    const former = before.objects.get(object.id)
    // Under its present name, so that a new name alone does not make another sentence of it.
    const named = former && 'name' in former && 'name' in object ? { ...former, name: object.name } : former
    if (!named || brokenOf(before, named, touched) !== broken) return broken
  }
  if (isDeleting || !isOutlineChanged) return null
  for (const object of after.objects.values()) {
    if (object.kind !== 'seam' || touched.has(object.id)) continue
    if (touched.has(object.ownerId) || touched.has(object.borrowerId)) {
      const broken = brokenSeam(after, object, touched)
      if (broken !== null) return broken
    }
  }
  return null
}

function* touchedOf(document: RotoDocument, touched: ReadonlySet<string>): Generator<DocumentObject> {
  for (const id of touched) {
    const object = document.objects.get(id)
    if (object) yield object
  }
}

function brokenOf(document: RotoDocument, object: DocumentObject, touched: ReadonlySet<string>): string | null {
  switch (object.kind) {
    case 'part':
      return brokenPart(document, object)
    case 'shape':
      if (!findObject(document, 'part', object.partId)) return `the Part of ${object.name} is gone`
      return lostTrack(document, object)
    case 'track':
      return brokenTrack(document, object)
    case 'seam':
      return brokenSeam(document, object, touched)
    default:
      return null
  }
}

function brokenPart(document: RotoDocument, part: Part): string | null {
  if (!findObject(document, 'subject', part.subjectId)) return `the Subject of ${part.name} is gone`
  if (part.parentId !== null && !findObject(document, 'part', part.parentId)) return `what carries ${part.name} is gone`
  if (isAmongOwn(document, part, ({ parentId }) => [parentId])) return `${part.name} would carry itself`
  if (isAmongOwn(document, part, ({ parentId, instance }) => [parentId, instance?.of ?? null]))
    return `${part.name} would follow itself`
  const { instance } = part
  if (instance && !findObject(document, 'part', instance.of)) return `what ${part.name} follows is gone`
  return lostTrack(document, part)
}

/** Whether a Part stands among those that it refers to, and those that these refer to, and so on. */
function isAmongOwn(document: RotoDocument, part: Part, referredTo: (of: Part) => (string | null)[]): boolean {
  const seen = new Set<string>()
  const ahead = [part]
  for (const one of ahead) {
    for (const id of referredTo(one)) {
      if (id === part.id) return true
      const next = id !== null && !seen.has(id) ? findObject(document, 'part', id) : undefined
      if (!next) continue
      seen.add(next.id)
      ahead.push(next)
    }
  }
  return false
}

const lostTrack = (document: RotoDocument, object: Part | Shape) =>
  tracksThatMove(object).every((trackId) => findObject(document, 'track', trackId))
    ? null
    : `a track that moves ${object.name} is gone`

/** What a track was combined from may be gone: its samples are its own, and it is shown as stale. */
function brokenTrack(document: RotoDocument, track: Track): string | null {
  const lost = track.leaveOut.some((one) => one.kind === 'part' && !findObject(document, 'part', one.partId))
  return lost ? `a Part that ${track.name} leaves out is gone` : null
}

function brokenSeam(document: RotoDocument, seam: Seam, touched: ReadonlySet<string>): string | null {
  const [owner, borrower] = [
    findObject(document, 'shape', seam.ownerId),
    findObject(document, 'shape', seam.borrowerId),
  ]
  const [owned, borrowed] = [new Set(owner?.pointIds), new Set(borrower?.pointIds)]
  const isThere = (pair: { owner: string; borrower: string }) => owned.has(pair.owner) && borrowed.has(pair.borrower)
  if (!seam.pairs.every(isThere)) return 'points that are tied by a Seam are gone'
  if (touched.has(seam.id) && hasSeamCycle(document, seam.borrowerId)) return 'a shape would borrow its own outline'
  return null
}
