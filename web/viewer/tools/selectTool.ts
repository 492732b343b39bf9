import {
  formChanged,
  pivotKeyed,
  pivotOnPlate,
  pointInsertedInto,
  poseChanged,
  poseMoved,
  seamTied,
  tangentPutAt,
  type OtherTangent,
} from '@tender-lasso/core/edits'
import { controlPlacesAt, shapesOf } from '@tender-lasso/core/evaluation'
import { findObject, tiedTangent, type Part, type Patch, type Shape } from '@tender-lasso/core/document'
import { translation, windingNumber, type Box } from '@tender-lasso/core/geometry'
import { posedPart, type Selection } from '../../store'
import { boxHandleAt, boxMap, type BoxHandle } from './boxHandles'
import {
  instanceUnder,
  isOnFollowers,
  ownPivotOfChosen,
  selectedBox,
  chosenShapes,
  mapPatches,
  GRAB_PIXELS,
  hitTest,
  reachableShapes,
  shapesUnder,
  type Hit,
} from '../../selection'
import { isDragged } from './dragStart'
import { snapped } from './snapping'
import type { PointerInput, Tool, ToolContext, ToolHover, ToolStep } from './tool'

type State =
  | { kind: 'idle' }
  /** `click`: what is selected when the press is let go without a drag. */
  | { kind: 'pressed' | 'dragging'; x: number; y: number; time: number; drag: Drag; click: Partial<Selection> | null }
  | { kind: 'band'; outline: readonly number[]; isFree: boolean; adds: boolean }

type Drag =
  | {
      kind: 'points'
      shapeIds: readonly string[]
      pointIds: ReadonlySet<string>
      from: readonly [number, number] | null
    }
  | { kind: 'tangent'; shapeId: string; index: number; tangent: 'in' | 'out' }
  | { kind: 'box'; handle: BoxHandle; box: Box }
  | { kind: 'part'; part: Part }

/** What a press takes hold of, and what is selected by it: at once, or when it is let go without a drag. */
type Grip =
  | { kind: 'band' }
  | { kind: 'insert'; shape: Shape; segment: number; t: number }
  | { kind: 'drag'; drag: Drag; selection: Partial<Selection> | null; click: Partial<Selection> | null }

const IDLE: State = { kind: 'idle' }

/** Selects points and shapes, drags them, their tangents and the box round them, inserts points. */
export const selectTool: Tool<State> = {
  idle: IDLE,
  cursor: 'default',

  down(_state, input, context) {
    const grip = gripAt(input, context)
    switch (grip.kind) {
      case 'band': {
        const outline = input.alt ? [input.x, input.y] : rectangle(input.x, input.y, input.x, input.y)
        return { state: { kind: 'band', outline, isFree: input.alt, adds: input.shift } }
      }
      case 'insert': {
        const { patches, pointId } = pointInsertedInto(context.document, grip.shape, grip.segment, grip.t)
        return {
          state: IDLE,
          commit: { label: 'insert a point', patches },
          selection: { ...chosen(grip.shape), pointIds: new Set([pointId]) },
        }
      }
      case 'drag': {
        const { x, y, time } = input
        const { drag, click, selection } = grip
        return { state: { kind: 'pressed', x, y, time, drag, click }, ...(selection && { selection }) }
      }
    }
  },

  /** What a press here would take hold of, by the same rule. */
  hover(state, input, context) {
    if (state.kind !== 'idle') return null
    const grip = gripAt(input, context)
    if (grip.kind === 'band') return null
    if (grip.kind === 'insert') return { cursor: 'copy', words: `Click: a point on ${grip.shape.name}`, shapes: [] }
    return hoverOf(grip.drag, context)
  },

  move(state, input, context) {
    if (state.kind === 'band') {
      const [x, y] = [state.outline[0]!, state.outline[1]!]
      const outline = state.isFree ? [...state.outline, input.x, input.y] : rectangle(x, y, input.x, input.y)
      return { state: { ...state, outline } }
    }
    if (state.kind !== 'pressed' && state.kind !== 'dragging') return { state }
    if (state.kind === 'pressed' && !isDragged(state, input)) return { state }
    return { state: { ...state, kind: 'dragging' }, preview: dragPatches(state, input, context) }
  },

  up(state, input, context) {
    if (state.kind === 'band') return bandSelected(state, context)
    if (state.kind === 'pressed') return { state: IDLE, ...(state.click && { selection: state.click }) }
    if (state.kind !== 'dragging') return { state: IDLE }
    const { drag } = state
    if (drag.kind === 'part' && drag.part.pin && drag.part.pin.to !== 'keys') {
      return { state: IDLE, preview: [], say: `The pivot of ${drag.part.name} is pinned: turn it, or let the pivot go` }
    }
    const tied = input.mod ? tiedTo(drag, input, context) : null
    if (tied) return { state: IDLE, preview: [], commit: { label: 'tie a point', patches: tied } }
    const patches = dragPatches(state, input, context)
    return { state: IDLE, preview: [], commit: { label: labelOf(drag, context), patches, reaches: true } }
  },

  key(_state, key, { document, selection }) {
    if (key === 'Enter') {
      // From an outline to the Part that it belongs to, and its pose; a double click comes as Enter, too.
      const shape = selection.shapeIds[0] && findObject(document, 'shape', selection.shapeIds[0])
      if (!shape) return { state: IDLE }
      return { state: IDLE, selection: { partId: shape.partId, shapeIds: [], pointIds: new Set<string>(), keys: [] } }
    }
    // First the points, then everything: Escape goes outwards.
    const next = selection.pointIds.size
      ? { pointIds: new Set<string>() }
      : { pointIds: new Set<string>(), shapeIds: [], partId: null, trackIds: [], keys: [] }
    return { state: IDLE, preview: [], selection: next }
  },

  sketch(state) {
    return state.kind === 'band' ? { lines: [{ points: state.outline, isClosed: !state.isFree }], rings: [] } : null
  },
}

/** The Seam that a point makes when it is dropped, with Ctrl, on a point of another shape; null when it is on none. */
function tiedTo(drag: Drag, input: PointerInput, { document, frame, selection }: ToolContext): Patch[] | null {
  if (drag.kind !== 'points' || drag.pointIds.size !== 1) return null
  const [pointId] = drag.pointIds
  const borrower = drag.shapeIds.flatMap((id) => findObject(document, 'shape', id) ?? []).find((shape) => shape.pointIds.includes(pointId!)) // prettier-ignore
  if (!borrower) return null
  for (const owner of reachableShapes(document, frame, selection.shapeIds)) {
    if (owner.id === borrower.id) continue
    const places = controlPlacesAt(document, owner, frame)
    const index = owner.pointIds.findIndex(
      (_, i) => Math.hypot(places[2 * i]! - input.x, places[2 * i + 1]! - input.y) * input.scale <= GRAB_PIXELS,
    )
    if (index >= 0) return seamTied(document, owner, [owner.pointIds[index]!], borrower, [pointId!], frame).patches
  }
  return null
}

const rectangle = (x: number, y: number, toX: number, toY: number) => [x, y, toX, y, toX, toY, x, toY]

/** What lies under the pointer, in the order in which it is meant: one rule for the press and for what is shown before it. */
function gripAt(input: PointerInput, context: ToolContext): Grip {
  const { document, frame, selection } = context
  const hit = hitTest(document, frame, selection.shapeIds, selection.pointIds, input.x, input.y, input.scale)
  if (hit?.kind === 'outline' && input.alt) return { kind: 'insert', shape: hit.shape, segment: hit.segment, t: hit.t }
  const part = input.shift || input.alt ? null : partHeld(input, context)
  if (part) {
    const click = hit && selectionOf(hit, input, context)
    return { kind: 'drag', drag: { kind: 'part', part }, selection: null, click }
  }
  const isOnLine = hit && hit.kind !== 'inside'
  const handle = isOnLine ? null : boxHandleAt(context, input, GRAB_PIXELS)
  if (handle) return held({ kind: 'box', handle, box: selectedBox(context)! })
  if (!hit) {
    const follower = instanceUnder(document, frame, input.x, input.y)
    return follower ? held({ kind: 'part', part: follower }, { partId: follower.id, shapeIds: [], pointIds: new Set(), trackIds: [], keys: [] }) : { kind: 'band' } // prettier-ignore
  }
  const { shape } = hit
  if (hit.kind === 'tangent')
    return held({ kind: 'tangent', shapeId: shape.id, index: hit.index, tangent: hit.tangent })
  const next = selectionOf(hit, input, context)
  if (hit.kind === 'point') {
    const places = controlPlacesAt(document, shape, frame)
    const from = [places[2 * hit.index]!, places[2 * hit.index + 1]!] as const
    return held({ kind: 'points', shapeIds: next.shapeIds, pointIds: next.pointIds, from }, next)
  }
  return held({ kind: 'points', shapeIds: next.shapeIds, pointIds: pointsOf(context, next.shapeIds), from: null }, next)
}

const held = (drag: Drag, selection: Partial<Selection> | null = null): Grip => ({ kind: 'drag', drag, selection, click: null }) // prettier-ignore

/** What is selected by a press on a shape or on a point of it. */
function selectionOf(hit: Hit, input: PointerInput, { selection }: ToolContext) {
  const { shape } = hit
  const shapeIds = input.shift ? [...new Set([...selection.shapeIds, shape.id])] : keptOr(selection.shapeIds, shape.id)
  if (hit.kind !== 'point') {
    return { ...chosen(shape), shapeIds, pointIds: input.shift ? selection.pointIds : new Set<string>() }
  }
  const pointId = shape.pointIds[hit.index]!
  let pointIds: ReadonlySet<string> = selection.pointIds
  if (input.shift) {
    const toggled = new Set(pointIds)
    if (!toggled.delete(pointId)) toggled.add(pointId)
    pointIds = toggled
  } else if (!pointIds.has(pointId)) pointIds = new Set([pointId])
  return { ...chosen(shape), shapeIds, pointIds }
}

/** The Part selected by itself, when the pointer is at its pivot, on a line of its shapes or inside one. */
function partHeld(input: PointerInput, context: ToolContext): Part | null {
  const part = posedPart(context)
  if (!part || part.locked) return null
  const { document, frame } = context
  const [x, y] = pivotOnPlate(document, part, frame)
  if (Math.hypot(x - input.x, y - input.y) * input.scale <= GRAB_PIXELS) return part
  if (isOnFollowers(document, part, frame, input.x, input.y)) return part
  const isOnIt = shapesUnder(document, frame, input.x, input.y, input.scale).some(({ partId }) => partId === part.id)
  return isOnIt ? part : null
}

/** What a drag will move: in words, by the cursor, and the shapes whose lines are shown. */
function hoverOf(drag: Drag, context: ToolContext): ToolHover {
  const { document } = context
  if (drag.kind === 'part') {
    return {
      cursor: 'move',
      words: `Drag: ${labelOf(drag, context)}, as a Part`,
      shapes: shapesOf(document, drag.part.id),
    }
  }
  const words = `Drag: ${labelOf(drag, context)}`
  if (drag.kind === 'tangent') return { cursor: 'pointer', words, shapes: [] }
  if (drag.kind === 'box') return { cursor: drag.handle.kind === 'turn' ? 'grab' : 'nwse-resize', words, shapes: [] }
  const isWhole = drag.from === null
  const shapes = isWhole ? drag.shapeIds.flatMap((id) => findObject(document, 'shape', id) ?? []) : []
  return { cursor: isWhole ? 'move' : 'pointer', words, shapes }
}

const chosen = (shape: Shape) => ({ partId: shape.partId, shapeIds: [shape.id], trackIds: [], keys: [] })

const keptOr = (ids: readonly string[], id: string) => (ids.includes(id) ? ids : [id])

function pointsOf(context: ToolContext, shapeIds: readonly string[]): Set<string> {
  return new Set(shapeIds.flatMap((id) => findObject(context.document, 'shape', id)?.pointIds ?? []))
}

function labelOf(drag: Drag, context: ToolContext): string {
  if (drag.kind === 'part') return `move ${drag.part.name}`
  if (drag.kind === 'tangent') return 'move a tangent'
  if (drag.kind === 'box') return drag.handle.kind === 'turn' ? 'rotate by the box' : 'scale by the box'
  const names = drag.shapeIds.flatMap((id) => findObject(context.document, 'shape', id)?.name ?? [])
  const isWhole = drag.pointIds.size === pointsOf(context, drag.shapeIds).size
  return isWhole
    ? `move ${names.join(', ')}`
    : `move ${drag.pointIds.size === 1 ? 'a point' : 'points'} of ${names.join(', ')}`
}

function dragPatches(
  state: Extract<State, { kind: 'pressed' | 'dragging' }>,
  input: PointerInput,
  context: ToolContext,
): Patch[] {
  const { document, frame, keying } = context
  const { drag } = state
  switch (drag.kind) {
    case 'part': {
      const { part } = drag
      if (part.pin?.to === 'keys') {
        const [x, y] = pivotOnPlate(document, part, frame)
        return pivotKeyed(document, part, frame, x + input.x - state.x, y + input.y - state.y)
      }
      const change = poseMoved(document, drag.part, frame, input.x - state.x, input.y - state.y)
      return change ? poseChanged(document, drag.part, frame, change, keying) : []
    }
    case 'tangent': {
      const chosen = findObject(document, 'shape', drag.shapeId)
      if (!chosen) return []
      const tied = tiedTangent(document, chosen, drag.index, drag.tangent)
      const { owner: shape, index, tangent } = tied ?? { owner: chosen, index: drag.index, tangent: drag.tangent }
      // Alt moves the one alone, Shift makes the other one its mirror.
      const other: OtherTangent = input.alt ? 'stays' : input.shift ? 'mirrored' : 'as the point is'
      const change = tangentPutAt(document, shape, frame, index, tangent, [input.x, input.y], other)
      return formChanged(shape, frame, change, keying)
    }
    case 'box': {
      const map = boxMap(drag.box, drag.handle, [state.x, state.y], input, context.pivot ?? ownPivotOfChosen(context))
      return mapPatches(context, chosenShapes(context), context.selection.pointIds, map)
    }
    case 'points': {
      const [wayX, wayY] = wayOf(drag, state, input, context)
      const shapes = drag.shapeIds.flatMap((id) => findObject(document, 'shape', id) ?? [])
      return mapPatches(context, shapes, drag.pointIds, translation(wayX, wayY))
    }
  }
}

/** How far dragged points go: with the pointer, or so that the one taken hold of catches on something. */
function wayOf(
  drag: Extract<Drag, { kind: 'points' }>,
  state: { x: number; y: number },
  input: PointerInput,
  context: ToolContext,
): [number, number] {
  const way: [number, number] = [input.x - state.x, input.y - state.y]
  if (!context.snaps || !drag.from) return way
  const [x, y] = drag.from
  const to = snapped(context, x + way[0], y + way[1], (id) => drag.pointIds.has(id), input.scale)
  return [to[0] - x, to[1] - y]
}

/** Points inside the band, of the selected shapes or, when none is, of all; nothing found clears the selection. */
function bandSelected(
  band: Extract<State, { kind: 'band' }>,
  { document, frame, selection }: ToolContext,
): ToolStep<State> {
  const pointIds = new Set(band.adds ? selection.pointIds : [])
  const shapeIds = new Set(band.adds ? selection.shapeIds : [])
  let partId = band.adds ? selection.partId : null
  for (const shape of reachableShapes(document, frame, selection.shapeIds)) {
    if (selection.shapeIds.length && !selection.shapeIds.includes(shape.id)) continue
    const places = controlPlacesAt(document, shape, frame)
    shape.pointIds.forEach((id, i) => {
      if (windingNumber(band.outline, places[2 * i]!, places[2 * i + 1]!) === 0) return
      pointIds.add(id)
      shapeIds.add(shape.id)
      partId = shape.partId
    })
  }
  return {
    state: IDLE,
    selection: { pointIds, shapeIds: [...shapeIds], partId, keys: [], trackIds: partId ? [] : selection.trackIds },
  }
}
