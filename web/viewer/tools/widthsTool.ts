import { findObject } from '@tender-lasso/core/document'
import { jointWidened, type JointEnd } from '@tender-lasso/core/edits'
import { shotPixelAspect } from '@tender-lasso/core/evaluation'
import { jointEndsOf, GRAB_PIXELS } from '../../selection'
import { isDragged } from './dragStart'
import type { PointerInput, Tool, ToolContext } from './tool'

type State = { kind: 'idle' } | { kind: 'pressed' | 'dragging'; x: number; y: number; time: number; end: JointEnd }

const IDLE: State = { kind: 'idle' }

/** Drags out how wide a figure is at its joints: both sides at once, of all bones that meet there. */
export const widthsTool: Tool<State> = {
  idle: IDLE,
  cursor: 'default',
  down(_state, input, context) {
    const end = endAt(input, context)
    if (!end) return { state: IDLE }
    return { state: { kind: 'pressed', x: input.x, y: input.y, time: input.time, end } }
  },
  move(state, input, context) {
    if (state.kind === 'idle' || (state.kind === 'pressed' && !isDragged(state, input))) return { state }
    return { state: { ...state, kind: 'dragging' }, preview: widened(state.end, input, context) }
  },
  up(state, input, context) {
    if (state.kind !== 'dragging') return { state: IDLE }
    const name = findObject(context.document, 'part', state.end.shape.partId)?.name ?? 'the figure'
    const patches = widened(state.end, input, context)
    return { state: IDLE, preview: [], commit: { label: `width at a joint of ${name}`, patches, reaches: true } }
  },
  key(_state, key) {
    return key === 'Enter' ? { state: IDLE, asks: { kind: 'widths' } } : { state: IDLE, preview: [], tool: 'select' }
  },
  hover(state, input, context) {
    const end = state.kind === 'idle' ? endAt(input, context) : null
    const part = end && findObject(context.document, 'part', end.shape.partId)
    return part ? { cursor: 'ew-resize', words: `Drag: width at a joint of ${part.name}`, shapes: [end.shape] } : null
  },
  prompt(_state, context) {
    return jointEndsOf(context).length
      ? 'Drag the width at a joint, both sides at once · Enter takes widths from the plate · Esc ends'
      : 'Select a Part of a figure that was rigged by its joints'
  },
  sketch(_state, context) {
    const ends = jointEndsOf(context)
    return {
      lines: ends.map(({ left, right }) => ({ points: [...left, ...right], isClosed: false })),
      rings: ends.flatMap(({ left, right }) => [left, right]),
    }
  },
}

/** The end one of whose two side points is under the pointer. */
function endAt(input: PointerInput, context: ToolContext): JointEnd | null {
  const away = ({ left, right }: JointEnd) =>
    Math.min(...[left, right].map(([x, y]) => Math.hypot(x - input.x, y - input.y))) * input.scale
  const [nearest] = jointEndsOf(context).sort((a, b) => away(a) - away(b))
  return nearest && away(nearest) <= GRAB_PIXELS ? nearest : null
}

function widened({ joint }: JointEnd, input: PointerInput, context: ToolContext) {
  const half = Math.hypot((input.x - joint[0]) * shotPixelAspect(context.document), input.y - joint[1])
  return jointWidened(context.document, jointEndsOf(context), joint, context.frame, half, context.keying)
}
