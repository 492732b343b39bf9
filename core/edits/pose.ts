import { applyToPoint, invert } from '../geometry'
import { carryingWorldAt, poseAt, poseMatrix, worldAt } from '../evaluation'
import {
  allOf,
  findObject,
  POSE,
  type Part,
  type RotoDocument,
  withPatchesApplied,
  type Patch,
  outlineKeys,
  poseKeys,
  channelOf,
  pivotKeys,
  withKeys,
  withPoseKeys,
} from '../document'
import { formChanged, KEY_HERE, reachWeight, type KeyedChange, type Keying } from './change'
import { withDescendants } from './descendants'
import { keySet } from './keyPatches'
import { keyAdded } from './keys'
import { inCarryingSpace, pinAt } from './movers'

/** Where the pivot of a Part is on a frame, plate pixels. */
export function pivotOnPlate(document: RotoDocument, part: Part, frame: number): [number, number] {
  const [x, y] = applyToPoint(worldAt(document, part, frame), part.pivot[0], part.pivot[1])
  return [x!, y!]
}

/** Where the pivot of a Part is on a frame once patches are applied. */
export function pivotAfter(
  document: RotoDocument,
  patches: readonly Patch[],
  part: Part,
  frame: number,
): [number, number] {
  const after = withPatchesApplied(document, patches)
  return pivotOnPlate(after, findObject(after, 'part', part.id)!, frame)
}

/**
 * A change of a Part's pose on a frame. The first one leaves the Part where it is on the frame its shapes were drawn on: a
 * key stands there as well, so that an edit Here does not move what was right elsewhere.
 */
export function poseChanged(
  document: RotoDocument,
  part: Part,
  frame: number,
  change: KeyedChange,
  how: Keying = KEY_HERE,
): Patch[] {
  const patches = formChanged(part, frame, change, how)
  const rest = patches.length > 0 ? firstRest(document, part, frame) : null
  if (rest === null || reachWeight(how.reach, frame, rest) > 0) return patches
  return [keySet(channelOf(part), rest, poseAt(part, rest)), ...patches]
}

/** A key of the pose as it is on that frame; the first one brings one where the shapes were drawn, as a first change does. */
export function poseKeyAdded(document: RotoDocument, part: Part, frame: number): Patch[] {
  const rest = firstRest(document, part, frame)
  const first = rest === null || rest === frame ? [] : [keySet(channelOf(part), rest, poseAt(part, rest))]
  return [...first, ...keyAdded(channelOf(part), frame)]
}

/** Where the first key of a pose has to stand as well; null when there are keys. */
const firstRest = (document: RotoDocument, part: Part, frame: number) =>
  poseKeys(part).length === 0 ? restFrame(document, part, frame) : null

/** Of the frames on which shapes of a Part and of what it carries have keys, the one nearest to a frame. */
function restFrame(document: RotoDocument, part: Part, frame: number): number | null {
  const ids = new Set(withDescendants(document, part.id).map(({ id }) => id))
  const times = allOf(document, 'shape').flatMap((shape) =>
    ids.has(shape.partId) ? outlineKeys(shape).map((key) => key.time) : [],
  )
  return times.sort((a, b) => Math.abs(a - frame) - Math.abs(b - frame))[0] ?? null
}

/** A Part turned by an angle (radians) and scaled about its pivot; its children go along. */
export function poseTurned(angle: number, factorX = 1, factorY = factorX): KeyedChange {
  return (_values, pose) => {
    pose[POSE.rotation]! += angle
    pose[POSE.logScaleX]! += Math.log(factorX)
    pose[POSE.logScaleY]! += Math.log(factorY)
  }
}

/**
 * The Part moved by plate pixels, as seen on a frame.
 *
 * @returns null when its pivot is pinned: then it turns about that place and cannot leave it
 */
export function poseMoved(
  document: RotoDocument,
  part: Part,
  frame: number,
  dx: number,
  dy: number,
): KeyedChange | null {
  if (part.pin) return null
  const [x, y] = pivotOnPlate(document, part, frame)
  const [u, v] = applyToPoint(invert(carryingWorldAt(document, part, frame)), x + dx, y + dy)
  const here = poseAt(part, frame)
  const [wayX, wayY] = [u! - part.pivot[0] - here[POSE.x]!, v! - part.pivot[1] - here[POSE.y]!]
  return (_values, pose) => {
    pose[POSE.x]! += wayX
    pose[POSE.y]! += wayY
  }
}

/**
 * The pivot put at a place of the plate on a frame. Pose keys are re-expressed about it, so that nothing moves on them; a
 * pinned pivot is pinned anew at that place.
 */
export function pivotPlaced(document: RotoDocument, part: Part, frame: number, x: number, y: number): Patch[] {
  const [px, py] = applyToPoint(invert(worldAt(document, part, frame)), x, y)
  const pivot: [number, number] = [px!, py!]
  const keys = poseKeys(part).map((key) => {
    const [u, v] = applyToPoint(poseMatrix(document, part, key.values), pivot[0], pivot[1])
    const values = key.values.slice()
    values[POSE.x] = u! - pivot[0]
    values[POSE.y] = v! - pivot[1]
    return { ...key, values }
  })
  const after = pinMoved(document, part, frame, [x, y])(withPoseKeys({ ...part, pivot }, keys))
  return [{ kind: 'object', id: part.id, before: part, after }]
}

/** The Part with what holds its pivot at another place on the frame; places keyed on other frames go by as much. */
function pinMoved(document: RotoDocument, part: Part, frame: number, onPlate: [number, number]): (moved: Part) => Part {
  const { pin } = part
  if (pin?.to !== 'keys') {
    const to = pin?.to === 'track' ? { trackId: pin.trackId } : (pin?.to ?? null)
    return pinAt(document, part, frame, to, onPlate)
  }
  const [was, is] = [pivotOnPlate(document, part, frame), onPlate].map((place) =>
    inCarryingSpace(document, part, frame, place),
  )
  const [dx, dy] = [is![0] - was![0], is![1] - was![1]]
  const keys = pivotKeys(part).map((key) => ({
    ...key,
    values: Float64Array.of(key.values[0]! + dx, key.values[1]! + dy),
  }))
  return (moved) => ({ ...moved, channels: withKeys(moved.channels, 'pivot', keys) })
}
