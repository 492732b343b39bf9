import { objectAdded } from '@tender-lasso/core/edits'
import { squareRound } from '@tender-lasso/core/geometry'
import { newPointTrack } from '../../commands'
import { onlyTracks } from '../../store'
import type { Tool } from './tool'

type State = { kind: 'idle' } | { kind: 'pressed'; x: number; y: number; half: number }

/** Half a side of the pattern when the artist only clicks, plate pixels. */
const USUAL_HALF = 10
const LEAST_HALF = 4

/** Marks a point to follow: a click places the pattern, a drag makes it as large as it goes. */
export const pointTool: Tool<State> = {
  idle: { kind: 'idle' },
  cursor: 'crosshair',
  down(_state, input) {
    return { state: { kind: 'pressed', x: input.x, y: input.y, half: USUAL_HALF } }
  },
  move(state, input) {
    if (state.kind === 'idle') return { state }
    const way = Math.max(Math.abs(input.x - state.x), Math.abs(input.y - state.y))
    return { state: { ...state, half: way * input.scale < 4 ? USUAL_HALF : Math.max(LEAST_HALF, way) } }
  },
  up(state, input, { document, frame, selection }) {
    if (state.kind === 'idle') return { state }
    const track = newPointTrack(document, frame, state.x, state.y, state.half)
    const trackIds = input.shift ? [...selection.trackIds, track.id] : [track.id]
    return {
      state: { kind: 'idle' },
      commit: { label: `mark ${track.name}`, patches: [objectAdded(track)] },
      selection: onlyTracks(trackIds),
    }
  },
  key: () => ({ state: { kind: 'idle' } }),
  sketch(state) {
    if (state.kind === 'idle') return null
    const { x, y, half } = state
    return {
      lines: [{ points: squareRound(x, y, half), isClosed: true }],
      rings: [[x, y]],
    }
  },
}
