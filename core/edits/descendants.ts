import { allOf, findObject, type Part, type RotoDocument } from '../document'

/** The Part and all that it carries, parents before children. */
export function withDescendants(document: RotoDocument, partId: string): Part[] {
  const part = findObject(document, 'part', partId)
  if (!part) return []
  const children = allOf(document, 'part').filter((other) => other.parentId === partId)
  return [part, ...children.flatMap((child) => withDescendants(document, child.id))]
}
