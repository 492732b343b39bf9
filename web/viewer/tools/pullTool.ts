import {
  find,
  bendSideOf,
  limbBent,
  limbOf,
  limbPulled,
  pivotOnPlate,
  withEnd,
  type Limb,
  type Part,
  type Patch,
} from '@tender-lasso/core/document'
import { posedPart } from '../../state/shotStore'
import { isDragged } from './dragStart'
import { GRAB_PIXELS, hitTest, shapesUnder } from './hitTest'
import type { PointerInput, Tool, ToolContext } from './tool'

/** What of the limb is in the hand: its end, or the joint between its bones. */
type Grip = { at: 'end'; limb: Limb } | { at: 'joint'; limb: Limb & { end: Part } }

type State = { kind: 'idle' } | { kind: 'pressed' | 'pulling'; x: number; y: number; time: number; grip: Grip }

const IDLE: State = { kind: 'idle' }

/**
 * Pulls the end of a limb of two bones: both turn, the elbow keeps its side; with Alt the limb keeps its bend and stretches. The
 * joint between the bones, pulled across the limb, changes sides; with Alt it goes wherever it is pulled, and the end stays.
 */
export const pullTool: Tool<State> = {
  idle: IDLE,
  cursor: 'grab',
  down(_state, input, context) {
    const part = partUnder(input, context)
    if (!part) return { state: IDLE, say: 'Pull at a hand, a foot or the lower bone of a limb' }
    const limb = limbOf(context.document, part)
    if (!limb) return { state: IDLE, say: `${part.name} is not carried by another Part: a limb has two bones` }
    if (limb.upper.locked || limb.lower.locked) return { state: IDLE, say: `${limb.upper.name} or ${limb.lower.name} is locked` } // prettier-ignore
    const selection = { partId: part.id, shapeIds: [], pointIds: new Set<string>(), trackIds: [], keys: [] }
    const jointed = isAtPivot(limb.lower, input, context) ? withEnd(context.document, limb) : null
    const grip: Grip = jointed ? { at: 'joint', limb: jointed } : { at: 'end', limb }
    return { state: { kind: 'pressed', x: input.x, y: input.y, time: input.time, grip }, selection }
  },
  move(state, input, context) {
    if (state.kind === 'idle') return { state }
    if (state.kind === 'pressed' && !isDragged(state, input)) return { state }
    return { state: { ...state, kind: 'pulling' }, preview: pulled(state, input, context) }
  },
  up(state, input, context) {
    if (state.kind !== 'pulling') return { state: IDLE }
    const { at, limb } = state.grip
    const label = at === 'joint' ? `bend at ${limb.lower.name}` : `pull ${(limb.end ?? limb.lower).name}`
    return { state: IDLE, preview: [], commit: { label, patches: pulled(state, input, context), reaches: true } }
  },
  key: () => ({ state: IDLE, preview: [] }),
  prompt(state, context) {
    const limb = limbAtHand(state, context)
    if (!limb) return 'Pull at a hand, a foot or the lower bone of a limb: both its bones turn'
    const end = limb.end ? ` by ${limb.end.name}` : ''
    const joint = withEnd(context.document, limb) ? '; the joint between them goes across, with Alt anywhere' : ''
    return `Pulls ${limb.upper.name} and ${limb.lower.name}${end}; Alt keeps the bend and stretches them${joint}; Shift V turns the bend over`
  },
  /** The bones that will turn, and their joints; under way the outlines tell it. */
  sketch(state, context) {
    const limb = state.kind === 'pulling' ? null : limbAtHand(state, context)
    if (!limb) return null
    const { document, frame } = context
    const joints = [limb.upper, limb.lower, limb.end ?? []].flat().map((part) => pivotOnPlate(document, part, frame))
    const side = { points: sideMark(limb, context, joints), isClosed: false }
    return { lines: [{ points: joints.flat(), isClosed: false }, side], rings: joints }
  },
}

/** The side to which a limb bends: where it does, or as the artist turned it over, or as the rest of the figure does. */
function sideAtHand(limb: Limb, { document, frame, bendSides }: ToolContext, grabbed: readonly [number, number]) {
  const tip = limb.end ? pivotOnPlate(document, limb.end, frame) : grabbed
  const found = bendSideOf(document, limb, frame, tip)
  const turned = bendSides[limb.lower.id]
  return found.isGuess && turned ? { ...found, side: turned } : found
}

/** Screen pixels of the mark that shows to which side a limb bends. */
const SIDE_MARK = 14

/** A short line out of the joint, to the side to which it bends. */
function sideMark(limb: Limb, context: ToolContext, joints: readonly (readonly [number, number])[]): number[] {
  const [root, joint, tip = joint] = joints as [readonly [number, number], readonly [number, number], (readonly [number, number])?] // prettier-ignore
  const { side } = sideAtHand(limb, context, tip)
  const [x, y] = [tip[0] - root[0], tip[1] - root[1]]
  const length = Math.max(1e-6, Math.hypot(x, y))
  // The joint lies to the right of its way where that goes off to growing angles from the upper bone.
  return [...joint, joint[0] + (side * SIDE_MARK * y) / length, joint[1] - (side * SIDE_MARK * x) / length]
}

/** The limb under way, or that of the selected Part. */
function limbAtHand(state: State, context: ToolContext): Limb | null {
  if (state.kind !== 'idle') return state.grip.limb
  const part = posedPart(context)
  return part && limbOf(context.document, part)
}

function isAtPivot(part: Part, input: PointerInput, { document, frame }: ToolContext): boolean {
  const [x, y] = pivotOnPlate(document, part, frame)
  return Math.hypot(x - input.x, y - input.y) * input.scale <= 2 * GRAB_PIXELS
}

/**
 * The selected Part when the pointer is on it or at a joint of its limb, or else the Part whose shape is under the pointer.
 */
function partUnder(input: PointerInput, context: ToolContext) {
  const { document, frame, selection } = context
  const selected = posedPart(context)
  if (selected) {
    const joints = [selected, limbOf(document, selected)?.lower ?? selected]
    const isOnIt = shapesUnder(document, frame, input.x, input.y, input.scale).some(
      (shape) => shape.partId === selected.id,
    )
    if (isOnIt || joints.some((part) => isAtPivot(part, input, context))) return selected
  }
  const hit = hitTest(document, frame, selection.shapeIds, selection.pointIds, input.x, input.y, input.scale)
  return hit ? find(document, 'part', hit.shape.partId) : selected
}

function pulled(state: Exclude<State, { kind: 'idle' }>, input: PointerInput, context: ToolContext): Patch[] {
  const { document, frame, keying } = context
  const { at, limb } = state.grip
  const grabbed = [state.x, state.y] as const
  // What goes along with the pointer: the joint, the wrist, or the place taken hold of.
  const held = at === 'joint' ? limb.lower : limb.end
  const from = held ? pivotOnPlate(document, held, frame) : grabbed
  const target = [from[0] + input.x - state.x, from[1] + input.y - state.y] as const
  const patches =
    at === 'joint'
      ? limbBent(document, limb, frame, target, input.alt, keying)
      : limbPulled(document, limb, frame, grabbed, target, input.alt, keying, sideAtHand(limb, context, grabbed).side)
  return patches ?? []
}
