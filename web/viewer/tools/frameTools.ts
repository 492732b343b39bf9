import type { DrawnPoint } from '@tender-lasso/core/edits'
import { QUARTER_ARC_TANGENT } from '@tender-lasso/core/spline'
import { curveTo } from './curveTo'
import { newShapeCommit } from './newShape'
import type { PointerInput, Tool } from './tool'

type Dragging = { kind: 'dragging'; x: number; y: number; toX: number; toY: number; isFromMiddle: boolean }
type State = { kind: 'idle' } | Dragging

const IDLE: State = { kind: 'idle' }
/** Screen pixels below which a drag was a slip. */
const SMALLEST_PIXELS = 4

/** A rectangle from corner to corner; Shift makes it a square, Alt draws from its middle. */
export const rectangleTool = frameTool('rectangle', (left, top, right, bottom) => [
  corner(left, top),
  corner(right, top),
  corner(right, bottom),
  corner(left, bottom),
])

/** An ellipse in the frame from corner to corner; Shift makes it a circle, Alt draws from its middle. */
export const ellipseTool = frameTool('ellipse', (left, top, right, bottom) => {
  const [cx, cy, rx, ry] = [(left + right) / 2, (top + bottom) / 2, (right - left) / 2, (bottom - top) / 2]
  return [[1, 0], [0, 1], [-1, 0], [0, -1]].map(([c, s]) => {
    const [outX, outY] = [-s! * rx * QUARTER_ARC_TANGENT, c! * ry * QUARTER_ARC_TANGENT]
    return { x: cx + c! * rx, y: cy + s! * ry, inX: -outX, inY: -outY, outX, outY, isCorner: false }
  }) // prettier-ignore
})

function frameTool(how: string, pointsOf: (...frame: Frame) => DrawnPoint[]): Tool<State> {
  return {
    idle: IDLE,
    cursor: 'crosshair',
    down: (_state, { x, y }) => ({ state: { kind: 'dragging', x, y, toX: x, toY: y, isFromMiddle: false } }),
    move(state, input) {
      return { state: state.kind === 'dragging' ? draggedTo(state, input) : state }
    },
    up(state, input, context) {
      if (state.kind !== 'dragging') return { state: IDLE }
      const frame = frameOf(draggedTo(state, input))
      const [left, top, right, bottom] = frame
      if (Math.min(right - left, bottom - top) * input.scale < SMALLEST_PIXELS) return { state: IDLE, say: `Drag from corner to corner for the ${how}` } // prettier-ignore
      return { state: IDLE, ...newShapeCommit(context, pointsOf(...frame), how) }
    },
    key: () => ({ state: IDLE }),
    sketch(state) {
      if (state.kind !== 'dragging') return null
      const points = pointsOf(...frameOf(state))
      const line = points.flatMap((p, i) => curveTo(points[(i + points.length - 1) % points.length]!, p))
      return { lines: [{ points: line, isClosed: true }], rings: [] }
    },
  }
}

function corner(x: number, y: number): DrawnPoint {
  return { x, y, inX: 0, inY: 0, outX: 0, outY: 0, isCorner: true }
}

type Frame = [left: number, top: number, right: number, bottom: number]

/** The same drag with the pointer elsewhere: of a square with Shift, from the middle with Alt. */
function draggedTo(state: Dragging, input: PointerInput): Dragging {
  let [wayX, wayY] = [input.x - state.x, input.y - state.y]
  if (input.shift) {
    const side = Math.max(Math.abs(wayX), Math.abs(wayY))
    wayX = side * (Math.sign(wayX) || 1)
    wayY = side * (Math.sign(wayY) || 1)
  }
  return { ...state, toX: state.x + wayX, toY: state.y + wayY, isFromMiddle: input.alt }
}

function frameOf({ x, y, toX, toY, isFromMiddle }: Dragging): Frame {
  const [fromX, fromY] = isFromMiddle ? [2 * x - toX, 2 * y - toY] : [x, y]
  return [Math.min(fromX, toX), Math.min(fromY, toY), Math.max(fromX, toX), Math.max(fromY, toY)]
}
