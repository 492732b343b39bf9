import { shapesOf, controlPlacesAt } from '../evaluation'
import type { Part, RotoDocument } from '../document'
import { pivotOnPlate } from './pose'

/** The place of a Part's outlines that is farthest from its pivot, plate pixels: fingertips or toes; null without outlines. */
export function boneTip(document: RotoDocument, part: Part, frame: number): readonly [number, number] | null {
  const [px, py] = pivotOnPlate(document, part, frame)
  let tip: readonly [number, number] | null = null
  let far = 0
  for (const shape of shapesOf(document, part.id)) {
    const places = controlPlacesAt(document, shape, frame)
    for (let i = 0; i < places.length; i += 2) {
      const [x, y] = [places[i]!, places[i + 1]!]
      const away = Math.hypot(x - px, y - py)
      if (away > far) [far, tip] = [away, [x, y]]
    }
  }
  return tip
}
