import {
  applyToPoint,
  invert,
  vectorLength,
  angleBetween,
  twoBoneTurn,
  solvedInTwoUnknowns,
  vectorBetween,
  type Vector2d,
} from '../geometry'
import { shotPixelAspect, worldAt } from '../evaluation'
import { findObject, type RotoDocument, withPatchesApplied, type Patch } from '../document'
import { bendSideOf, type Side } from './bendSide'
import { KEY_HERE, type Keying } from './change'
import { isCarried, type Limb } from './limb'
import { pivotAfter, pivotOnPlate, poseChanged, poseTurned } from './pose'

/**
 * The end of a limb of two bones brought to a place of the plate.
 *
 * With bones of fixed length both turn about their pivots, and the elbow lies on the given side, by itself on that where it is ({@link bendSideOf}): the law of cosines in square plate
 * pixels. With bones that may stretch the limb keeps its bend: it turns and grows or shrinks as a whole about its root, as a limb
 * does in the picture that is seen from nearer or farther; what hangs on it keeps its size. Where a Mover's perspective or an
 * uneven scale makes of turns something else, they are bettered by Newton's method on the limb as it is evaluated.
 *
 * @param grabbed  place of the plate that is taken hold of; of a limb with a hand its pivot goes to the target
 * @returns null when the limb is locked
 */
export function limbPulled(
  document: RotoDocument,
  limb: Limb,
  frame: number,
  grabbed: Vector2d,
  target: Vector2d,
  stretches: boolean,
  how: Keying = KEY_HERE,
  side: Side = bendSideOf(document, limb, frame, limb.end ? pivotOnPlate(document, limb.end, frame) : grabbed).side,
): Patch[] | null {
  const { upper, lower, end } = limb
  if (upper.locked || lower.locked) return null
  const aspect = shotPixelAspect(document)
  const square = ([x, y]: Vector2d): Vector2d => [x * aspect, y]
  const root = square(pivotOnPlate(document, upper, frame))
  const joint = square(pivotOnPlate(document, lower, frame))
  const tip = square(end ? pivotOnPlate(document, end, frame) : grabbed)
  const goal = square(target)
  const turned = (part: typeof upper, angle: number, size = 0) =>
    poseChanged(document, part, frame, poseTurned(angle, Math.exp(size)), how)
  const betterThan = (guess: readonly [number, number], patchesFor: (a: number, b: number) => Patch[]) =>
    patchesFor(
      ...solvedInTwoUnknowns(guess, target, (a, b) => tipAfter(document, limb, frame, grabbed, patchesFor(a, b))),
    )
  if (stretches) {
    const [before, after] = [vectorBetween(root, tip), vectorBetween(root, goal)]
    return betterThan(
      [angleBetween(before, after), Math.log(vectorLength(after) / vectorLength(before))],
      (angle, size) => [
        ...turned(upper, angle, size),
        ...(isCarried(lower) ? [] : turned(lower, angle, size)),
        ...(end && isCarried(end) ? turned(end, 0, -size) : []),
      ],
    )
  }
  const turn = twoBoneTurn(root, joint, tip, goal, side)
  const guess = [turn.upper, turn.lower - (isCarried(lower) ? turn.upper : 0)] as const
  const patchesFor = (a: number, b: number) => [...turned(upper, a), ...turned(lower, b)]
  const reach = vectorLength(vectorBetween(root, joint)) + vectorLength(vectorBetween(joint, tip))
  // Out of reach it is straight, as near as it comes.
  return vectorLength(vectorBetween(root, goal)) > reach * (1 + 1e-9)
    ? patchesFor(...guess)
    : betterThan(guess, patchesFor)
}

/** Where the end of the limb is once patches are applied. */
function tipAfter(
  document: RotoDocument,
  { lower, end }: Limb,
  frame: number,
  grabbed: Vector2d,
  patches: Patch[],
): Vector2d {
  if (end) return pivotAfter(document, patches, end, frame)
  const after = withPatchesApplied(document, patches)
  const place = applyToPoint(invert(worldAt(document, lower, frame)), grabbed[0], grabbed[1])
  const [x, y] = applyToPoint(worldAt(after, findObject(after, 'part', lower.id)!, frame), place[0]!, place[1]!)
  return [x!, y!]
}
