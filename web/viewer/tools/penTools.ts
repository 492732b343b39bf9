import type { DrawnForm, DrawnPoint } from '@tender-lasso/core/edits'
import { bsplineAsBezier } from '@tender-lasso/core/spline'
import { curveTo } from './curveTo'
import { GRAB_PIXELS } from '../../selection'
import { newShapeCommit } from './newShape'
import type { PointerInput, Tool, ToolContext, ToolStep } from './tool'

type PenState =
  { kind: 'idle' } | { kind: 'placing'; points: DrawnPoint[]; isDragging: boolean; hover: readonly [number, number] }

interface PenKind {
  /** For the history: "draw outline by pen". */
  how: string
  form: Pick<DrawnForm, 'curve' | 'isClosed'>
  fewest: number
}

const IDLE: PenState = { kind: 'idle' }

/** Point by point: a click makes a corner, a drag a smooth point with its tangents. */
export const penTool = penOf({ how: 'pen', form: {}, fewest: 3 })
/** Point by point round about: the curve goes smoothly within the polygon of the points. */
export const bsplineTool = penOf({ how: 'B-spline', form: { curve: 'bspline' }, fewest: 3 })
/** Point by point along something thin: a line with a width. */
export const strokeTool = penOf({ how: 'stroke', form: { isClosed: false }, fewest: 2 })

function penOf(kind: PenKind): Tool<PenState> {
  const isBspline = kind.form.curve === 'bspline'
  const isClosed = kind.form.isClosed !== false
  const finished = (points: DrawnPoint[], context: ToolContext): ToolStep<PenState> => ({
    state: IDLE,
    ...newShapeCommit(context, points, kind.how, isClosed ? kind.form : { ...kind.form, width: context.strokeWidth }),
  })
  return {
    idle: IDLE,
    cursor: 'crosshair',
    down(state, input, context) {
      const points = state.kind === 'placing' ? state.points : []
      const first = points[0]
      const isOnFirst = first && Math.hypot(first.x - input.x, first.y - input.y) * input.scale <= GRAB_PIXELS
      if (isClosed && isOnFirst && points.length >= kind.fewest) return finished(points, context)
      const point = { x: input.x, y: input.y, inX: 0, inY: 0, outX: 0, outY: 0, isCorner: !isBspline }
      return { state: { kind: 'placing', points: [...points, point], isDragging: true, hover: [input.x, input.y] } }
    },
    move(state, input) {
      if (state.kind !== 'placing') return { state }
      const hover = [input.x, input.y] as const
      if (!state.isDragging || isBspline) return { state: { ...state, hover } }
      return { state: { ...state, points: withTangents(state.points, input), hover } }
    },
    up(state) {
      return { state: state.kind === 'placing' ? { ...state, isDragging: false } : state }
    },
    key(state, key, context) {
      if (key !== 'Enter' || state.kind !== 'placing') return { state: IDLE }
      // A double click that ends the line has put its last point twice.
      const points = withoutRepeat(state.points)
      return points.length < kind.fewest ? { state: IDLE } : finished(points, context)
    },
    sketch(state) {
      if (state.kind !== 'placing') return null
      const { points, hover, isDragging } = state
      const rings = points.map((p) => [p.x, p.y] as const)
      if (isBspline) return { lines: bsplineSketch([...points.flatMap((p) => [p.x, p.y]), ...hover]), rings }
      const path = points.flatMap((p, i) => (i === 0 ? [p.x, p.y] : curveTo(points[i - 1]!, p)))
      const last = points.at(-1)!
      const tangent = [last.x + last.inX, last.y + last.inY, last.x + last.outX, last.y + last.outY]
      return {
        lines: [
          { points: isDragging ? path : [...path, ...hover], isClosed: false },
          { points: tangent, isClosed: false },
        ],
        rings,
      }
    },
  }
}

function withoutRepeat(points: DrawnPoint[]): DrawnPoint[] {
  const [a, b] = [points.at(-2), points.at(-1)]
  return a && b && Math.hypot(a.x - b.x, a.y - b.y) < 1e-6 ? points.slice(0, -1) : points
}

const SKETCH_STRIDE = { stride: 7, tension: 6 }

/** The curve of the points so far and the polygon that it follows. */
function bsplineSketch(places: readonly number[]): { points: number[]; isClosed: boolean }[] {
  const count = places.length / 2
  if (count < 3) return [{ points: [...places], isClosed: false }]
  const points = new Float64Array(count * SKETCH_STRIDE.stride)
  for (let i = 0; i < count; i++) points.set([places[2 * i]!, places[2 * i + 1]!], i * SKETCH_STRIDE.stride)
  const curve = bsplineAsBezier(points, SKETCH_STRIDE, true)
  const drawn = Array.from({ length: count }, (_, i): DrawnPoint => {
    const [x, y, inX, inY, outX, outY] = curve.subarray(i * SKETCH_STRIDE.stride)
    return { x: x!, y: y!, inX: inX!, inY: inY!, outX: outX!, outY: outY!, isCorner: false }
  })
  const line = drawn.flatMap((p, i) => curveTo(drawn[(i + count - 1) % count]!, p))
  return [{ points: line, isClosed: true }]
}

function withTangents(points: DrawnPoint[], input: PointerInput): DrawnPoint[] {
  const last = points.at(-1)!
  const [dx, dy] = [input.x - last.x, input.y - last.y]
  if (Math.hypot(dx, dy) * input.scale < 3) return points
  const dragged = { ...last, outX: dx, outY: dy, inX: -dx, inY: -dy, isCorner: false }
  return [...points.slice(0, -1), dragged]
}
