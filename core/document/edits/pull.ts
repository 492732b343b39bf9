import { applyToPoint, invert, twoBoneTurn, twoNumbersFor } from '../../geometry'
import { shotPixelAspect, worldAt } from '../evaluate'
import { find, type RotoDocument } from '../objects'
import { withPatchesApplied, type Patch } from '../patches'
import { KEY_HERE, type Keying } from './change'
import { isCarried, type Limb } from './limb'
import { pivotOnPlate, poseChanged, poseTurned } from './pose'

/**
 * The end of a limb of two bones brought to a place of the plate: both turn about their pivots, the elbow keeps its side.
 *
 * The turns come from the law of cosines in square plate pixels. Where a Mover's perspective or an uneven scale makes of
 * turns something else, they are bettered by Newton's method on the limb as it is evaluated.
 *
 * @param grabbed   place of the plate that is taken hold of; of a limb with a hand its pivot goes to the target
 * @param stretches the bones may grow to reach a target that is too far
 * @returns null when the limb is locked
 */
export function limbPulled(
  document: RotoDocument,
  limb: Limb,
  frame: number,
  grabbed: P,
  target: P,
  stretches: boolean,
  how: Keying = KEY_HERE,
): Patch[] | null {
  const { upper, lower, end } = limb
  if (upper.locked || lower.locked) return null
  const aspect = shotPixelAspect(document)
  const square = ([x, y]: P) => [x * aspect, y] as const
  const root = pivotOnPlate(document, upper, frame)
  const joint = pivotOnPlate(document, lower, frame)
  const tip = end ? pivotOnPlate(document, end, frame) : grabbed
  const [r, j, e, t] = [root, joint, tip, target].map(square) as [P, P, P, P]
  const reach = Math.hypot(j[0] - r[0], j[1] - r[1]) + Math.hypot(e[0] - j[0], e[1] - j[1])
  const far = Math.hypot(t[0] - r[0], t[1] - r[1]) / (reach || 1)
  const factor = stretches && far > 1 ? far : 1
  const turn = twoBoneTurn(r, [r[0] + (j[0] - r[0]) * factor, r[1] + (j[1] - r[1]) * factor], [r[0] + (e[0] - r[0]) * factor, r[1] + (e[1] - r[1]) * factor], t) // prettier-ignore
  const patchesFor = (a: number, b: number): Patch[] => [
    ...poseChanged(document, upper, frame, poseTurned(a, factor), how),
    ...poseChanged(document, lower, frame, poseTurned(b), how),
    // What hangs on the limb keeps its size.
    ...(end && factor !== 1 ? poseChanged(document, end, frame, poseTurned(0, 1 / factor), how) : []),
  ]
  const guess = [turn.upper, turn.lower - (isCarried(lower) ? turn.upper : 0)] as const
  if (far > 1 + 1e-9 && factor === 1) return patchesFor(...guess)
  const tipAt = (a: number, b: number) => tipAfter(document, limb, frame, grabbed, patchesFor(a, b))
  return patchesFor(...twoNumbersFor(guess, target, tipAt))
}

type P = readonly [number, number]

/** Where the end of the limb is once patches are applied. */
function tipAfter(document: RotoDocument, { lower, end }: Limb, frame: number, grabbed: P, patches: Patch[]): P {
  const after = withPatchesApplied(document, patches)
  if (end) return pivotOnPlate(after, find(after, 'part', end.id)!, frame)
  const place = applyToPoint(invert(worldAt(document, lower, frame)), grabbed[0], grabbed[1])
  const [x, y] = applyToPoint(worldAt(after, find(after, 'part', lower.id)!, frame), place[0]!, place[1]!)
  return [x!, y!]
}
