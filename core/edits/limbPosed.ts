import {
  crossProduct,
  vectorLength,
  angleBetween,
  solvedInTwoUnknowns,
  vectorBetween,
  type Vector2d,
} from '../geometry'
import { shotPixelAspect } from '../evaluation'
import type { Part, RotoDocument, Patch } from '../document'
import { KEY_HERE, type Keying } from './change'
import { isCarried, type Limb } from './limb'
import { pivotAfter, pivotOnPlate, poseChanged, poseTurned } from './pose'

/**
 * The joint between the two bones of a limb moved, its end kept where it is.
 *
 * With bones of fixed length the joint has two places, mirrored about the way from root to end: it takes the one on the
 * target's side. Bones that may stretch bring it to the target itself; both change their size, what hangs on the limb keeps
 * its own.
 *
 * @returns null when the limb is locked, no patches when the joint stays
 */
export function limbPosed(
  document: RotoDocument,
  { upper, lower, end }: Limb & { end: Part },
  frame: number,
  target: Vector2d,
  stretches: boolean,
  how: Keying = KEY_HERE,
): Patch[] | null {
  if (upper.locked || lower.locked) return null
  const aspect = shotPixelAspect(document)
  const square = ([x, y]: Vector2d) => [x * aspect, y] as const
  const tip = pivotOnPlate(document, end, frame)
  const root = square(pivotOnPlate(document, upper, frame))
  const [toJoint, toTip, toTarget] = [pivotOnPlate(document, lower, frame), tip, target].map((place) =>
    vectorBetween(root, square(place)),
  ) as [Vector2d, Vector2d, Vector2d]
  const [fromJoint, fromTarget] = [vectorBetween(toJoint, toTip), vectorBetween(toTarget, toTip)]
  const turned = (part: Part, angle: number, size = 0) =>
    poseChanged(document, part, frame, poseTurned(angle, Math.exp(size)), how)
  const pivotOf = (part: Part, patches: Patch[]) => pivotAfter(document, patches, part, frame)
  const share = isCarried(lower) ? 1 : 0
  if (!stretches) {
    if (Math.sign(crossProduct(toTip, toJoint)) === Math.sign(crossProduct(toTip, toTarget))) return []
    const [a, seen] = [2 * angleBetween(toJoint, toTip), 2 * angleBetween(fromJoint, toTip)]
    const patchesFor = (first: number, second: number) => [...turned(upper, first), ...turned(lower, second)]
    const turns = solvedInTwoUnknowns([a, seen - share * a], tip, (x, y) => pivotOf(end, patchesFor(x, y)))
    return patchesFor(...turns)
  }
  const size = Math.log(vectorLength(toTarget) / vectorLength(toJoint))
  const [a, f] = solvedInTwoUnknowns([angleBetween(toJoint, toTarget), size], target, (x, y) =>
    pivotOf(lower, turned(upper, x, y)),
  )
  const first = turned(upper, a, f)
  const guess = [angleBetween(fromJoint, fromTarget) - share * a, Math.log(vectorLength(fromTarget) / vectorLength(fromJoint)) - share * f] as const // prettier-ignore
  const [b, g] = solvedInTwoUnknowns(guess, tip, (x, y) => pivotOf(end, [...first, ...turned(lower, x, y)]))
  return [...first, ...turned(lower, b, g), ...(isCarried(end) ? turned(end, 0, -g - share * f) : [])]
}
