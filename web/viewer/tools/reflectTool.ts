import { instanceMade, mirrorSet } from '@tender-lasso/core/edits'
import { instanceName } from '../../commands'
import { selectedPart } from '../../store'
import { isDragged } from './dragStart'
import type { PointerInput, Tool } from './tool'

type State =
  { kind: 'idle' } | { kind: 'pressed' | 'dragging'; x: number; y: number; time: number; toX: number; toY: number }

const IDLE: State = { kind: 'idle' }

/**
 * Lays a line about which the selected Part is reflected: a new Part that follows it, or, of a reflection that is selected, its line anew. A selected track carries the
 * line.
 */
export const reflectTool: Tool<State> = {
  idle: IDLE,
  cursor: 'crosshair',
  down(_state, { x, y, time }, context) {
    if (!selectedPart(context)) return { state: IDLE, say: 'Select the Part that is to be reflected' }
    return { state: { kind: 'pressed', x, y, time, toX: x, toY: y } }
  },
  move(state, input) {
    if (state.kind === 'idle' || (state.kind === 'pressed' && !isDragged(state, input))) return { state }
    return { state: { ...state, kind: 'dragging', ...endOf(state, input) } }
  },
  up(state, input, context) {
    const part = selectedPart(context)
    if (state.kind !== 'dragging' || !part) return { state: IDLE }
    const { document, frame, selection } = context
    const { toX, toY } = endOf(state, input)
    const known = part.instance?.mirror
    const trackId = selection.trackIds[0] ?? known?.trackId ?? null
    const mirror = { line: Float64Array.of(state.x, state.y, toX, toY), referenceFrame: frame, trackId }
    if (known)
      return {
        state: IDLE,
        commit: { label: `line of ${part.name}`, patches: mirrorSet(part, mirror) },
        tool: 'select',
      }
    const made = instanceMade(document, part, instanceName(document, part, 'reflected'), mirror, frame)
    return {
      state: IDLE,
      commit: { label: `reflect ${part.name}`, patches: made.patches },
      selection: { partId: made.part.id, shapeIds: [], pointIds: new Set<string>(), keys: [] },
      tells: () => `${made.part.name} follows ${part.name}: what carries its line is chosen under Follows`,
      tool: 'select',
    }
  },
  key: (_state, key) => ({ state: IDLE, ...(key === 'Escape' && { tool: 'select' as const }) }),
  prompt: (_state, context) => {
    const part = selectedPart(context)
    return part
      ? `Drag along the line about which ${part.name} is reflected · Shift: level or upright`
      : 'Select the Part that is to be reflected'
  },
  sketch: (state) =>
    state.kind === 'dragging'
      ? { lines: [{ points: [state.x, state.y, state.toX, state.toY], isClosed: false }], rings: [[state.x, state.y], [state.toX, state.toY]] }
      : null, // prettier-ignore
}

/** The other end of the line, with Shift level with the first or straight above it. */
function endOf({ x, y }: { x: number; y: number }, input: PointerInput) {
  if (!input.shift) return { toX: input.x, toY: input.y }
  return Math.abs(input.x - x) > Math.abs(input.y - y) ? { toX: input.x, toY: y } : { toX: x, toY: input.y }
}
