import { channelOf, withPatchesApplied, type Shape } from '@tender-lasso/core/document'
import { numberChanged, pointEdgeChanged, type EdgeNumber, type FeatherSide } from '@tender-lasso/core/edits'
import {
  areasAt,
  edgeBars,
  edgeContours,
  edgeOn,
  FOCUS_REACH,
  isSoftAtPoints,
  type EdgeBar,
  type Softening,
} from '@tender-lasso/core/evaluation'
import { signedDistanceToPolygon } from '@tender-lasso/core/geometry'
import { flattenOutline } from '@tender-lasso/core/spline'
import { GRAB_PIXELS } from '../../selection'
import { selectedShapes } from '../../store'
import { isDragged } from './dragStart'
import type { PointerInput, Tool, ToolContext } from './tool'

interface Grip {
  shape: Shape
  /** Null: both contours lie on the line; the way of the hand will tell. */
  side: FeatherSide | null
  /** Signed distance of the press from the line, and where and when it was, plate pixels. */
  distance: number
  x: number
  y: number
  time: number
  /** The point by whose bar it is held; null: the whole outline. */
  bar: EdgeBar | null
}

type State = { kind: 'idle' } | { kind: 'pressed'; grip: Grip } | { kind: 'dragging'; grip: Grip; by: number; isBoth: boolean } // prettier-ignore

const IDLE: State = { kind: 'idle' }

/** Plate pixels by which the drawn contours may deviate: they are hairlines. */
const DRAWN_TOLERANCE = 0.15

/**
 * Drags the edge of the selected shapes softer or harder. Of a feather the contour where it fades out, the one where it is full, or both; focus blur goes as far to
 * both sides. By the bar of a point that point alone, or all selected ones with it.
 */
const edgeTool = (of: Softening): Tool<State> => ({
  idle: IDLE,
  cursor: 'default',
  down(_state, input, context) {
    const grip = gripAt(of, input, context)
    if (grip) return { state: { kind: 'pressed', grip } }
    return shapesOf(context).length
      ? { state: IDLE }
      : { state: IDLE, say: 'Select a shape or a Part to soften its edge' }
  },
  move(state, input, context) {
    if (state.kind === 'idle' || (state.kind === 'pressed' && !isDragged(state.grip, input))) return { state }
    const next = dragged(state.grip, input, context)
    return { state: next, preview: softened(of, next, context) }
  },
  up(state, input, context) {
    if (state.kind === 'pressed' && state.grip.bar)
      return { state: IDLE, selection: withPoint(state.grip.bar, input, context) }
    if (state.kind !== 'dragging') return { state: IDLE }
    const last = dragged(state.grip, input, context)
    const shapes = shapesOf(context)
    const isKeyed = last.grip.bar !== null || shapes.some((shape) => numbersOf(of, last).some((number) => channelOf(shape, number).keys.length > 0)) // prettier-ignore
    return {
      state: IDLE,
      preview: [],
      commit: { label: wordsOf(of, last, shapes, context), patches: softened(of, last, context), reaches: isKeyed },
    }
  },
  key(_state, key) {
    return { state: IDLE, preview: [], ...(key === 'Escape' && { tool: 'select' as const }) }
  },
  hover(state, input, context) {
    const grip = state.kind === 'idle' ? gripAt(of, input, context) : null
    if (!grip) return null
    const at = grip.bar ? ` ${pointsInHand(grip, context)}` : ''
    return { cursor: 'move', words: `${hoverWords(of, grip)}${at}${of === 'feather' ? '; with Alt both sides' : ''}`, shapes: [] } // prettier-ignore
  },
  prompt(_state, context) {
    return shapesOf(context).length
      ? of === 'feather'
        ? 'Drag the edge to soften it, a bar at one point · Alt both sides'
        : 'Drag the edge out of focus, a bar at one point'
      : 'Select a shape or a Part to soften its edge'
  },
  tag(state, context) {
    if (state.kind !== 'dragging') return null
    const { grip, by } = state
    const edge = edgeOf(of, grip.shape, context.frame)
    const width = (side: FeatherSide) => (grip.bar ? barWidth(grip.bar, side) : edge[side])
    if (of === 'focus') return `sigma ${widthOf(width('outerFeather') / FOCUS_REACH, by / FOCUS_REACH).toFixed(1)} px`
    return sidesOf(state)
      .map((side) => `${side === 'outerFeather' ? 'out' : 'in'} ${widthOf(width(side), by).toFixed(1)} px`)
      .join(', ')
  },
  sketch(state, context) {
    // Under way they are seen as they will be.
    const document =
      state.kind === 'dragging' ? withPatchesApplied(context.document, softened(of, state, context)) : context.document
    const shapes = shapesOf({ ...context, document })
    const contours = shapes.flatMap((shape) => Object.values(edgeContours(document, shape, context.frame, of)).flat())
    const bars = shapes.flatMap((shape) => {
      const { grow } = edgeOn(shape, context.frame).edge
      return edgeBars(document, shape, context.frame, of).map((bar) => barLine(bar, grow))
    })
    return { lines: contours.map((points) => ({ points, isClosed: false })), rings: [], bars }
  },
})

export const featherTool = edgeTool('feather')
export const focusTool = edgeTool('focus')

/** From where the edge is full to where it fades out, at a point. */
function barLine({ x, y, outX, outY, inner, outer }: EdgeBar, grow: number) {
  const at = (along: number) => [x + outX * along, y + outY * along] as const
  return { from: at(grow - inner), to: at(grow + outer), middle: at(grow), out: [outX, outY] as const }
}

const barWidth = ({ inner, outer }: EdgeBar, side: FeatherSide) => (side === 'outerFeather' ? outer : inner)

const shapesOf = ({ document, selection }: ToolContext) => selectedShapes({ document, selection })

const polygonsOf = (shape: Shape, { document, frame }: ToolContext) =>
  areasAt(document, shape, frame).map((outline) => flattenOutline(outline, DRAWN_TOLERANCE))

/** Signed distance to the line that the edge fades about: that of the shape, grown. */
const distanceTo = (shape: Shape, { x, y }: { x: number; y: number }, context: ToolContext) =>
  Math.min(...polygonsOf(shape, context).map((polygon) => signedDistanceToPolygon(polygon, x, y))) -
  edgeOn(shape, context.frame).edge.grow

/** Screen pixels beside the bar of a point at which it is still taken. */
const BESIDE_BAR = 5

/** The bar under the pointer, or else the contour, the nearest one of all selected shapes. */
function gripAt(of: Softening, input: PointerInput, context: ToolContext): Grip | null {
  let best: Grip | null = null
  let least = GRAB_PIXELS / input.scale
  const { x, y, time } = input
  const offer = (away: number, grip: Pick<Grip, 'shape' | 'side' | 'distance' | 'bar'>) => {
    if (away > least) return
    least = away
    best = { ...grip, x, y, time }
  }
  for (const shape of shapesOf(context)) {
    const { grow } = edgeOn(shape, context.frame).edge
    for (const bar of edgeBars(context.document, shape, context.frame, of)) {
      const beside = Math.abs((x - bar.x) * bar.outY - (y - bar.y) * bar.outX)
      if (beside * input.scale > BESIDE_BAR) continue
      const distance = alongBar(bar, input) - grow
      for (const [side, at] of sidesAt(bar.outer, bar.inner))
        offer(Math.abs(distance - at), { shape, side, distance, bar })
    }
  }
  // A bar is taken before the contour that it ends in.
  if (best) return best
  for (const shape of shapesOf(context)) {
    const { outerFeather, innerFeather } = edgeOf(of, shape, context.frame)
    const distance = distanceTo(shape, input, context)
    if (isSoftAtPoints(shape, of)) {
      const { outer, inner } = edgeContours(context.document, shape, context.frame, of)
      offer(distanceToLines(outer, x, y), { shape, side: 'outerFeather', distance, bar: null })
      offer(distanceToLines(inner, x, y), { shape, side: 'innerFeather', distance, bar: null })
    } else {
      for (const [side, at] of sidesAt(outerFeather, innerFeather)) offer(Math.abs(distance - at), { shape, side, distance, bar: null }) // prettier-ignore
    }
  }
  return best
}

/** Where an edge fades out and where it is full, from its line; on a bare line nobody knows yet which of the two. */
const sidesAt = (outer: number, inner: number): [FeatherSide | null, number][] =>
  outer === 0 && inner === 0 ? [[null, 0]] : [['outerFeather', outer], ['innerFeather', -inner]] // prettier-ignore

/** From the corners of polylines that have them close together. */
function distanceToLines(lines: readonly (readonly number[])[], x: number, y: number): number {
  let least = Infinity
  for (const line of lines) {
    for (let i = 0; i < line.length; i += 2) least = Math.min(least, Math.hypot(line[i]! - x, line[i + 1]! - y))
  }
  return least
}

/** Signed distance of a place from a point, straight out from the shape. */
const alongBar = (bar: EdgeBar, { x, y }: { x: number; y: number }) => (x - bar.x) * bar.outX + (y - bar.y) * bar.outY

function dragged(grip: Grip, input: PointerInput, context: ToolContext): Extract<State, { kind: 'dragging' }> {
  const { grow } = edgeOn(grip.shape, context.frame).edge
  const now = grip.bar ? alongBar(grip.bar, input) - grow : distanceTo(grip.shape, input, context)
  const outwards = now - grip.distance
  const side = grip.side ?? (outwards >= 0 ? 'outerFeather' : 'innerFeather')
  const by = side === 'outerFeather' ? outwards : -outwards
  return { kind: 'dragging', grip: { ...grip, side }, by, isBoth: input.alt }
}

const sidesOf = ({ grip, isBoth }: Extract<State, { kind: 'dragging' }>): FeatherSide[] =>
  isBoth ? ['outerFeather', 'innerFeather'] : [grip.side ?? 'outerFeather']

/** What of the edge the hand changes. */
const numbersOf = (of: Softening, state: Extract<State, { kind: 'dragging' }>): EdgeNumber[] =>
  of === 'focus' ? ['focus'] : sidesOf(state)

/** How much of a way across the edge is a change of those numbers. */
const perPixel = (of: Softening) => (of === 'focus' ? 1 / FOCUS_REACH : 1)

const widthOf = (width: number, by: number) => Math.max(0, width + by)

/** How far the edge of a whole shape goes to both sides. */
function edgeOf(of: Softening, shape: Shape, frame: number): Record<FeatherSide, number> {
  const { edge, focus } = edgeOn(shape, frame)
  return of === 'feather' ? edge : { innerFeather: FOCUS_REACH * focus, outerFeather: FOCUS_REACH * focus }
}

/** Each of the selected shapes as much softer, or the points in hand. */
function softened(of: Softening, state: Extract<State, { kind: 'dragging' }>, context: ToolContext) {
  const { grip } = state
  const { document, frame, keying, softness } = context
  const numbers = numbersOf(of, state)
  const by = state.by * perPixel(of)
  const { bar } = grip
  if (bar) {
    return shapesOf(context).flatMap((shape) => {
      const pointIds = new Set(shape.pointIds.filter((id) => pointIdsInHand(bar, context).has(id)))
      if (pointIds.size === 0) return []
      return pointEdgeChanged(document, shape, frame, { numbers, pointIds, softness, to: (width) => widthOf(width, by) }, keying) // prettier-ignore
    })
  }
  return shapesOf(context).flatMap((shape) =>
    numbers.flatMap((number) => numberChanged(channelOf(shape, number), 0, { kind: 'add', by }, frame, keying)),
  )
}

/** The point whose bar is held, and with a selected one all that are. */
const pointIdsInHand = (bar: EdgeBar, { selection }: ToolContext): ReadonlySet<string> =>
  selection.pointIds.has(bar.pointId) ? selection.pointIds : new Set([bar.pointId])

function pointsInHand({ bar }: Grip, context: ToolContext): string {
  const count = bar ? pointIdsInHand(bar, context).size : 0
  return count > 1 ? `at ${count} points` : 'at this point'
}

/** A click on a bar selects its point, with Shift as well as the others or no longer. */
function withPoint({ pointId }: EdgeBar, { shift }: PointerInput, { selection }: ToolContext) {
  const pointIds = new Set(shift ? selection.pointIds : [])
  if (shift && selection.pointIds.has(pointId)) pointIds.delete(pointId)
  else pointIds.add(pointId)
  return { pointIds }
}

function hoverWords(of: Softening, { side }: Grip): string {
  if (of === 'focus') return side === null ? 'Drag out of focus' : 'Drag: focus blur'
  return side === null ? 'Drag out or in' : side === 'outerFeather' ? 'Drag: feather out' : 'Drag: feather in'
}

function wordsOf(
  of: Softening,
  state: Extract<State, { kind: 'dragging' }>,
  shapes: readonly Shape[],
  context: ToolContext,
): string {
  const sides = sidesOf(state).map((side) => (side === 'outerFeather' ? 'out' : 'in'))
  const what = of === 'focus' ? 'focus blur' : `feather ${sides.join(' and ')}`
  if (state.grip.bar) return `${what} ${pointsInHand(state.grip, context)} of ${state.grip.shape.name}`
  return `${what} of ${shapes.length === 1 ? shapes[0]!.name : `${shapes.length} shapes`}`
}
