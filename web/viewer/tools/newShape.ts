import { findObject, type RotoDocument } from '@tender-lasso/core/document'
import { objectAdded, shapeDrawn, type DrawnForm, type DrawnPoint } from '@tender-lasso/core/edits'
import { shapesOf } from '@tender-lasso/core/evaluation'
import { boundsOf } from '@tender-lasso/core/geometry'
import { newPart, newPartWords } from '../../commands'
import type { ToolContext, ToolStep } from './tool'
import { selectedPart } from '../../store'

/** The edit that adds a drawn shape: to the selected Part, or to a new Part of the Subject at hand. */
export function newShapeCommit(
  { document, frame, selection, subjectId, nextOperation }: ToolContext,
  points: readonly DrawnPoint[],
  how: string,
  form: Pick<DrawnForm, 'curve' | 'isClosed' | 'width'> = {},
): Pick<ToolStep<unknown>, 'commit' | 'selection' | 'tells'> {
  const part = selectedPart({ document, selection })
  const made = part ? { patches: [], part } : newPart(document, subjectId, middleOf(points))
  const order = shapesOf(document, made.part.id).length
  // What has nothing below it can but add.
  const operation = order === 0 ? 'add' : nextOperation
  const kind = operation === 'subtract' ? 'hole' : form.isClosed === false ? 'stroke' : 'outline'
  const name = order === 0 ? kind : `${kind} ${order + 1}`
  const shape = shapeDrawn(document, made.part.id, frame, points, { name, order, operation, ...form })
  const tells = part
    ? undefined
    : (after: RotoDocument) => newPartWords(after, findObject(after, 'part', made.part.id) ?? made.part, frame)
  return {
    ...(tells && { tells }),
    commit: { label: `draw ${name} by ${how}`, patches: [...made.patches, objectAdded(shape)] },
    selection: { partId: made.part.id, shapeIds: [shape.id], pointIds: new Set(), trackIds: [], keys: [] },
  }
}

/** Where a new Part is turned about until the artist puts its pivot elsewhere. */
function middleOf(points: readonly DrawnPoint[]): [number, number] {
  const box = boundsOf(points.flatMap(({ x, y }) => [x, y]))
  return [(box.left + box.right) / 2, (box.top + box.bottom) / 2]
}
