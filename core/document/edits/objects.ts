import { allOf, type DocumentObject, type RotoDocument } from '../objects'
import type { Patch } from '../patches'
import { partsByDepth } from '../evaluate'

/** A new object. */
export function objectAdded(object: DocumentObject): Patch {
  return { kind: 'object', id: object.id, before: null, after: object }
}

/** What of the objects of one document is another in the next; made and deleted ones are not looked for. */
export function objectsChanged(before: RotoDocument, after: RotoDocument): Patch[] {
  return [...after.objects].flatMap(([id, object]): Patch[] => {
    const former = before.objects.get(id)
    return former && former !== object ? [{ kind: 'object', id, before: former, after: object }] : []
  })
}

/** One property changed. */
export function fieldSet<O extends DocumentObject, F extends keyof O & string>(
  object: O,
  field: F,
  after: O[F],
): Patch {
  const plain = (value: unknown): unknown => {
    if (value instanceof Float64Array) return Array.from(value)
    if (Array.isArray(value)) return value.map(plain)
    if (typeof value !== 'object' || value === null) return value
    return Object.fromEntries(Object.entries(value).map(([key, inner]) => [key, plain(inner)]))
  }
  return { kind: 'field', id: object.id, field, before: plain(object[field]), after: plain(after) } as Patch
}

/** The objects and all that hangs on them: a Subject's Parts, a Part's children and shapes. What hangs goes first. */
export function objectsDeleted(document: RotoDocument, ids: readonly string[]): Patch[] {
  const order: DocumentObject[] = []
  const visit = (id: string) => {
    const object = document.objects.get(id)
    if (!object || order.includes(object)) return
    if (object.kind === 'subject') {
      allOf(document, 'part').forEach((part) => part.subjectId === id && visit(part.id))
    } else if (object.kind === 'part') {
      allOf(document, 'part').forEach((part) => part.parentId === id && visit(part.id))
      allOf(document, 'shape').forEach((shape) => shape.partId === id && visit(shape.id))
    }
    order.push(object)
  }
  ids.forEach(visit)
  return order.map((object) => ({ kind: 'object' as const, id: object.id, before: object, after: null }))
}

/** The Part put between two others of the depth list; `index` counts in the list without it, 0 = nearest. */
export function partReordered(document: RotoDocument, partId: string, index: number): Patch[] {
  const part = partsByDepth(document).find((p) => p.id === partId)
  if (!part) return []
  const others = partsByDepth(document).filter((p) => p.id !== partId)
  const depth = depthBetween(others[index - 1]?.depth, others[index]?.depth)
  return depth === part.depth ? [] : [fieldSet(part, 'depth', depth)]
}

/** A number between two neighbours, either of which may be missing. */
export function depthBetween(nearer: number | undefined, farther: number | undefined): number {
  if (nearer === undefined) return farther === undefined ? 0 : farther - 1
  return farther === undefined ? nearer + 1 : (nearer + farther) / 2
}
