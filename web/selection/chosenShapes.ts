import { formChanged, movedOnPlate, sharesWithOwners, type Keying } from '@tender-lasso/core/edits'
import { findObject, type Patch, type RotoDocument, type Shape } from '@tender-lasso/core/document'
import { shapesOf } from '@tender-lasso/core/evaluation'
import type { Matrix3 } from '@tender-lasso/core/geometry'
import type { Selection } from '../store'

/** What is selected in a document, on a frame. */
export interface SelectedOn {
  document: RotoDocument
  frame: number
  selection: Selection
}

/** The selected shapes, or all of the selected Part. */
export function chosenShapes({ document, selection }: Pick<SelectedOn, 'document' | 'selection'>): Shape[] {
  if (selection.shapeIds.length) return selection.shapeIds.flatMap((id) => findObject(document, 'shape', id) ?? [])
  return selection.partId === null ? [] : shapesOf(document, selection.partId)
}

/** Points of shapes sent through a map of the plate, by the Reach, their neighbours softly along; tied points with their owners. */
export function mapPatches(
  { document, frame, keying, softness }: Pick<SelectedOn, 'document' | 'frame'> & { keying: Keying; softness: number },
  shapes: readonly Shape[],
  pointIds: ReadonlySet<string>,
  map: Matrix3,
): Patch[] {
  return sharesWithOwners(document, shapes, frame, pointIds, softness).flatMap(({ shape, share }) =>
    formChanged(shape, frame, movedOnPlate(document, shape, frame, share, map), keying),
  )
}
