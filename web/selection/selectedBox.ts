import { boundsOf, type Box } from '@tender-lasso/core/geometry'
import { controlPlacesAt, shapePivotOnPlate } from '@tender-lasso/core/evaluation'
import { findObject } from '@tender-lasso/core/document'
import { chosenShapes, type SelectedOn } from './chosenShapes'

/** Box of the selected points on the plate, or of whole shapes; null for fewer than two points or no extent. */
export function selectedBox(context: SelectedOn): Box | null {
  const { document, frame, selection } = context
  if (selection.shapeIds.length === 0) return null
  const places: number[] = []
  for (const shape of chosenShapes(context)) {
    const own = controlPlacesAt(document, shape, frame)
    shape.pointIds.forEach((id, i) => {
      if (selection.pointIds.size === 0 || selection.pointIds.has(id)) places.push(own[2 * i]!, own[2 * i + 1]!)
    })
  }
  if (places.length < 4) return null
  const box = boundsOf(places)
  return box.right - box.left > 1 || box.bottom - box.top > 1 ? box : null
}

/** Middle of the box round what is selected, of a Part round all its shapes. */
function middleOfChosen(context: SelectedOn): [number, number] | null {
  const shapeIds = chosenShapes(context).map(({ id }) => id)
  const box = selectedBox({ ...context, selection: { ...context.selection, shapeIds } })
  return box && [(box.left + box.right) / 2, (box.top + box.bottom) / 2]
}

/** A selected shape's own pivot on the frame; null where it has none, or several shapes are selected. */
export function ownPivotOfChosen({ document, frame, selection }: SelectedOn): [number, number] | null {
  const shape = selection.shapeIds.length === 1 ? findObject(document, 'shape', selection.shapeIds[0]!) : undefined
  return shape ? shapePivotOnPlate(document, shape, frame) : null
}

/** What is selected is turned about this: the place clicked, the shape's own pivot, or the middle. */
export const pivotOfChosen = (context: SelectedOn & { pivot: readonly [number, number] | null }) =>
  context.pivot ?? ownPivotOfChosen(context) ?? middleOfChosen(context)
