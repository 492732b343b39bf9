import { crossOf, lengthOf, turnBetween, twoNumbersFor, wayBetween, type Way } from '../../geometry'
import { shotPixelAspect } from '../evaluate'
import { find, type Part, type RotoDocument } from '../objects'
import { withPatchesApplied, type Patch } from '../patches'
import { KEY_HERE, type Keying } from './change'
import { isCarried, type Limb } from './limb'
import { pivotOnPlate, poseChanged, poseTurned } from './pose'

/**
 * The joint between the two bones of a limb moved, its end kept where it is.
 *
 * With bones of fixed length the joint has two places, mirrored about the way from root to end: it takes the one on the
 * target's side. Bones that may stretch bring it to the target itself; both change their size, what hangs on the limb keeps
 * its own.
 *
 * @returns null when the limb is locked, no patches when the joint stays
 */
export function limbBent(
  document: RotoDocument,
  { upper, lower, end }: Limb & { end: Part },
  frame: number,
  target: Way,
  stretches: boolean,
  how: Keying = KEY_HERE,
): Patch[] | null {
  if (upper.locked || lower.locked) return null
  const aspect = shotPixelAspect(document)
  const square = ([x, y]: Way) => [x * aspect, y] as const
  const tip = pivotOnPlate(document, end, frame)
  const root = square(pivotOnPlate(document, upper, frame))
  const [toJoint, toTip, toTarget] = [pivotOnPlate(document, lower, frame), tip, target].map((place) =>
    wayBetween(root, square(place)),
  ) as [Way, Way, Way]
  const [fromJoint, fromTarget] = [wayBetween(toJoint, toTip), wayBetween(toTarget, toTip)]
  const placeOf = (patches: Patch[], { id }: Part): Way => {
    const after = withPatchesApplied(document, patches)
    return pivotOnPlate(after, find(after, 'part', id)!, frame)
  }
  const upperTurned = (a: number, size: number) =>
    poseChanged(document, upper, frame, poseTurned(a, Math.exp(size)), how)
  const lowerTurned = (b: number, size: number) =>
    poseChanged(document, lower, frame, poseTurned(b, Math.exp(size)), how)
  const share = isCarried(lower) ? 1 : 0
  if (!stretches) {
    if (Math.sign(crossOf(toTip, toJoint)) === Math.sign(crossOf(toTip, toTarget))) return []
    const [a, seen] = [2 * turnBetween(toJoint, toTip), 2 * turnBetween(fromJoint, toTip)]
    const patchesFor = (first: number, second: number) => [...upperTurned(first, 0), ...lowerTurned(second, 0)]
    const turns = twoNumbersFor([a, seen - share * a], tip, (x, y) => placeOf(patchesFor(x, y), end))
    return patchesFor(...turns)
  }
  const size = Math.log(lengthOf(toTarget) / lengthOf(toJoint))
  const [a, f] = twoNumbersFor([turnBetween(toJoint, toTarget), size], target, (x, y) =>
    placeOf(upperTurned(x, y), lower),
  )
  const first = upperTurned(a, f)
  const guess = [turnBetween(fromJoint, fromTarget) - share * a, Math.log(lengthOf(fromTarget) / lengthOf(fromJoint)) - share * f] as const // prettier-ignore
  const [b, g] = twoNumbersFor(guess, tip, (x, y) => placeOf([...first, ...lowerTurned(x, y)], end))
  const kept = poseChanged(document, end, frame, poseTurned(0, Math.exp(-g - share * f)), how)
  return [...first, ...lowerTurned(b, g), ...(isCarried(end) ? kept : [])]
}
