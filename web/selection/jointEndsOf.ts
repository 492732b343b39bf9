import { allOf, findObject } from '@tender-lasso/core/document'
import { jointEnds, type JointEnd } from '@tender-lasso/core/edits'
import { shapesOf } from '@tender-lasso/core/evaluation'
import type { SelectedOn } from './chosenShapes'

/** Ends of the bones of the selected Part's Subject that can be changed. */
export function jointEndsOf({ document, frame, selection }: SelectedOn): JointEnd[] {
  const subjectId = selection.partId === null ? undefined : findObject(document, 'part', selection.partId)?.subjectId
  const parts = allOf(document, 'part').filter((part) => part.subjectId === subjectId && part.visible && !part.locked)
  return jointEnds(document, parts.flatMap(({ id }) => shapesOf(document, id)), frame) // prettier-ignore
}
