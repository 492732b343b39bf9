import { allOf, findObject, outputWith, type Output, type Patch, type RotoDocument } from '../document'

/** Some settings of an output changed, and what no longer goes with them put right. */
export function outputSet(output: Output, change: Partial<Output>): Patch {
  return { kind: 'object', id: output.id, before: output, after: outputWith(output, change) }
}

/** Outputs in their order. */
export const outputsInOrder = (document: RotoDocument): Output[] =>
  allOf(document, 'output').sort((a, b) => a.order - b.order || (a.id < b.id ? -1 : 1))

/** Names of all outputs. */
export const outputNames = (document: RotoDocument): string[] => allOf(document, 'output').map(({ name }) => name)

/** What an output holds, in words. */
export function wordsOfHeld(document: RotoDocument, { holds }: Output): string {
  if (holds.what === 'everything') return 'everything'
  if (holds.what === 'subject')
    return findObject(document, 'subject', holds.subjectId)?.name ?? 'a Subject that is gone'
  const names = holds.partIds.flatMap((id) => findObject(document, 'part', id)?.name ?? [])
  return names.length === 0 ? 'nothing' : names.join(', ')
}
