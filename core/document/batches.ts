import { z } from 'zod'
import { allOf, find, type Part, type RotoDocument, type Shape } from './objects'
import { tracksThatMove } from './moved'
import { hasSeamCycle } from './seams'
import { applyPatch, inverted, isConflict, patchSchema, type Conflict } from './patches'

/** One gesture of one artist. `clientId` and `clientSequence` name it for good, so that a repeated send applies once. */
export const batchSchema = z.object({
  batchId: z.string().min(1).max(60),
  clientId: z.string().min(1).max(60),
  clientSequence: z.number().int().min(0),
  author: z.string().min(1).max(120),
  /** The head that the artist saw when the edit was made. */
  baseSequence: z.number().int().min(0),
  schemaVersion: z.number().int().min(1),
  /** Plain words for the history: "move points of outline". */
  label: z.string().min(1).max(200),
  /** The batch that this one takes back, for undo and redo. */
  undoes: z.string().nullable(),
  patches: z.array(patchSchema).min(1).max(100_000),
})

export type EditBatch = z.infer<typeof batchSchema>

/**
 * The document after a batch, or why it does not fit. All or nothing: an edit of several places never applies in part.
 *
 * @throws DocumentError `invalid-patch` when a patch can fit no document
 */
export function applyBatch(document: RotoDocument, batch: EditBatch): RotoDocument | Conflict {
  let result = document
  for (const patch of batch.patches) {
    const next = applyPatch(result, patch)
    if (isConflict(next)) return next
    result = next
  }
  const broken = brokenInvariant(result, batch)
  if (broken) return { patch: batch.patches[0]!, objectId: batch.patches[0]!.id, reason: broken }
  return result
}

/** The patches of a batch taken back, last first. */
export function patchesTakenBack(batch: EditBatch): EditBatch['patches'] {
  return batch.patches.map(inverted).reverse()
}

/** References that must exist and chains that must end, checked for what the batch touched. */
function brokenInvariant(document: RotoDocument, batch: EditBatch): string | null {
  const touched = new Set(batch.patches.map((patch) => patch.id))
  const deleted = [...touched].some((id) => !document.objects.has(id))
  const parts = deleted ? allOf(document, 'part') : [...touched].flatMap((id) => find(document, 'part', id) ?? [])
  for (const part of parts) {
    if (!find(document, 'subject', part.subjectId)) return `the Subject of ${part.name} is gone`
    if (part.parentId !== null && !find(document, 'part', part.parentId)) return `what carries ${part.name} is gone`
    if (hasLostTrack(document, part)) return `a track that moves ${part.name} is gone`
    const seen = new Set<string>()
    for (let up: string | null = part.id; up !== null; up = find(document, 'part', up)?.parentId ?? null) {
      if (seen.has(up)) return `${part.name} would carry itself`
      seen.add(up)
    }
  }
  const shapes = deleted ? allOf(document, 'shape') : [...touched].flatMap((id) => find(document, 'shape', id) ?? [])
  for (const shape of shapes) {
    if (!find(document, 'part', shape.partId)) return `the Part of ${shape.name} is gone`
    if (hasLostTrack(document, shape)) return `a track that moves ${shape.name} is gone`
  }
  const seams = deleted || shapes.length ? allOf(document, 'seam') : [...touched].flatMap((id) => find(document, 'seam', id) ?? []) // prettier-ignore
  for (const seam of seams) {
    const [owner, borrower] = [find(document, 'shape', seam.ownerId), find(document, 'shape', seam.borrowerId)]
    const isThere = (pair: { owner: string; borrower: string }) =>
      owner?.pointIds.includes(pair.owner) && borrower?.pointIds.includes(pair.borrower)
    if (!seam.pairs.every(isThere)) return 'points that are tied by a Seam are gone'
    if (touched.has(seam.id) && hasSeamCycle(document, seam.borrowerId)) return 'a shape would borrow its own outline'
  }
  return null
}

const hasLostTrack = (document: RotoDocument, object: Part | Shape) =>
  tracksThatMove(object).some((trackId) => !find(document, 'track', trackId))
