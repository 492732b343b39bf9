import type { DrawnPoint } from '@tender-lasso/core/document'
import { fitClosedStroke } from '@tender-lasso/core/spline'
import { GRAB_PIXELS } from './hitTest'
import { newShapeCommit } from './newShape'
import type { PointerInput, Tool, ToolContext, ToolStep } from './tool'

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

type PenState =
  { kind: 'idle' } | { kind: 'placing'; points: DrawnPoint[]; isDragging: boolean; hover: readonly [number, number] }

/** Point by point: a click makes a corner, a drag a smooth point with its tangents. */
export const penTool: Tool<PenState> = {
  idle: { kind: 'idle' },
  cursor: 'crosshair',
  down(state, input, context) {
    const points = state.kind === 'placing' ? state.points : []
    const first = points[0]
    if (first && points.length > 2 && Math.hypot(first.x - input.x, first.y - input.y) * input.scale <= GRAB_PIXELS) {
      return closed(points, context)
    }
    const point = { x: input.x, y: input.y, inX: 0, inY: 0, outX: 0, outY: 0, isCorner: true }
    return { state: { kind: 'placing', points: [...points, point], isDragging: true, hover: [input.x, input.y] } }
  },
  move(state, input) {
    if (state.kind !== 'placing') return { state }
    if (!state.isDragging) return { state: { ...state, hover: [input.x, input.y] } }
    return { state: { ...state, points: withTangents(state.points, input), hover: [input.x, input.y] } }
  },
  up(state) {
    return { state: state.kind === 'placing' ? { ...state, isDragging: false } : state }
  },
  key(state, key, context) {
    if (key === 'Enter' && state.kind === 'placing' && state.points.length > 2) return closed(state.points, context)
    return { state: { kind: 'idle' } }
  },
  sketch(state) {
    if (state.kind !== 'placing') return null
    const path = state.points.flatMap((p, i) => (i === 0 ? [p.x, p.y] : curveTo(state.points[i - 1]!, p)))
    const last = state.points.at(-1)!
    const lines = [{ points: state.isDragging ? path : [...path, ...state.hover], isClosed: false }]
    lines.push({
      points: [last.x + last.inX, last.y + last.inY, last.x + last.outX, last.y + last.outY],
      isClosed: false,
    })
    return { lines, rings: state.points.map((p) => [p.x, p.y] as const) }
  },
}

function closed(points: DrawnPoint[], context: ToolContext): ToolStep<PenState> {
  return { state: { kind: 'idle' }, ...newShapeCommit(context, points, 'pen') }
}

function withTangents(points: DrawnPoint[], input: PointerInput): DrawnPoint[] {
  const last = points.at(-1)!
  const [dx, dy] = [input.x - last.x, input.y - last.y]
  if (Math.hypot(dx, dy) * input.scale < 3) return points
  const dragged = { ...last, outX: dx, outY: dy, inX: -dx, inY: -dy, isCorner: false }
  return [...points.slice(0, -1), dragged]
}

/** Twelve steps of the cubic between two drawn points, for the sketch. */
function curveTo(a: DrawnPoint, b: DrawnPoint): number[] {
  const out: number[] = []
  for (let k = 1; k <= 12; k++) {
    const t = k / 12
    const s = 1 - t
    const [b0, b1, b2, b3] = [s * s * s, 3 * s * s * t, 3 * s * t * t, t * t * t]
    out.push(
      b0 * a.x + b1 * (a.x + a.outX) + b2 * (b.x + b.inX) + b3 * b.x,
      b0 * a.y + b1 * (a.y + a.outY) + b2 * (b.y + b.inY) + b3 * b.y,
    )
  }
  return out
}
