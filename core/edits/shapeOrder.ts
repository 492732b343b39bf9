import { findObject, type Patch, type RotoDocument } from '../document'
import { shapesOf } from '../evaluation'
import { fieldSet } from './objects'

/**
 * A shape put at another place among the shapes of its Part.
 *
 * @param index  its place then, 0 the topmost
 */
export function shapeReordered(document: RotoDocument, shapeId: string, index: number): Patch[] {
  const moved = findObject(document, 'shape', shapeId)
  if (!moved) return []
  const others = shapesOf(document, moved.partId).filter(({ id }) => id !== shapeId)
  const order = others.toSpliced(Math.max(0, others.length - index), 0, moved)
  return order.flatMap((shape, place) => (shape.order === place ? [] : [fieldSet(shape, 'order', place)]))
}
