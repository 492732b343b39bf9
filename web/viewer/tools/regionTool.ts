import { objectAdded } from '@tender-lasso/core/document'
import { newTrack } from '../../state/newObjects'
import { GRAB_PIXELS } from './hitTest'
import type { Tool, ToolContext, ToolStep } from './tool'

type State =
  | { kind: 'idle' }
  | { kind: 'pressed'; x: number; y: number; corners: number[] }
  | { kind: 'rectangle'; x: number; y: number; toX: number; toY: number }
  | { kind: 'corners'; corners: number[]; hover: readonly [number, number] }

const DRAG_PIXELS = 4
const LEAST_SIDE_PIXELS = 8

/** Marks the surface of a planar track on the present frame: a dragged rectangle, or clicked corners. */
export const regionTool: Tool<State> = {
  idle: { kind: 'idle' },
  cursor: 'crosshair',
  down(state, input, context) {
    const corners = state.kind === 'corners' ? state.corners : []
    const near = Math.hypot(corners[0]! - input.x, corners[1]! - input.y) * input.scale <= GRAB_PIXELS
    if (corners.length >= 6 && near) return finished(corners, context)
    return { state: { kind: 'pressed', x: input.x, y: input.y, corners } }
  },
  move(state, input) {
    if (state.kind === 'corners') return { state: { ...state, hover: [input.x, input.y] } }
    if (state.kind === 'rectangle') return { state: { ...state, toX: input.x, toY: input.y } }
    if (state.kind !== 'pressed' || state.corners.length) return { state }
    const way = Math.hypot(input.x - state.x, input.y - state.y) * input.scale
    return way < DRAG_PIXELS
      ? { state }
      : { state: { kind: 'rectangle', x: state.x, y: state.y, toX: input.x, toY: input.y } }
  },
  up(state, input, context) {
    if (state.kind === 'pressed') {
      return { state: { kind: 'corners', corners: [...state.corners, input.x, input.y], hover: [input.x, input.y] } }
    }
    if (state.kind !== 'rectangle') return { state }
    const { x, y, toX, toY } = state
    if (Math.abs(toX - x) < LEAST_SIDE_PIXELS || Math.abs(toY - y) < LEAST_SIDE_PIXELS) {
      return { state: this.idle, say: 'The region is too small to track: drag a larger one' }
    }
    return finished([x, y, toX, y, toX, toY, x, toY], context)
  },
  key(state, key, context) {
    if (key === 'Enter' && state.kind === 'corners' && state.corners.length >= 6)
      return finished(state.corners, context)
    return { state: { kind: 'idle' } }
  },
  sketch(state) {
    if (state.kind === 'rectangle') {
      const { x, y, toX, toY } = state
      return { lines: [{ points: [x, y, toX, y, toX, toY, x, toY], isClosed: true }], rings: [] }
    }
    if (state.kind !== 'corners') return null
    const rings: [number, number][] = []
    for (let i = 0; i < state.corners.length; i += 2) rings.push([state.corners[i]!, state.corners[i + 1]!])
    return { lines: [{ points: [...state.corners, ...state.hover], isClosed: false }], rings }
  },
}

function finished(region: number[], { document, frame }: ToolContext): ToolStep<State> {
  const track = newTrack(document, frame, region)
  return {
    state: { kind: 'idle' },
    commit: { label: `mark the region of ${track.name}`, patches: [objectAdded(track)] },
    selection: { trackId: track.id, partId: null, shapeIds: [], pointIds: new Set(), keyTimes: [] },
  }
}
