import { outlineAt, valuesKeyed, valuesMovedOnPlate, type Patch, type Shape } from '@tender-lasso/core/document'
import { boundsOf, multiply, translation, type Matrix3 } from '@tender-lasso/core/geometry'
import { find, shapesOf } from '@tender-lasso/core/document'
import type { PointerInput, Tool, ToolContext } from './tool'

type State =
  | { kind: 'idle' }
  | { kind: 'pressed'; x: number; y: number }
  | { kind: 'turning'; x: number; y: number; pivot: readonly [number, number] }

const DRAG_PIXELS = 3

/** A click puts the pivot; a drag rotates what is selected about it, Shift scales it, Alt scales x and y apart. */
export const turnTool: Tool<State> = {
  idle: { kind: 'idle' },
  cursor: 'crosshair',
  down: (_state, input) => ({ state: { kind: 'pressed', x: input.x, y: input.y } }),
  move(state, input, context) {
    if (state.kind === 'idle') return { state }
    const way = Math.hypot(input.x - state.x, input.y - state.y) * input.scale
    if (state.kind === 'pressed' && way < DRAG_PIXELS) return { state }
    const pivot = context.pivot ?? middleOf(context)
    if (!pivot) return { state: this.idle, say: 'Select a shape or points first' }
    const next: State = { kind: 'turning', x: state.x, y: state.y, pivot }
    return { state: next, preview: turned(next, input, context) }
  },
  up(state, input, context) {
    if (state.kind === 'pressed') return { state: this.idle, pivot: [input.x, input.y] }
    if (state.kind !== 'turning') return { state }
    const label = input.shift || input.alt ? 'scale' : 'rotate'
    return {
      state: this.idle,
      preview: [],
      commit: { label: `${label} about the pivot`, patches: turned(state, input, context) },
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
  const [px, py] = state.pivot
  const about = (linear: Matrix3) => multiply(translation(px, py), multiply(linear, translation(-px, -py)))
  const map = about(linearPart(state, input))
  const { pointIds } = context.selection
  return chosenShapes(context).flatMap((shape) => {
    const isChosen = (id: string) => pointIds.size === 0 || pointIds.has(id)
    return valuesKeyed(shape, context.frame, valuesMovedOnPlate(context.document, shape, context.frame, isChosen, map))
  })
}

function linearPart(state: Extract<State, { kind: 'turning' }>, input: PointerInput): Matrix3 {
  const [px, py] = state.pivot
  const from = [state.x - px, state.y - py] as const
  const to = [input.x - px, input.y - py] as const
  if (input.alt) {
    const ratio = (a: number, b: number) => (Math.abs(a) < 1 ? 1 : b / a)
    return Float64Array.of(ratio(from[0], to[0]), 0, 0, 0, ratio(from[1], to[1]), 0, 0, 0, 1)
  }
  if (input.shift) {
    const factor = Math.max(0.01, Math.hypot(...to) / Math.max(1, Math.hypot(...from)))
    return Float64Array.of(factor, 0, 0, 0, factor, 0, 0, 0, 1)
  }
  const angle = Math.atan2(to[1], to[0]) - Math.atan2(from[1], from[0])
  const [c, s] = [Math.cos(angle), Math.sin(angle)]
  return Float64Array.of(c, -s, 0, s, c, 0, 0, 0, 1)
}
