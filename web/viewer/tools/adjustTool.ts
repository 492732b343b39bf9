import { allOf, findObject, type Patch, type Track } from '@tender-lasso/core/document'
import { mainTrackId, onlyTracks } from '../../store'
import { isDragged } from './dragStart'
import { GRAB_PIXELS } from '../../selection'
import type { PointerInput, Tool, ToolContext } from './tool'
import { handleAt, handleDragged, type TrackHandle } from './trackHandles'

type State =
  | { kind: 'idle' }
  | {
      kind: 'pressed' | 'dragging'
      x: number
      y: number
      time: number
      trackId: string
      handle: TrackHandle
      another: boolean
    }

const IDLE: State = { kind: 'idle' }

const LABELS: Record<TrackHandle['kind'], string> = {
  corner: 're-shape the pattern of',
  leaveOut: 're-shape a leave-out of',
  search: 'change the search box of',
  pivot: 'move the centre of',
  inside: 'place',
}

/** Selects tracks; drags their corners, search boxes and leave-outs; places a track by hand on a frame. */
export const adjustTool: Tool<State> = {
  idle: IDLE,
  cursor: 'default',

  down(_state, input, context) {
    const hit = trackAt(input, context)
    if (!hit) return { state: IDLE, selection: input.shift ? {} : onlyTracks([]) }
    const { trackIds } = context.selection
    const { track, handle } = hit
    const state: State = {
      kind: 'pressed',
      x: input.x,
      y: input.y,
      time: input.time,
      trackId: track.id,
      handle,
      another: input.alt,
    }
    const others = trackIds.filter((id) => id !== track.id)
    const next = input.shift || trackIds.includes(track.id) ? [...others, track.id] : [track.id]
    return { state, selection: onlyTracks(next) }
  },

  move(state, input, context) {
    if (state.kind === 'idle') return { state }
    if (state.kind === 'pressed' && !isDragged(state, input)) return { state }
    const patches = draggedPatches(state, input, context)
    if (typeof patches === 'string') return { state: IDLE, preview: [], say: patches }
    return { state: { ...state, kind: 'dragging' }, preview: patches }
  },

  up(state, input, context) {
    if (state.kind !== 'dragging') return { state: IDLE }
    const patches = draggedPatches(state, input, context)
    if (typeof patches === 'string') return { state: IDLE, preview: [], say: patches }
    const name = findObject(context.document, 'track', state.trackId)?.name ?? 'the track'
    const label =
      state.handle.kind === 'inside' && state.another
        ? `carry ${name} on with another pattern from ${context.frame}`
        : `${LABELS[state.handle.kind]} ${name} on ${context.frame}`
    return { state: IDLE, preview: [], commit: { label, patches } }
  },

  key(_state, key) {
    return key === 'Escape' ? { state: IDLE, preview: [], selection: onlyTracks([]) } : { state: IDLE }
  },
}

/** The selected track first, then any other that is shown. */
function trackAt(input: PointerInput, { document, frame, selection }: ToolContext) {
  const main = mainTrackId(selection)
  const shown = allOf(document, 'track')
    .filter((track) => track.visible && !track.archived)
    .sort((a, b) => Number(b.id === main) - Number(a.id === main))
  for (const track of shown) {
    const handle = handleAt(track, frame, input.x, input.y, GRAB_PIXELS / input.scale)
    if (handle) return { track, handle }
  }
  return null
}

function draggedPatches(
  state: Exclude<State, { kind: 'idle' }>,
  input: PointerInput,
  { document, frame }: ToolContext,
): Patch[] | string {
  const track: Track | undefined = findObject(document, 'track', state.trackId)
  if (!track) return []
  if (track.locked) return `${track.name} is locked`
  return handleDragged(track, frame, state.handle, input.x - state.x, input.y - state.y, state.another)
}
