import type { RotoDocument } from './objects'
import type { Conflict, Patch } from './patches'
import { WorkingCopy } from './workingCopy'

/**
 * The document with patches applied one after the other, or the first conflict: all or nothing. One working copy serves
 * them all, so that the cost grows with the number of patches and of objects that they touch.
 *
 * @throws DocumentError `invalid-patch` when a patch can fit no document, or what it leaves behind is no whole object
 */
export function applyPatches(document: RotoDocument, patches: readonly Patch[]): RotoDocument | Conflict {
  const copy = new WorkingCopy(document)
  for (const patch of patches) {
    const conflict = copy.apply(patch)
    if (conflict) return conflict
  }
  return copy.finished()
}

/** The document with patches made for it; one that does not fit is passed over. */
export function withPatchesApplied(document: RotoDocument, patches: readonly Patch[]): RotoDocument {
  const copy = new WorkingCopy(document)
  for (const patch of patches) copy.apply(patch)
  return copy.finished()
}
