import { channelOf, type Shape } from '@tender-lasso/core/document'
import { numberChanged } from '@tender-lasso/core/edits'
import { areasAt, edgeOn } from '@tender-lasso/core/evaluation'
import { contourAtDistance, signedDistanceToPolygon } from '@tender-lasso/core/geometry'
import { flattenOutline } from '@tender-lasso/core/spline'
import { GRAB_PIXELS } from '../../selection'
import { selectedShapes } from '../../store'
import { isDragged } from './dragStart'
import type { PointerInput, Tool, ToolContext } from './tool'

type Side = 'outerFeather' | 'innerFeather'

interface Grip {
  shape: Shape
  /** Null: both contours lie on the line; the way of the hand will tell. */
  side: Side | null
  /** Signed distance of the press from the line, and where and when it was, plate pixels. */
  distance: number
  x: number
  y: number
  time: number
}

type State = { kind: 'idle' } | { kind: 'pressed'; grip: Grip } | { kind: 'dragging'; grip: Grip; by: number; isBoth: boolean } // prettier-ignore

const IDLE: State = { kind: 'idle' }

/** Plate pixels by which the drawn contours may deviate: they are hairlines. */
const DRAWN_TOLERANCE = 0.15

/** Drags the edge of the selected shapes softer or harder: the contour where it fades out, the one where it is full, or both. */
export const featherTool: Tool<State> = {
  idle: IDLE,
  cursor: 'default',
  down(_state, input, context) {
    const grip = gripAt(input, context)
    if (grip) return { state: { kind: 'pressed', grip } }
    return shapesOf(context).length
      ? { state: IDLE }
      : { state: IDLE, say: 'Select a shape or a Part to soften its edge' }
  },
  move(state, input, context) {
    if (state.kind === 'idle' || (state.kind === 'pressed' && !isDragged(state.grip, input))) return { state }
    const next = dragged(state.grip, input, context)
    return { state: next, preview: softened(next, context) }
  },
  up(state, input, context) {
    if (state.kind !== 'dragging') return { state: IDLE }
    const last = dragged(state.grip, input, context)
    const shapes = shapesOf(context)
    const isKeyed = shapes.some((shape) => sidesOf(last).some((side) => channelOf(shape, side).keys.length > 0))
    return {
      state: IDLE,
      preview: [],
      commit: { label: wordsOf(last, shapes), patches: softened(last, context), reaches: isKeyed },
    }
  },
  key(_state, key) {
    return { state: IDLE, preview: [], ...(key === 'Escape' && { tool: 'select' as const }) }
  },
  hover(state, input, context) {
    const grip = state.kind === 'idle' ? gripAt(input, context) : null
    if (!grip) return null
    const words = grip.side === null ? 'Drag out or in' : grip.side === 'outerFeather' ? 'Drag: feather out' : 'Drag: feather in' // prettier-ignore
    return { cursor: 'move', words: `${words}; with Alt both sides`, shapes: [] }
  },
  prompt(_state, context) {
    return shapesOf(context).length
      ? 'Drag the edge outwards or inwards to soften it, Alt both sides at once · Esc ends'
      : 'Select a shape or a Part to soften its edge'
  },
  tag(state, context) {
    if (state.kind !== 'dragging') return null
    const { edge } = edgeOn(state.grip.shape, context.frame)
    return sidesOf(state)
      .map((side) => `${side === 'outerFeather' ? 'out' : 'in'} ${widthOf(edge[side], state.by).toFixed(1)} px`)
      .join(', ')
  },
  sketch(state, context) {
    const moving = state.kind === 'dragging' ? state : null
    const lines = shapesOf(context).flatMap((shape) => {
      const { edge } = edgeOn(shape, context.frame)
      const width = (side: Side) => widthOf(edge[side], moving && sidesOf(moving).includes(side) ? moving.by : 0)
      const contours = [width('outerFeather'), -width('innerFeather')].filter((distance) => distance !== 0)
      return polygonsOf(shape, context).flatMap((polygon) =>
        contours.flatMap((distance) => contourAtDistance(polygon, distance + edge.grow)),
      )
    })
    return { lines: lines.map((points) => ({ points, isClosed: false })), rings: [] }
  },
}

const shapesOf = ({ document, selection }: ToolContext) => selectedShapes({ document, selection })

const polygonsOf = (shape: Shape, { document, frame }: ToolContext) =>
  areasAt(document, shape, frame).map((outline) => flattenOutline(outline, DRAWN_TOLERANCE))

/** Signed distance to the line that the edge fades about: that of the shape, grown. */
const distanceTo = (shape: Shape, { x, y }: { x: number; y: number }, context: ToolContext) =>
  Math.min(...polygonsOf(shape, context).map((polygon) => signedDistanceToPolygon(polygon, x, y))) -
  edgeOn(shape, context.frame).edge.grow

/** The contour under the pointer, the nearest one of all selected shapes. */
function gripAt(input: PointerInput, context: ToolContext): Grip | null {
  let best: Grip | null = null
  let least = GRAB_PIXELS / input.scale
  for (const shape of shapesOf(context)) {
    const distance = distanceTo(shape, input, context)
    const { outerFeather, innerFeather } = edgeOn(shape, context.frame).edge
    const grip = { shape, distance, x: input.x, y: input.y, time: input.time }
    const isBare = outerFeather === 0 && innerFeather === 0
    const places: [Side | null, number][] = isBare ? [[null, 0]] : [['outerFeather', outerFeather], ['innerFeather', -innerFeather]] // prettier-ignore
    for (const [side, at] of places) {
      const away = Math.abs(distance - at)
      if (away > least) continue
      least = away
      best = { ...grip, side }
    }
  }
  return best
}

function dragged(grip: Grip, input: PointerInput, context: ToolContext): Extract<State, { kind: 'dragging' }> {
  const outwards = distanceTo(grip.shape, input, context) - grip.distance
  const side = grip.side ?? (outwards >= 0 ? 'outerFeather' : 'innerFeather')
  const by = side === 'outerFeather' ? outwards : -outwards
  return { kind: 'dragging', grip: { ...grip, side }, by, isBoth: input.alt }
}

const sidesOf = ({ grip, isBoth }: Extract<State, { kind: 'dragging' }>): Side[] =>
  isBoth ? ['outerFeather', 'innerFeather'] : [grip.side ?? 'outerFeather']

const widthOf = (width: number, by: number) => Math.max(0, width + by)

/** Each of the selected shapes as much softer. */
function softened(state: Extract<State, { kind: 'dragging' }>, context: ToolContext) {
  return shapesOf(context).flatMap((shape) =>
    sidesOf(state).flatMap((side) =>
      numberChanged(channelOf(shape, side), 0, { kind: 'add', by: state.by }, context.frame, context.keying),
    ),
  )
}

function wordsOf(state: Extract<State, { kind: 'dragging' }>, shapes: readonly Shape[]): string {
  const sides = sidesOf(state).map((side) => (side === 'outerFeather' ? 'out' : 'in'))
  const of = shapes.length === 1 ? shapes[0]!.name : `${shapes.length} shapes`
  return `feather ${sides.join(' and ')} of ${of}`
}
