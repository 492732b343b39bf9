import { crossProduct, vectorLength, vectorBetween, type Vector2d } from '../geometry'
import { shotPixelAspect } from '../evaluation'
import { allOf, type Part, type RotoDocument, poseKeys } from '../document'
import { limbOf, withEnd, type Limb } from './limb'
import { pivotOnPlate } from './pose'

/** Side of the way from root to end on which the joint lies: 1 where the way goes off to growing angles from the upper bone. */
export type Side = 1 | -1

/** Sine of the angle between upper bone and limb under which a limb counts as straight: some four degrees. */
const STRAIGHT = 0.07

/**
 * The side to which a limb bends on a frame. A straight one bends as it does on the nearest frame of a key on which it is
 * not straight; then as its fellows do that hang on the same Part, as the other leg; then to the left of its way.
 *
 * @param tip  place of the plate where it ends
 */
export function bendSideOf(
  document: RotoDocument,
  limb: Limb,
  frame: number,
  tip: Vector2d,
): { side: Side; isGuess: boolean } {
  const own = clearSide(document, limb, frame, tip)
  if (own) return { side: own, isGuess: false }
  const side = sideOnKeys(document, limb, frame) ?? sideOfFellows(document, limb, frame) ?? 1
  return { side, isGuess: true }
}

/** null: it is straight. */
function clearSide(document: RotoDocument, { upper, lower }: Limb, frame: number, tip: Vector2d): Side | null {
  const aspect = shotPixelAspect(document)
  const square = ([x, y]: Vector2d): Vector2d => [x * aspect, y]
  const root = square(pivotOnPlate(document, upper, frame))
  const toJoint = vectorBetween(root, square(pivotOnPlate(document, lower, frame)))
  const toTip = vectorBetween(root, square(tip))
  const sine = crossProduct(toJoint, toTip) / (vectorLength(toJoint) * vectorLength(toTip))
  return Math.abs(sine) < STRAIGHT ? null : sine < 0 ? -1 : 1
}

function sideOnKeys(document: RotoDocument, limb: Limb, frame: number): Side | null {
  const ended = withEnd(document, limb)
  if (!ended) return null
  const times = [...new Set([...poseKeys(limb.upper), ...poseKeys(limb.lower)].map(({ time }) => time))]
  for (const time of times.sort((a, b) => Math.abs(a - frame) - Math.abs(b - frame))) {
    const side = clearSide(document, limb, time, pivotOnPlate(document, ended.end, time))
    if (side) return side
  }
  return null
}

/** What most of the limbs agree on that hang on the same Part. */
function sideOfFellows(document: RotoDocument, { upper }: Limb, frame: number): Side | null {
  const isFellow = (part: Part) => part.id !== upper.id && part.parentId === upper.parentId
  const votes = allOf(document, 'part')
    .filter(isFellow)
    .reduce((sum, fellow) => sum + (sideOfLimbFrom(document, fellow, frame) ?? 0), 0)
  return votes === 0 ? null : votes < 0 ? -1 : 1
}

/** The side of the limb whose upper bone a Part is, where it is one and not straight. */
function sideOfLimbFrom(document: RotoDocument, upper: Part, frame: number): Side | null {
  for (const lower of allOf(document, 'part').filter(({ parentId }) => parentId === upper.id)) {
    const limb = limbOf(document, lower)
    const ended = limb?.upper.id === upper.id ? withEnd(document, limb) : null
    if (ended) return clearSide(document, ended, frame, pivotOnPlate(document, ended.end, frame))
  }
  return null
}
