import { find, objectAdded, shapeDrawn, shapesOf, type DrawnPoint } from '@tender-lasso/core/document'
import { newPart } from '../../state/newObjects'
import type { ToolContext, ToolStep } from './tool'

/** The edit that adds a drawn shape: to the selected Part, or to a new Part of a new Subject. */
export function newShapeCommit(
  { document, frame, selection }: ToolContext,
  points: readonly DrawnPoint[],
  how: string,
): Pick<ToolStep<unknown>, 'commit' | 'selection'> {
  const part = selection.partId === null ? undefined : find(document, 'part', selection.partId)
  const made = part ? { patches: [], part } : newPart(document, null)
  const order = shapesOf(document, made.part.id).length
  const name = order === 0 ? 'outline' : `outline ${order + 1}`
  const shape = shapeDrawn(document, made.part.id, frame, points, name, order)
  return {
    commit: { label: `draw ${name} by ${how}`, patches: [...made.patches, objectAdded(shape)] },
    selection: { partId: made.part.id, shapeIds: [shape.id], pointIds: new Set(), trackIds: [], keyTimes: [] },
  }
}
