import { allOf, movedByTrack, type DocumentObject, type Part, type RotoDocument } from '../document'

/**
 * Parts whose mattes may be others after something was done to some objects: those that the objects belong to, that they move, and all that these carry or that
 * follow them.
 *
 * @param before  objects that are gone by now, by id
 * @returns       the Parts, given the objects' ids: what hangs on what is looked up once for many edits
 */
export function partsTouched(
  document: RotoDocument,
  before: ReadonlyMap<string, DocumentObject> = new Map(),
): (ids: Iterable<string>) => Set<string> {
  const dependents = dependentsOf(document)
  return (ids) => {
    const touched = new Set<string>()
    const ahead: string[] = []
    const reach = (partId: string) => {
      if (touched.has(partId)) return
      touched.add(partId)
      ahead.push(partId)
    }
    for (const id of ids) {
      const object = document.objects.get(id) ?? before.get(id)
      switch (object?.kind) {
        case 'part':
          reach(object.id)
          break
        case 'shape':
          reach(object.partId)
          break
        case 'shot':
          allOf(document, 'part').forEach((part) => reach(part.id))
          break
        case 'track':
          for (const moved of movedByTrack(document, id)) reach(moved.kind === 'part' ? moved.id : moved.partId)
          break
        case 'seam':
          for (const shapeId of [object.ownerId, object.borrowerId]) {
            const shape = document.objects.get(shapeId) ?? before.get(shapeId)
            if (shape?.kind === 'shape') reach(shape.partId)
          }
          break
        default:
      }
    }
    for (let partId = ahead.pop(); partId !== undefined; partId = ahead.pop()) dependents.get(partId)?.forEach(reach)
    return touched
  }
}

/** By the id of a Part those that it carries, that follow it, or that borrow a stretch of its outline. */
function dependentsOf(document: RotoDocument): Map<string, Set<string>> {
  const found = new Map<string, Set<string>>()
  const add = (on: string | null | undefined, partId: string) => {
    if (!on) return
    const known = found.get(on)
    if (known) known.add(partId)
    else found.set(on, new Set([partId]))
  }
  allOf(document, 'part').forEach((part: Part) => {
    add(part.parentId, part.id)
    add(part.instance?.of, part.id)
  })
  const partOf = new Map(allOf(document, 'shape').map((shape) => [shape.id, shape.partId]))
  allOf(document, 'seam').forEach(({ ownerId, borrowerId }) => {
    const borrower = partOf.get(borrowerId)
    if (borrower) add(partOf.get(ownerId), borrower)
  })
  return found
}
