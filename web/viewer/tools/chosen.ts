import { formChanged, movedOnPlate, sharesWithOwners } from '@tender-lasso/core/edits'
import { find, type Patch, type Shape } from '@tender-lasso/core/document'
import { shapesOf } from '@tender-lasso/core/evaluation'
import type { Matrix3 } from '@tender-lasso/core/geometry'
import type { ToolContext } from './tool'

/** The selected shapes, or all of the selected Part. */
export function chosenShapes({ document, selection }: Pick<ToolContext, 'document' | 'selection'>): Shape[] {
  if (selection.shapeIds.length) return selection.shapeIds.flatMap((id) => find(document, 'shape', id) ?? [])
  return selection.partId === null ? [] : shapesOf(document, selection.partId)
}

/** Points of shapes sent through a map of the plate, by the Reach, their neighbours softly along; tied points with their owners. */
export function mapPatches(
  { document, frame, keying, softness }: Pick<ToolContext, 'document' | 'frame' | 'keying' | 'softness'>,
  shapes: readonly Shape[],
  pointIds: ReadonlySet<string>,
  map: Matrix3,
): Patch[] {
  return sharesWithOwners(document, shapes, frame, pointIds, softness).flatMap(({ shape, share }) =>
    formChanged(shape, frame, movedOnPlate(document, shape, frame, share, map), keying),
  )
}
