import { findObject, type Part, type Patch } from '@tender-lasso/core/document'
import {
  bendSideOf,
  boneTip,
  limbPosed,
  limbOf,
  limbPulled,
  pivotOnPlate,
  poseChanged,
  poseTurned,
  withEnd,
  type Limb,
} from '@tender-lasso/core/edits'
import { shapesOf } from '@tender-lasso/core/evaluation'
import { posedPart } from '../../store'
import { isDragged } from './dragStart'
import { GRAB_PIXELS, hitTest, shapesUnder } from '../../selection'
import type { PointerInput, Tool, ToolContext } from './tool'

/** What of the limb is in the hand: its end, the tip of what is at its end, or the joint between its bones. */
type Grip = { at: 'end'; limb: Limb } | { at: 'tip' | 'joint'; limb: Limb & { end: Part } }

type State = { kind: 'idle' } | { kind: 'pressed' | 'pulling'; x: number; y: number; time: number; grip: Grip }

const IDLE: State = { kind: 'idle' }

/** A hand or a foot is held by its tip in this last share of the way from its joint. */
const TIP_SHARE = 1 / 3

/**
 * Pulls the end of a limb of two bones: both turn, the elbow keeps its side; with Alt the limb keeps its bend and stretches. By
 * its tip a hand or a foot turns alone. The joint between the bones, pulled across the limb, changes sides; with Alt it goes
 * wherever it is pulled, and the end stays.
 */
export const pullTool: Tool<State> = {
  idle: IDLE,
  cursor: 'grab',
  down(_state, input, context) {
    const part = partUnder(input, context)
    if (!part) return { state: IDLE, say: 'Pull at a hand, a foot or the lower bone of a limb' }
    const grip = gripOn(part, input, context)
    if (typeof grip === 'string') return { state: IDLE, say: grip }
    const selection = { partId: part.id, shapeIds: [], pointIds: new Set<string>(), trackIds: [], keys: [] }
    return { state: { kind: 'pressed', x: input.x, y: input.y, time: input.time, grip }, selection }
  },
  hover(state, input, context) {
    const part = state.kind === 'idle' ? partUnder(input, context) : null
    const grip = part && gripOn(part, input, context)
    if (!grip || typeof grip === 'string') return null
    const moving = grip.at === 'tip' ? [grip.limb.end] : [grip.limb.upper, grip.limb.lower]
    return { cursor: 'grab', words: `Drag: ${labelOf(grip)}`, shapes: moving.flatMap(({ id }) => shapesOf(context.document, id)) } // prettier-ignore
  },
  move(state, input, context) {
    if (state.kind === 'idle') return { state }
    if (state.kind === 'pressed' && !isDragged(state, input)) return { state }
    return { state: { ...state, kind: 'pulling' }, preview: pulled(state, input, context) }
  },
  up(state, input, context) {
    if (state.kind !== 'pulling') return { state: IDLE }
    const commit = { label: labelOf(state.grip), patches: pulled(state, input, context), reaches: true }
    return { state: IDLE, preview: [], commit }
  },
  key: () => ({ state: IDLE, preview: [] }),
  prompt(state, context) {
    const limb = limbAtHand(state, context)
    if (!limb) return 'Pull at a hand, a foot or the lower bone of a limb: both its bones turn'
    const end = limb.end ? ` by ${limb.end.name}, which turns alone by its tip` : ''
    return `Pulls ${limb.upper.name} and ${limb.lower.name}${end} · Alt stretches them · Shift V turns the bend over`
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

/** What is taken hold of on a Part, or why nothing is. */
function gripOn(part: Part, input: PointerInput, context: ToolContext): Grip | string {
  const limb = limbOf(context.document, part)
  if (!limb) return `${part.name} is not carried by another Part: a limb has two bones`
  if (limb.upper.locked || limb.lower.locked) return `${limb.upper.name} or ${limb.lower.name} is locked`
  const jointed = isAtPivot(limb.lower, input, context) ? withEnd(context.document, limb) : null
  if (jointed) return { at: 'joint', limb: jointed }
  const { end } = limb
  return end && !end.locked && isByTip(end, input, context)
    ? { at: 'tip', limb: { ...limb, end } }
    : { at: 'end', limb }
}

/** Whether a place lies in the outer share of the way from a Part's joint to its tip. */
function isByTip(part: Part, { x, y }: PointerInput, { document, frame }: ToolContext): boolean {
  const tip = boneTip(document, part, frame)
  if (!tip) return false
  const [px, py] = pivotOnPlate(document, part, frame)
  const [tx, ty] = [tip[0] - px, tip[1] - py]
  return (x - px) * tx + (y - py) * ty > (1 - TIP_SHARE) * (tx * tx + ty * ty)
}

function labelOf({ at, limb }: Grip): string {
  if (at === 'joint') return `bend at ${limb.lower.name}`
  return at === 'tip' ? `turn ${limb.end.name}` : `pull ${(limb.end ?? limb.lower).name}`
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
  return hit ? findObject(document, 'part', hit.shape.partId) : selected
}

function pulled(state: Exclude<State, { kind: 'idle' }>, input: PointerInput, context: ToolContext): Patch[] {
  const { document, frame, keying } = context
  const { at, limb } = state.grip
  const grabbed = [state.x, state.y] as const
  if (at === 'tip') return tipTurned(limb.end, state, input, context)
  // What goes along with the pointer: the joint, the wrist, or the place taken hold of.
  const held = at === 'joint' ? limb.lower : limb.end
  const from = held ? pivotOnPlate(document, held, frame) : grabbed
  const target = [from[0] + input.x - state.x, from[1] + input.y - state.y] as const
  const patches =
    at === 'joint'
      ? limbPosed(document, limb, frame, target, input.alt, keying)
      : limbPulled(document, limb, frame, grabbed, target, input.alt, keying, sideAtHand(limb, context, grabbed).side)
  return patches ?? []
}

/** A hand or a foot turned about its joint as the pointer goes round it. */
function tipTurned(part: Part, from: { x: number; y: number }, to: PointerInput, context: ToolContext): Patch[] {
  const { document, frame, keying } = context
  const [px, py] = pivotOnPlate(document, part, frame)
  const [ax, ay, bx, by] = [from.x - px, from.y - py, to.x - px, to.y - py]
  return poseChanged(document, part, frame, poseTurned(Math.atan2(ax * by - ay * bx, ax * bx + ay * by)), keying)
}
