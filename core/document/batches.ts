import { z } from 'zod'
import { BOUNDS } from './bounds'
import { id, words } from './fields'
import { SCHEMA_VERSION, type RotoDocument } from './objects'
import { applyPatches } from './applyPatches'
import { inverted, isConflict, patchSchema, type Conflict } from './patches'
import { brokenReference } from './references'
import { liftedBatch } from './upcasters'

/** One gesture of one artist. `clientId` and `clientSequence` name it for good, so that a repeated send applies once. */
export const batchSchema = z.preprocess(
  liftedBatch,
  z.object({
    batchId: id,
    clientId: id,
    clientSequence: z.number().int().min(0).max(BOUNDS.sequence),
    author: words(120),
    /** The head that the artist saw when the edit was made. */
    baseSequence: z.number().int().min(0).max(BOUNDS.sequence),
    schemaVersion: z
      .number()
      .int()
      .min(1)
      .max(SCHEMA_VERSION, 'it comes from a newer version of the application: reload the page, or ask for an update'),
    /** Plain words for the history: "move points of outline". */
    label: words(BOUNDS.label),
    /** The batch that this one takes back, for undo and redo. */
    undoes: id.nullable(),
    patches: z.array(patchSchema).min(1).max(BOUNDS.patches),
  }),
)

export type EditBatch = z.infer<typeof batchSchema>

/**
 * The document after a batch, or why it does not fit. All or nothing: an edit of several places never applies in part.
 *
 * @throws DocumentError `invalid-patch` when a patch can fit no document, or leaves behind what is no whole object
 */
export function applyBatch(document: RotoDocument, batch: EditBatch): RotoDocument | Conflict {
  const result = applyPatches(document, batch.patches)
  if (isConflict(result)) return result
  const reason = brokenReference(document, result, new Set(batch.patches.map((patch) => patch.id)))
  return reason === null ? result : { patch: batch.patches[0]!, objectId: batch.patches[0]!.id, reason }
}

/** The patches of a batch taken back, last first. */
export function patchesTakenBack(batch: EditBatch): EditBatch['patches'] {
  return batch.patches.map(inverted).reverse()
}
