import { allOf, type Part, type RotoDocument } from '@tender-lasso/core/document'
import { areasAt, instancesByDepth, isShown, shownShapesOf } from '@tender-lasso/core/evaluation'
import { windingNumber } from '@tender-lasso/core/geometry'
import { flattenOutline } from '@tender-lasso/core/spline'

/** Whether a place of the plate lies on what an instance shows on a frame, or on what those show that a Part carries as one. */
export function isOnFollowers(document: RotoDocument, part: Part, frame: number, x: number, y: number): boolean {
  const isTakenAlong = ({ parentId, instance }: Part) => parentId === part.id && instance?.withParent
  return [part, ...allOf(document, 'part').filter(isTakenAlong)].some((one) => isOnInstance(document, one, frame, x, y))
}

function isOnInstance(document: RotoDocument, part: Part, frame: number, x: number, y: number): boolean {
  const { shapes, mapAt } = shownShapesOf(document, part)
  if (!mapAt) return false
  return shapes.some(
    (shape) =>
      isShown(shape, part, frame) &&
      areasAt(document, shape, frame, mapAt(frame)).some(
        (area) => windingNumber(flattenOutline(area, 0.25), x, y) !== 0,
      ),
  )
}

/** The nearest Part that shows the shapes of another one there; null where there is none that can be taken hold of. */
export function instanceUnder(document: RotoDocument, frame: number, x: number, y: number): Part | null {
  return instancesByDepth(document, frame).find((part) => !part.locked && isOnInstance(document, part, frame, x, y)) ?? null // prettier-ignore
}
