import type { DrawnPoint } from '@tender-lasso/core/edits'
import { fitClosedStroke } from '@tender-lasso/core/spline'
import { newShapeCommit } from './newShape'
import type { Tool } from './tool'

type LassoState = { kind: 'idle' } | { kind: 'drawing'; stroke: number[] }

/** Largest distance on screen between the drawn stroke and the spline made of it. */
const LASSO_TOLERANCE_PIXELS = 1.6

/** Freehand: the stroke becomes a closed outline of few points when the pen is lifted. */
export const lassoTool: Tool<LassoState> = {
  idle: { kind: 'idle' },
  cursor: 'crosshair',
  down: (_state, input) => ({ state: { kind: 'drawing', stroke: [input.x, input.y] } }),
  move(state, input) {
    if (state.kind !== 'drawing') return { state }
    return { state: { kind: 'drawing', stroke: [...state.stroke, input.x, input.y] } }
  },
  up(state, input, context) {
    if (state.kind !== 'drawing') return { state }
    const { segments, corners } = fitClosedStroke(state.stroke, LASSO_TOLERANCE_PIXELS / input.scale)
    if (segments.length < 2)
      return { state: this.idle, say: 'The stroke is too short for an outline: draw around the piece' }
    const points = segments.map((segment, i): DrawnPoint => {
      const arriving = segments[(i + segments.length - 1) % segments.length]!
      const [x, y] = [segment[0]!, segment[1]!]
      return {
        x,
        y,
        inX: arriving[4]! - x,
        inY: arriving[5]! - y,
        outX: segment[2]! - x,
        outY: segment[3]! - y,
        isCorner: corners[i]!,
      }
    })
    return { state: this.idle, ...newShapeCommit(context, points, 'lasso') }
  },
  key: () => ({ state: { kind: 'idle' } }),
  sketch: (state) =>
    state.kind === 'drawing' ? { lines: [{ points: state.stroke, isClosed: false }], rings: [] } : null,
}
