import {
  find,
  outlineAt,
  pivotOnPlate,
  pivotPlaced,
  poseTurned,
  shapesOf,
  valuesKeyed,
  valuesMovedOnPlate,
  type Patch,
  type Shape,
} from '@tender-lasso/core/document'
import { boundsOf, multiply, translation } from '@tender-lasso/core/geometry'
import { posedPart } from '../../state/shotStore'
import type { PointerInput, Tool, ToolContext } from './tool'

type State =
  | { kind: 'idle' }
  | { kind: 'pressed'; x: number; y: number }
  | { kind: 'turning'; x: number; y: number; pivot: readonly [number, number] }

const DRAG_PIXELS = 3

/**
 * A click puts the pivot; a drag rotates what is selected about it, Shift scales it, Alt scales x and y apart. Of a Part
 * selected by itself it is the pose, and its children go along.
 */
export const turnTool: Tool<State> = {
  idle: { kind: 'idle' },
  cursor: 'crosshair',
  down: (_state, input) => ({ state: { kind: 'pressed', x: input.x, y: input.y } }),
  move(state, input, context) {
    if (state.kind === 'idle') return { state }
    const way = Math.hypot(input.x - state.x, input.y - state.y) * input.scale
    if (state.kind === 'pressed' && way < DRAG_PIXELS) return { state }
    const part = posedPart(context)
    if (part?.locked) return { state: this.idle, say: `${part.name} is locked` }
    const pivot = part ? pivotOnPlate(context.document, part, context.frame) : (context.pivot ?? middleOf(context))
    if (!pivot) return { state: this.idle, say: 'Select a Part, a shape or points first' }
    const next: State = { kind: 'turning', x: state.x, y: state.y, pivot }
    return { state: next, preview: turned(next, input, context) }
  },
  up(state, input, context) {
    const part = posedPart(context)
    if (state.kind === 'pressed') {
      if (!part) return { state: this.idle, pivot: [input.x, input.y] }
      if (part.locked) return { state: this.idle, say: `${part.name} is locked` }
      const patches = pivotPlaced(context.document, part, context.frame, input.x, input.y)
      return { state: this.idle, commit: { label: `put the pivot of ${part.name}`, patches } }
    }
    if (state.kind !== 'turning') return { state }
    const verb = input.shift || input.alt ? 'scale' : 'rotate'
    const label = part ? `${verb} ${part.name}` : `${verb} about the pivot`
    return {
      state: this.idle,
      preview: [],
      commit: { label, patches: turned(state, input, context) },
    }
  },
  key: () => ({ state: { kind: 'idle' }, preview: [] }),
  sketch: (state) => (state.kind === 'turning' ? { lines: [], rings: [state.pivot] } : null),
}

function chosenShapes({ document, selection }: ToolContext): Shape[] {
  if (selection.shapeIds.length) return selection.shapeIds.flatMap((id) => find(document, 'shape', id) ?? [])
  return selection.partId === null ? [] : shapesOf(document, selection.partId)
}

/** Middle of the box of what is selected. */
function middleOf(context: ToolContext): [number, number] | null {
  const points: number[] = []
  for (const shape of chosenShapes(context)) {
    const outline = outlineAt(context.document, shape, context.frame)
    shape.pointIds.forEach((id, i) => {
      if (context.selection.pointIds.size && !context.selection.pointIds.has(id)) return
      const w = outline[i * 9 + 2]!
      points.push(outline[i * 9]! / w, outline[i * 9 + 1]! / w)
    })
  }
  if (points.length === 0) return null
  const box = boundsOf(points)
  return [(box.left + box.right) / 2, (box.top + box.bottom) / 2]
}

function turned(state: Extract<State, { kind: 'turning' }>, input: PointerInput, context: ToolContext): Patch[] {
  const { angle, factorX, factorY } = turnOf(state, input)
  const part = posedPart(context)
  if (part) return poseTurned(part, context.frame, angle, factorX, factorY)
  const [px, py] = state.pivot
  const [c, s] = [Math.cos(angle), Math.sin(angle)]
  const linear = Float64Array.of(factorX * c, -s * factorY, 0, factorX * s, c * factorY, 0, 0, 0, 1)
  const map = multiply(translation(px, py), multiply(linear, translation(-px, -py)))
  const { pointIds } = context.selection
  return chosenShapes(context).flatMap((shape) => {
    const isChosen = (id: string) => pointIds.size === 0 || pointIds.has(id)
    return valuesKeyed(shape, context.frame, valuesMovedOnPlate(context.document, shape, context.frame, isChosen, map))
  })
}

/** What the drag asks for: an angle within half a turn, or factors. */
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
  const turn = Math.atan2(to[1], to[0]) - Math.atan2(from[1], from[0])
  return { angle: Math.atan2(Math.sin(turn), Math.cos(turn)), factorX: 1, factorY: 1 }
}
