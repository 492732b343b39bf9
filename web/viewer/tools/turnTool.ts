import { pivotOnPlate, pivotPlaced, poseChanged, poseTurned } from '@tender-lasso/core/edits'
import { type Patch } from '@tender-lasso/core/document'
import { linearAbout } from '@tender-lasso/core/geometry'
import { posedPart } from '../../store'
import { pivotOfChosen, chosenShapes, mapPatches } from '../../selection'
import { isDragged } from './dragStart'
import type { PointerInput, Tool, ToolContext } from './tool'

type State =
  | { kind: 'idle' }
  | { kind: 'pressed'; x: number; y: number; time: number }
  /** `angle`: how far the pointer has gone round the pivot, more than once round as well. */
  | { kind: 'turning'; x: number; y: number; pivot: readonly [number, number]; angle: number }

/**
 * A click puts the pivot, of a joint with Alt only: a drag too short to be one must not take a limb apart. A drag rotates what
 * is selected about it, Shift scales it, Alt scales x and y apart. Of a Part selected by itself it is the pose, and its
 * children go along.
 */
export const turnTool: Tool<State> = {
  idle: { kind: 'idle' },
  cursor: 'crosshair',
  down: (_state, input) => ({ state: { kind: 'pressed', x: input.x, y: input.y, time: input.time } }),
  move(state, input, context) {
    if (state.kind === 'idle') return { state }
    if (state.kind === 'pressed' && !isDragged(state, input)) return { state }
    const next = state.kind === 'turning' ? wound(state, input) : begun(state, input, context)
    return typeof next === 'string'
      ? { state: this.idle, say: next }
      : { state: next, preview: turned(next, input, context) }
  },
  up(state, input, context) {
    const part = posedPart(context)
    if (state.kind === 'pressed') {
      if (!part) return { state: this.idle, pivot: [input.x, input.y] }
      if (part.locked) return { state: this.idle, say: `${part.name} is locked` }
      if (part.pin?.to === 'parent' && !input.alt) {
        return { state: this.idle, say: `${part.name} turns about its joint; Alt-click puts the joint elsewhere` }
      }
      const patches = pivotPlaced(context.document, part, context.frame, input.x, input.y)
      return { state: this.idle, commit: { label: `put the pivot of ${part.name}`, patches } }
    }
    if (state.kind !== 'turning') return { state }
    const verb = input.shift || input.alt ? 'scale' : 'rotate'
    const label = part ? `${verb} ${part.name}` : `${verb} about the pivot`
    const patches = turned(wound(state, input), input, context)
    return { state: this.idle, preview: [], commit: { label, patches, reaches: true } }
  },
  key: () => ({ state: { kind: 'idle' }, preview: [] }),
  prompt(_state, context) {
    const joint = posedPart(context)?.pin?.to === 'parent'
    return `Drag turns, with Shift scales, with Alt scales x and y apart · ${joint ? 'Alt-click puts the joint' : 'a click puts the pivot'}`
  },
  sketch: (state) => (state.kind === 'turning' ? { lines: [], rings: [state.pivot] } : null),
}

function begun(
  { x, y }: { x: number; y: number },
  input: PointerInput,
  context: ToolContext,
): Extract<State, { kind: 'turning' }> | string {
  const part = posedPart(context)
  if (part?.locked) return `${part.name} is locked`
  const pivot = part ? pivotOnPlate(context.document, part, context.frame) : pivotOfChosen(context)
  if (!pivot) return 'Select a Part, a shape or points first'
  return wound({ kind: 'turning', x, y, pivot, angle: 0 }, input)
}

/** The same gesture with the pointer elsewhere, its angle followed the shorter way. */
function wound(state: Extract<State, { kind: 'turning' }>, input: PointerInput) {
  const [px, py] = state.pivot
  const now = Math.atan2(input.y - py, input.x - px) - Math.atan2(state.y - py, state.x - px)
  const round = 2 * Math.PI
  return { ...state, angle: now + round * Math.round((state.angle - now) / round) }
}

function turned(state: Extract<State, { kind: 'turning' }>, input: PointerInput, context: ToolContext): Patch[] {
  const { angle, factorX, factorY } = turnOf(state, input)
  const part = posedPart(context)
  if (part)
    return poseChanged(context.document, part, context.frame, poseTurned(angle, factorX, factorY), context.keying)
  const [px, py] = state.pivot
  const [c, s] = [Math.cos(angle), Math.sin(angle)]
  const map = linearAbout(px, py, factorX * c, -s * factorY, factorX * s, c * factorY)
  return mapPatches(context, chosenShapes(context), context.selection.pointIds, map)
}

/** What the drag asks for: an angle, or factors. */
function turnOf(state: Extract<State, { kind: 'turning' }>, input: PointerInput) {
  const [px, py] = state.pivot
  const from = [state.x - px, state.y - py] as const
  const to = [input.x - px, input.y - py] as const
  if (input.alt) {
    const ratio = (a: number, b: number) => (Math.abs(a) < 1 ? 1 : Math.max(0.01, b / a))
    return { angle: 0, factorX: ratio(from[0], to[0]), factorY: ratio(from[1], to[1]) }
  }
  if (input.shift) {
    const factor = Math.max(0.01, Math.hypot(...to) / Math.max(1, Math.hypot(...from)))
    return { angle: 0, factorX: factor, factorY: factor }
  }
  return { angle: state.angle, factorX: 1, factorY: 1 }
}
