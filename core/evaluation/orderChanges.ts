import { allOf, depthKeys, type RotoDocument } from '../document'
import { partsByDepth } from './evaluate'

/** A frame from which some Parts stand in another order than before. */
export interface OrderChange {
  frame: number
  /** Ids of those that another one has passed, nearest first as they stand from then on. */
  partIds: readonly string[]
}

const known = new WeakMap<RotoDocument, readonly OrderChange[]>()

/** Where the depth order of a document changes, in the order of time. */
export function orderChanges(document: RotoDocument): readonly OrderChange[] {
  let changes = known.get(document)
  if (!changes) known.set(document, (changes = foundChanges(document)))
  return changes
}

function foundChanges(document: RotoDocument): OrderChange[] {
  const times = new Set(allOf(document, 'part').flatMap((part) => depthKeys(part).map(({ time }) => Math.ceil(time))))
  return [...times]
    .sort((a, b) => a - b)
    .flatMap((frame) => {
      const [before, after] = [frame - 1, frame].map((at) => partsByDepth(document, at).map(({ id }) => id))
      const rank = new Map(before!.map((id, i) => [id, i]))
      // Passed is who stands on the other side of another one than before.
      const partIds = after!.filter((id, i) =>
        after!.some((other, j) => i !== j && i < j !== rank.get(id)! < rank.get(other)!),
      )
      return partIds.length ? [{ frame, partIds }] : []
    })
}
