import {
  find,
  outlineAt,
  pivotOnPlate,
  pointInserted,
  poseMoved,
  valuesKeyed,
  valuesMovedOnPlate,
  valuesWithTangentAt,
  type Part,
  type Patch,
  type Shape,
} from '@tender-lasso/core/document'
import { translation } from '@tender-lasso/core/geometry'
import { posedPart } from '../../state/shotStore'
import { GRAB_PIXELS, hitTest, reachableShapes } from './hitTest'
import type { PointerInput, Tool, ToolContext, ToolStep } from './tool'

type State =
  | { kind: 'idle' }
  | { kind: 'pressed'; x: number; y: number; drag: Drag }
  | { kind: 'dragging'; x: number; y: number; drag: Drag; patches: Patch[] }
  | { kind: 'band'; x: number; y: number; toX: number; toY: number; adds: boolean }

type Drag =
  | { kind: 'points'; shapeIds: readonly string[]; pointIds: ReadonlySet<string> }
  | { kind: 'tangent'; shapeId: string; index: number; tangent: 'in' | 'out' }
  | { kind: 'part'; part: Part }

const IDLE: State = { kind: 'idle' }
/** Screen pixels the pointer must go before a press becomes a drag. */
const DRAG_PIXELS = 3

/** Selects points and shapes, drags them and their tangents, inserts points. */
export const selectTool: Tool<State> = {
  idle: IDLE,
  cursor: 'default',

  down(_state, input, context) {
    const { document, frame, selection } = context
    const held = partHeld(input, context)
    if (held) return pressed(input, { kind: 'part', part: held })
    const hit = hitTest(document, frame, selection.shapeIds, selection.pointIds, input.x, input.y, input.scale)
    if (!hit) {
      return { state: { kind: 'band', x: input.x, y: input.y, toX: input.x, toY: input.y, adds: input.shift } }
    }
    const { shape } = hit
    if (hit.kind === 'outline' && input.alt) {
      const { patches, pointId } = pointInserted(shape, hit.segment, hit.t)
      return {
        state: IDLE,
        commit: { label: 'insert a point', patches },
        selection: { ...chosen(shape), pointIds: new Set([pointId]) },
      }
    }
    if (hit.kind === 'tangent') {
      return pressed(input, { kind: 'tangent', shapeId: shape.id, index: hit.index, tangent: hit.tangent })
    }
    if (hit.kind === 'point') return pressPoint(shape, shape.pointIds[hit.index]!, input, context)
    const shapeIds = input.shift
      ? [...new Set([...selection.shapeIds, shape.id])]
      : keptOr(selection.shapeIds, shape.id)
    const step = pressed(input, { kind: 'points', shapeIds, pointIds: pointsOf(context, shapeIds) })
    return { ...step, selection: { ...chosen(shape), shapeIds, pointIds: new Set() } }
  },

  move(state, input, context) {
    if (state.kind === 'band') return { state: { ...state, toX: input.x, toY: input.y } }
    if (state.kind !== 'pressed' && state.kind !== 'dragging') return { state }
    const way = Math.hypot(input.x - state.x, input.y - state.y) * input.scale
    if (state.kind === 'pressed' && way < DRAG_PIXELS) return { state }
    const patches = dragPatches(state, input, context)
    return { state: { ...state, kind: 'dragging', patches }, preview: patches }
  },

  up(state, input, context) {
    if (state.kind === 'band') return bandSelected(state, context)
    if (state.kind !== 'dragging') return { state: IDLE }
    const { drag } = state
    if (drag.kind === 'part' && drag.part.pin) {
      return { state: IDLE, preview: [], say: `The pivot of ${drag.part.name} is pinned: turn it, or let the pivot go` }
    }
    const patches = dragPatches(state, input, context)
    const label =
      drag.kind === 'part'
        ? `move ${drag.part.name}`
        : drag.kind === 'tangent'
          ? 'move a tangent'
          : moveLabel(drag, context)
    return { state: IDLE, preview: [], commit: { label, patches } }
  },

  key(_state, key, { selection }) {
    if (key !== 'Escape') return { state: IDLE }
    // First the points, then everything: Escape goes outwards.
    const next = selection.pointIds.size
      ? { pointIds: new Set<string>() }
      : { pointIds: new Set<string>(), shapeIds: [], partId: null, trackIds: [], keyTimes: [] }
    return { state: IDLE, preview: [], selection: next }
  },

  sketch(state) {
    if (state.kind !== 'band') return null
    const { x, y, toX, toY } = state
    return { lines: [{ points: [x, y, toX, y, toX, toY, x, toY], isClosed: true }], rings: [] }
  },
}

/** The Part selected by itself, when its pivot is under the pointer. */
function partHeld(input: PointerInput, context: ToolContext): Part | null {
  const part = posedPart(context)
  if (!part || part.locked) return null
  const [x, y] = pivotOnPlate(context.document, part, context.frame)
  return Math.hypot(x - input.x, y - input.y) * input.scale <= GRAB_PIXELS ? part : null
}

function pressed(input: PointerInput, drag: Drag): ToolStep<State> {
  return { state: { kind: 'pressed', x: input.x, y: input.y, drag } }
}

function pressPoint(shape: Shape, pointId: string, input: PointerInput, { selection }: ToolContext): ToolStep<State> {
  let pointIds: ReadonlySet<string> = selection.pointIds
  if (input.shift) {
    const toggled = new Set(pointIds)
    if (!toggled.delete(pointId)) toggled.add(pointId)
    pointIds = toggled
  } else if (!pointIds.has(pointId)) pointIds = new Set([pointId])
  const shapeIds = input.shift ? [...new Set([...selection.shapeIds, shape.id])] : keptOr(selection.shapeIds, shape.id)
  const step = pressed(input, { kind: 'points', shapeIds, pointIds })
  return { ...step, selection: { ...chosen(shape), shapeIds, pointIds } }
}

const chosen = (shape: Shape) => ({ partId: shape.partId, shapeIds: [shape.id], trackIds: [], keyTimes: [] })

const keptOr = (ids: readonly string[], id: string) => (ids.includes(id) ? ids : [id])

function pointsOf(context: ToolContext, shapeIds: readonly string[]): Set<string> {
  return new Set(shapeIds.flatMap((id) => find(context.document, 'shape', id)?.pointIds ?? []))
}

function moveLabel(drag: Extract<Drag, { kind: 'points' }>, context: ToolContext): string {
  const names = drag.shapeIds.flatMap((id) => find(context.document, 'shape', id)?.name ?? [])
  const isWhole = drag.pointIds.size === pointsOf(context, drag.shapeIds).size
  return isWhole
    ? `move ${names.join(', ')}`
    : `move ${drag.pointIds.size === 1 ? 'a point' : 'points'} of ${names.join(', ')}`
}

function dragPatches(
  state: Extract<State, { kind: 'pressed' | 'dragging' }>,
  input: PointerInput,
  { document, frame }: ToolContext,
): Patch[] {
  const { drag } = state
  if (drag.kind === 'part') return poseMoved(document, drag.part, frame, input.x - state.x, input.y - state.y) ?? []
  if (drag.kind === 'tangent') {
    const shape = find(document, 'shape', drag.shapeId)
    if (!shape) return []
    return valuesKeyed(
      shape,
      frame,
      valuesWithTangentAt(document, shape, frame, drag.index, drag.tangent, input.x, input.y, input.alt),
    )
  }
  const map = translation(input.x - state.x, input.y - state.y)
  return drag.shapeIds.flatMap((id) => {
    const shape = find(document, 'shape', id)
    if (!shape || !shape.pointIds.some((pointId) => drag.pointIds.has(pointId))) return []
    return valuesKeyed(
      shape,
      frame,
      valuesMovedOnPlate(document, shape, frame, (p) => drag.pointIds.has(p), map),
    )
  })
}

/** Points inside the band, of the selected shapes or, when none is, of all; nothing found clears the selection. */
function bandSelected(
  band: Extract<State, { kind: 'band' }>,
  { document, frame, selection }: ToolContext,
): ToolStep<State> {
  const [left, right] = [Math.min(band.x, band.toX), Math.max(band.x, band.toX)]
  const [top, bottom] = [Math.min(band.y, band.toY), Math.max(band.y, band.toY)]
  const pointIds = new Set(band.adds ? selection.pointIds : [])
  const shapeIds = new Set(band.adds ? selection.shapeIds : [])
  let partId = band.adds ? selection.partId : null
  for (const shape of reachableShapes(document, frame, selection.shapeIds)) {
    if (selection.shapeIds.length && !selection.shapeIds.includes(shape.id)) continue
    const outline = outlineAt(document, shape, frame)
    shape.pointIds.forEach((id, i) => {
      const w = outline[i * 9 + 2]!
      const [x, y] = [outline[i * 9]! / w, outline[i * 9 + 1]! / w]
      if (x < left || x > right || y < top || y > bottom) return
      pointIds.add(id)
      shapeIds.add(shape.id)
      partId = shape.partId
    })
  }
  return {
    state: IDLE,
    selection: { pointIds, shapeIds: [...shapeIds], partId, keyTimes: [], trackIds: partId ? [] : selection.trackIds },
  }
}
