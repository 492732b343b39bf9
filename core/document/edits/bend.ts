import { twoNumbersFor } from '../../geometry'
import { shotPixelAspect } from '../evaluate'
import { find, type Part, type RotoDocument } from '../objects'
import { withPatchesApplied, type Patch } from '../patches'
import { KEY_HERE, type Keying } from './change'
import { isCarried, type Limb } from './limb'
import { pivotOnPlate, poseChanged, poseTurned } from './pose'

type P = readonly [number, number]

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
  target: P,
  stretches: boolean,
  how: Keying = KEY_HERE,
): Patch[] | null {
  if (upper.locked || lower.locked) return null
  const aspect = shotPixelAspect(document)
  const square = ([x, y]: P) => [x * aspect, y] as const
  const tip = pivotOnPlate(document, end, frame)
  const root = square(pivotOnPlate(document, upper, frame))
  const [toJoint, toTip, toTarget] = [pivotOnPlate(document, lower, frame), tip, target].map((place) =>
    way(root, square(place)),
  ) as [P, P, P]
  const [fromJoint, fromTarget] = [way(toJoint, toTip), way(toTarget, toTip)]
  const placeOf = (patches: Patch[], { id }: Part): P => {
    const after = withPatchesApplied(document, patches)
    return pivotOnPlate(after, find(after, 'part', id)!, frame)
  }
  const upperTurned = (a: number, size: number) =>
    poseChanged(document, upper, frame, poseTurned(a, Math.exp(size)), how)
  const lowerTurned = (b: number, size: number) =>
    poseChanged(document, lower, frame, poseTurned(b, Math.exp(size)), how)
  const share = isCarried(lower) ? 1 : 0
  if (!stretches) {
    if (Math.sign(cross(toTip, toJoint)) === Math.sign(cross(toTip, toTarget))) return []
    const [a, seen] = [2 * angle(toJoint, toTip), 2 * angle(fromJoint, toTip)]
    const patchesFor = (first: number, second: number) => [...upperTurned(first, 0), ...lowerTurned(second, 0)]
    const turns = twoNumbersFor([a, seen - share * a], tip, (x, y) => placeOf(patchesFor(x, y), end))
    return patchesFor(...turns)
  }
  const size = Math.log(length(toTarget) / length(toJoint))
  const [a, f] = twoNumbersFor([angle(toJoint, toTarget), size], target, (x, y) => placeOf(upperTurned(x, y), lower))
  const first = upperTurned(a, f)
  const guess = [angle(fromJoint, fromTarget) - share * a, Math.log(length(fromTarget) / length(fromJoint)) - share * f] as const // prettier-ignore
  const [b, g] = twoNumbersFor(guess, tip, (x, y) => placeOf([...first, ...lowerTurned(x, y)], end))
  const kept = poseChanged(document, end, frame, poseTurned(0, Math.exp(-g - share * f)), how)
  return [...first, ...lowerTurned(b, g), ...(isCarried(end) ? kept : [])]
}

const way = (from: P, to: P): P => [to[0] - from[0], to[1] - from[1]]
const length = ([x, y]: P) => Math.max(1e-6, Math.hypot(x, y))
const cross = (a: P, b: P) => a[0] * b[1] - a[1] * b[0]
/** From one direction to another, within half a turn. */
const angle = (a: P, b: P) => Math.atan2(cross(a, b), a[0] * b[0] + a[1] * b[1])
