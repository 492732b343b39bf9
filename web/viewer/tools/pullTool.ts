import { find, limbOf, limbPulled, pivotOnPlate, type Limb, type Patch } from '@tender-lasso/core/document'
import { posedPart } from '../../state/shotStore'
import { GRAB_PIXELS, hitTest, shapesUnder } from './hitTest'
import type { PointerInput, Tool, ToolContext } from './tool'

type State = { kind: 'idle' } | { kind: 'pressed' | 'pulling'; x: number; y: number; limb: Limb }

const IDLE: State = { kind: 'idle' }
const DRAG_PIXELS = 3

/** Pulls the end of a limb of two bones: both turn, the elbow keeps its side; Alt lets them stretch. */
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
    return { state: { kind: 'pressed', x: input.x, y: input.y, limb }, selection }
  },
  move(state, input, context) {
    if (state.kind === 'idle') return { state }
    const way = Math.hypot(input.x - state.x, input.y - state.y) * input.scale
    if (state.kind === 'pressed' && way < DRAG_PIXELS) return { state }
    return { state: { ...state, kind: 'pulling' }, preview: pulled(state, input, context) }
  },
  up(state, input, context) {
    if (state.kind !== 'pulling') return { state: IDLE }
    const label = `pull ${(state.limb.end ?? state.limb.lower).name}`
    return { state: IDLE, preview: [], commit: { label, patches: pulled(state, input, context), reaches: true } }
  },
  key: () => ({ state: IDLE, preview: [] }),
  prompt(state, context) {
    const limb = limbAtHand(state, context)
    if (!limb) return 'Pull at a hand, a foot or the lower bone of a limb: both its bones turn'
    const end = limb.end ? ` by ${limb.end.name}` : ''
    return `Pulls ${limb.upper.name} and ${limb.lower.name}${end}; Alt lets them stretch`
  },
  /** The bones that will turn, and their joints; under way the outlines tell it. */
  sketch(state, context) {
    const limb = state.kind === 'pulling' ? null : limbAtHand(state, context)
    if (!limb) return null
    const { document, frame } = context
    const joints = [limb.upper, limb.lower, limb.end ?? []].flat().map((part) => pivotOnPlate(document, part, frame))
    return { lines: [{ points: joints.flat(), isClosed: false }], rings: joints }
  },
}

/** The limb under way, or that of the selected Part. */
function limbAtHand(state: State, context: ToolContext): Limb | null {
  if (state.kind !== 'idle') return state.limb
  const part = posedPart(context)
  return part && limbOf(context.document, part)
}

/** The selected Part when the pointer is on it or at its joint, or else the Part whose shape is under the pointer. */
function partUnder(input: PointerInput, context: ToolContext) {
  const { document, frame, selection } = context
  const selected = posedPart(context)
  if (selected) {
    const [x, y] = pivotOnPlate(document, selected, frame)
    const isAtJoint = Math.hypot(x - input.x, y - input.y) * input.scale <= 2 * GRAB_PIXELS
    const isOnIt = shapesUnder(document, frame, input.x, input.y, input.scale).some(
      (shape) => shape.partId === selected.id,
    )
    if (isAtJoint || isOnIt) return selected
  }
  const hit = hitTest(document, frame, selection.shapeIds, selection.pointIds, input.x, input.y, input.scale)
  return hit ? find(document, 'part', hit.shape.partId) : selected
}

function pulled(state: Exclude<State, { kind: 'idle' }>, input: PointerInput, context: ToolContext): Patch[] {
  const { document, frame, keying } = context
  const { limb } = state
  const grabbed = [state.x, state.y] as const
  // Where the end goes: by as much as the pointer, from the wrist or from the place taken hold of.
  const from = limb.end ? pivotOnPlate(document, limb.end, frame) : grabbed
  const target = [from[0] + input.x - state.x, from[1] + input.y - state.y] as const
  return limbPulled(document, limb, frame, grabbed, target, input.alt, keying) ?? []
}
