import { applyToPoint, invert, twoBoneTurn } from '../../geometry'
import { shotPixelAspect, worldAt } from '../evaluate'
import { allOf, find, type Part, type RotoDocument } from '../objects'
import { applyPatch, isConflict, type Patch } from '../patches'
import { KEY_HERE, type Keying } from './change'
import { pivotOnPlate, poseChanged, poseTurned } from './pose'

/** Two bones of a limb and what is taken hold of at their end. */
export interface Limb {
  upper: Part
  lower: Part
  /** The Part at the end whose pivot is pulled; null: a place of the lower bone itself. */
  end: Part | null
}

/**
 * The limb that a Part ends: as a hand or a foot its parent and grandparent, otherwise itself and its parent; null where
 * there are not two bones. A hand carries nothing, and what carries its arm is a bone: pinned itself, or with no other limb.
 */
export function limbOf(document: RotoDocument, part: Part): Limb | null {
  const parent = part.parentId === null ? undefined : find(document, 'part', part.parentId)
  if (!parent) return null
  const grandparent = parent.parentId === null ? undefined : find(document, 'part', parent.parentId)
  const carriedBy = (id: string) => allOf(document, 'part').filter((other) => other.parentId === id).length
  const isBone = grandparent?.pin?.to === 'parent' || (grandparent && carriedBy(grandparent.id) === 1)
  return isBone && grandparent && carriedBy(part.id) === 0
    ? { upper: grandparent, lower: parent, end: part }
    : { upper: parent, lower: part, end: null }
}

const ENOUGH = 1e-7
const MOST_ROUNDS = 8
const SMALL_TURN = 1e-5

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
  grabbed: readonly [number, number],
  target: readonly [number, number],
  stretches: boolean,
  how: Keying = KEY_HERE,
): Patch[] | null {
  const { upper, lower, end } = limb
  if (upper.locked || lower.locked) return null
  const aspect = shotPixelAspect(document)
  const square = ([x, y]: readonly [number, number]) => [x * aspect, y] as const
  const root = pivotOnPlate(document, upper, frame)
  const joint = pivotOnPlate(document, lower, frame)
  const tip = end ? pivotOnPlate(document, end, frame) : grabbed
  const [r, j, e, t] = [root, joint, tip, target].map(square) as [P, P, P, P]
  const reach = Math.hypot(j[0] - r[0], j[1] - r[1]) + Math.hypot(e[0] - j[0], e[1] - j[1])
  const far = Math.hypot(t[0] - r[0], t[1] - r[1]) / (reach || 1)
  const factor = stretches && far > 1 ? far : 1
  const turn = twoBoneTurn(r, [r[0] + (j[0] - r[0]) * factor, r[1] + (j[1] - r[1]) * factor], [r[0] + (e[0] - r[0]) * factor, r[1] + (e[1] - r[1]) * factor], t) // prettier-ignore
  // A lower bone with a motion of its own does not go round with the upper.
  const isCarried = !lower.mover && lower.carriers.length === 0
  const patchesFor = (a: number, b: number): Patch[] => [
    ...poseChanged(document, upper, frame, poseTurned(a, factor), how),
    ...poseChanged(document, lower, frame, poseTurned(b), how),
    // What hangs on the limb keeps its size.
    ...(end && factor !== 1 ? poseChanged(document, end, frame, poseTurned(0, 1 / factor), how) : []),
  ]
  let [a, b] = [turn.upper, turn.lower - (isCarried ? turn.upper : 0)]
  if (far > 1 + 1e-9 && factor === 1) return patchesFor(a, b)
  const tipAt = (first: number, second: number) => tipAfter(document, limb, frame, grabbed, patchesFor(first, second))
  for (let round = 0; round < MOST_ROUNDS; round++) {
    const now = tipAt(a, b)
    const [ox, oy] = [target[0] - now[0], target[1] - now[1]]
    if (Math.hypot(ox, oy) < ENOUGH) break
    const [pa, pb] = [tipAt(a + SMALL_TURN, b), tipAt(a, b + SMALL_TURN)]
    const [ax, ay] = [(pa[0] - now[0]) / SMALL_TURN, (pa[1] - now[1]) / SMALL_TURN]
    const [bx, by] = [(pb[0] - now[0]) / SMALL_TURN, (pb[1] - now[1]) / SMALL_TURN]
    const determinant = ax * by - ay * bx
    // A limb stretched out straight can only be turned as a whole.
    if (Math.abs(determinant) < 1e-3) break
    a += (ox * by - oy * bx) / determinant
    b += (ax * oy - ay * ox) / determinant
  }
  return patchesFor(a, b)
}

type P = readonly [number, number]

/** Where the end of the limb is once patches are applied. */
function tipAfter(document: RotoDocument, { lower, end }: Limb, frame: number, grabbed: P, patches: Patch[]): P {
  let after = document
  for (const patch of patches) {
    const next = applyPatch(after, patch)
    if (!isConflict(next)) after = next
  }
  if (end) return pivotOnPlate(after, find(after, 'part', end.id)!, frame)
  const place = applyToPoint(invert(worldAt(document, lower, frame)), grabbed[0], grabbed[1])
  const [x, y] = applyToPoint(worldAt(after, find(after, 'part', lower.id)!, frame), place[0]!, place[1]!)
  return [x!, y!]
}
