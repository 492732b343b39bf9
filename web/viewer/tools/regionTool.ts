import { leaveOutAdded, objectAdded, patternSet } from '@tender-lasso/core/edits'
import { findObject } from '@tender-lasso/core/document'
import { followedOn } from '@tender-lasso/core/evaluation'
import { trackOutlinesOn } from '@tender-lasso/core/tracks'
import { invert, movedPolygon } from '@tender-lasso/core/geometry'
import { newTrack } from '../../commands'
import { mainTrackId, onlyTracks } from '../../store'
import { GRAB_PIXELS } from '../../selection'
import type { Tool, ToolContext, ToolStep } from './tool'

type State =
  | { kind: 'idle' }
  | { kind: 'pressed'; x: number; y: number; corners: number[] }
  | { kind: 'rectangle'; x: number; y: number; toX: number; toY: number }
  | { kind: 'corners'; corners: number[]; hover: readonly [number, number] }

const DRAG_PIXELS = 4
const LEAST_SIDE_PIXELS = 8

type Finish = (polygon: number[], context: ToolContext) => ToolStep<State>

/** A polygon on the present frame: a dragged rectangle, or clicked corners. */
const polygonTool = (finished: Finish): Tool<State> => ({
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
      return { state: { kind: 'idle' }, say: 'That is too small: drag a larger one' }
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
})

/** Marks the surface of a planar track. */
export const regionTool = polygonTool((region, { document, frame }) => {
  const track = newTrack(document, frame, region)
  return {
    state: { kind: 'idle' },
    commit: { label: `mark the region of ${track.name}`, patches: [objectAdded(track)] },
    selection: onlyTracks([track.id]),
  }
})

/** Another outline of the selected track's region; where two lie over one another is a hole. */
export const holeTool = polygonTool((outline, context) => {
  const track = chosenTrack(context)
  if (!track) return { state: { kind: 'idle' }, say: 'Select the track whose region gets another outline' }
  const shown = trackOutlinesOn(track, context.frame)
  const outlines = [...(shown ?? track.outlines), Float64Array.from(outline)]
  const patches = shown || context.frame === track.referenceFrame ? patternSet(track, context.frame, outlines) : null
  if (!patches)
    return { state: { kind: 'idle' }, say: `${track.name} is not known here: draw on ${track.referenceFrame}` }
  return { state: { kind: 'idle' }, commit: { label: `another outline for ${track.name}`, patches } }
})

/** Marks what the selected track does not look at; the outline lies on the surface and moves with it. */
export const leaveOutTool = polygonTool((outline, context) => {
  const { frame } = context
  const track = chosenTrack(context)
  if (!track) return { state: { kind: 'idle' }, say: 'Select the track that is to leave this out' }
  const motion = followedOn(track, frame)
  if (!motion)
    return { state: { kind: 'idle' }, say: `${track.name} is not known here: draw on frame ${track.referenceFrame}` }
  const onReference = movedPolygon(outline, invert(motion))
  return {
    state: { kind: 'idle' },
    commit: {
      label: `leave out of ${track.name}`,
      patches: leaveOutAdded(track, onReference, 'rides'),
    },
  }
})

/** Marks where corners are looked for. */
export const spreadTool = polygonTool((outline) => ({ state: { kind: 'idle' }, asks: { kind: 'spread', outline } }))

/** Marks the four corners that the proof grid is laid on. */
export const gridTool = polygonTool((outline) =>
  outline.length === 8
    ? { state: { kind: 'idle' }, asks: { kind: 'grid', outline } }
    : { state: { kind: 'idle' }, say: 'A grid has four corners' },
)

function chosenTrack({ document, selection }: ToolContext) {
  const id = mainTrackId(selection)
  return id === null ? undefined : findObject(document, 'track', id)
}
