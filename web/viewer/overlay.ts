import { SEGMENT, SEGMENT_STRIDE } from '@tender-lasso/core/spline'
import {
  controlPlacesAt,
  isInMatte,
  isShown,
  partsByDepth,
  shapesOf,
  shapeWorldAt,
  strokeSidesAt,
} from '@tender-lasso/core/evaluation'
import { pivotOnPlate, pointShares } from '@tender-lasso/core/edits'
import { type Part, type RotoDocument, findObject, type Shape } from '@tender-lasso/core/document'
import { applyToPoint, multiply, type Matrix3 } from '@tender-lasso/core/geometry'
import { css, DRAWING_TOOLS, partColour, posedPart, type ShotState } from '../store'
import { reachWords } from '../commands'
import { placeOfHandle, SCALE_HANDLES, type BoxHandle } from './tools/boxHandles'
import { ownPivotOfChosen, selectedBox } from '../selection'
import type { ToolSketch } from './tools/tool'
import { drawShutterVotes, drawSoftnessMarks } from './softnessMarks'
import { drawDeliveredMatte } from './deliveredMatte'
import { drawShutterLines } from './shutterLines'
import { drawCompared, drawOnionSkin, drawReachPreview } from './onionSkin'
import { drawnOutlineAt } from './drawnOutline'
import { strokeOutline, strokePolygon } from './strokePolygon'
import { drawGuides } from './guides'
import { drawInstances } from './instanceLines'
import { drawStitches } from './stitches'
import { drawTracks } from './trackOverlay'
import { strokeCased, strokeRing } from './strokeCased'

const ACCENT = '#6fb3a0'
const CHALK = '#ece9e2'
/** Rings of a sketch, CSS pixels. */
const RING_SIZE = 3.4

/** What a layer of lines is drawn from. */
export interface OverlayPicture {
  state: ShotState
  toScreen: Matrix3
  pixelRatio: number
}

/** Outlines that are not selected, and tracked regions: what rests while a selected outline is dragged. */
export function drawRestingLines(context: CanvasRenderingContext2D, { state, toScreen, pixelRatio }: OverlayPicture) {
  const areLinesShown = clear(context, state, pixelRatio)
  drawDeliveredMatte(context, state, toScreen)
  if (!areLinesShown) return
  const { shown: document, frame, selection } = state
  forVisibleShapes(document, frame, (shape, part) => {
    if (selection.shapeIds.includes(shape.id)) return
    context.strokeStyle = css(partColour(document, part), selection.partId === part.id ? 0.9 : 0.55)
    context.lineWidth = state.view.lineWidth
    dashWhereHidden(context, shape, part, frame)
    strokeShape(context, document, shape, frame, toScreen)
  })
  context.setLineDash([])
  drawTracks(context, state, toScreen)
}

/** True when {@link drawRestingLines} would draw something else. */
export function areRestingLinesOld(drawn: OverlayPicture | null, now: OverlayPicture): boolean {
  if (!drawn) return true
  const [before, after] = [drawn.state, now.state]
  if (
    before.frame !== after.frame ||
    before.selection !== after.selection ||
    before.step !== after.step ||
    before.tool !== after.tool ||
    before.pixelsUsed !== after.pixelsUsed ||
    before.view.hideOverlays !== after.view.hideOverlays ||
    before.view.proofLaid !== after.view.proofLaid ||
    before.view.delivery !== after.view.delivery ||
    before.deliveredMatte !== after.deliveredMatte ||
    before.view.lineWidth !== after.view.lineWidth ||
    drawn.pixelRatio !== now.pixelRatio ||
    drawn.toScreen.some((value, i) => value !== now.toScreen[i])
  )
    return true
  if (before.shown === after.shown) return false
  if (before.shown.objects.size !== after.shown.objects.size) return true
  for (const [id, object] of after.shown.objects) {
    if (before.shown.objects.get(id) !== object && !after.selection.shapeIds.includes(id)) return true
  }
  return false
}

/** Selected outlines with their handles, the pivot, and the sketch of the gesture under way. */
export function drawActiveLines(
  context: CanvasRenderingContext2D,
  { state, toScreen, pixelRatio }: OverlayPicture,
  sketch: ToolSketch | null,
  pointer: readonly [number, number] | null,
  hovered: readonly Shape[],
) {
  if (!clear(context, state, pixelRatio)) return
  const { shown: document, frame, selection } = state
  drawOnionSkin(context, state)
  drawInstances(context, state, toScreen)
  drawShutterLines(context, state, toScreen)
  drawSoftnessMarks(context, state, toScreen)
  drawShutterVotes(context, state, toScreen)
  // What a press would move, as it lies now.
  context.strokeStyle = CHALK
  context.lineWidth = state.view.lineWidth
  for (const { id } of hovered) {
    const shape = findObject(document, 'shape', id)
    if (shape) strokeShape(context, document, shape, frame, toScreen)
  }
  forVisibleShapes(document, frame, (shape, part) => {
    if (!selection.shapeIds.includes(shape.id)) return
    const colour = css(partColour(document, part))
    context.strokeStyle = colour
    context.lineWidth = 1.4 * state.view.lineWidth
    dashWhereHidden(context, shape, part, frame)
    const outline = strokeShape(context, document, shape, frame, toScreen)
    context.setLineDash([])
    const places = placesOnScreen(document, shape, frame, toScreen)
    if (shape.curve === 'bspline') drawControlPolygon(context, places, shape.isClosed, colour)
    const shares = pointShares(document, shape, frame, selection.pointIds, state.editing.softness)
    drawPoints(context, shape, outline, places, selection.pointIds, shares, colour, state.view.handleSize)
  })
  drawReachPreview(context, state)
  drawStitches(context, document, frame, toScreen)
  drawGuides(context, document, toScreen)
  drawCompared(context, state)
  if (state.tool === 'select') drawBox(context, state, toScreen)
  const part = posedPart({ selection, document })
  if (part && (state.tool === 'turn' || state.tool === 'select')) {
    const [x, y] = applyToPoint(toScreen, ...pivotOnPlate(document, part, frame))
    drawEyelet(context, x!, y!)
  } else {
    const own = ownPivotOfChosen({ document, frame, selection })
    const clicked = state.tool === 'turn' || sketch?.rings.length ? state.pivot : null
    const pivot = clicked ?? (state.tool === 'turn' || state.tool === 'select' ? own : null)
    if (pivot) {
      const [x, y] = applyToPoint(toScreen, pivot[0], pivot[1])
      drawEyelet(context, x!, y!)
    }
  }
  if (sketch) drawSketch(context, sketch, toScreen)
  const words = pointerWords(state)
  if (pointer && words) drawTag(context, words, applyToPoint(toScreen, ...pointer))
}

/** What stands at the pointer: what the next click places, or which frames the next edit touches when not just this one. */
export function pointerWords(state: ShotState): string | null {
  const { tag, editing, tool } = state
  if (tag) return tag
  if (editing.nextOperation !== 'add' && DRAWING_TOOLS.has(tool)) return 'hole'
  if (editing.reach === 'here') return null
  return `${reachWords(state)}${editing.isReachLocked ? ', locked' : ''}`
}

function drawTag(context: CanvasRenderingContext2D, words: string, at: ArrayLike<number>) {
  context.font = "600 11px 'Spline Sans Variable', sans-serif"
  context.textBaseline = 'middle'
  context.textAlign = 'left'
  const [x, y] = [at[0]! + 14, at[1]! + 20]
  const width = context.measureText(words).width
  context.fillStyle = 'rgb(22 22 22 / 0.85)'
  context.fillRect(x - 5, y - 9, width + 10, 18)
  context.fillStyle = ACCENT
  context.fillText(words, x, y + 0.5)
}

/** All hairlines, in CSS pixels. False when nothing is to be drawn. */
function clear(context: CanvasRenderingContext2D, state: ShotState, pixelRatio: number): boolean {
  context.setTransform(pixelRatio, 0, 0, pixelRatio, 0, 0)
  context.clearRect(0, 0, context.canvas.width, context.canvas.height)
  return !state.view.hideOverlays
}

/** Farthest first, so that nearer outlines lie on top. */
function forVisibleShapes(document: RotoDocument, frame: number, draw: (shape: Shape, part: Part) => void) {
  for (const part of partsByDepth(document, frame).reverse()) {
    for (const shape of shapesOf(document, part.id)) if (isShown(shape, part, frame)) draw(shape, part)
  }
}

/** Where its matte is empty the line of a shape is broken. */
function dashWhereHidden(context: CanvasRenderingContext2D, shape: Shape, part: Part, frame: number) {
  context.setLineDash(isInMatte(shape, part, frame) ? [] : [2, 4])
}

/** The line of a shape, of a stroke both its centre line and the sides of what it covers; returns the line, to be used at once. */
function strokeShape(
  context: CanvasRenderingContext2D,
  document: RotoDocument,
  shape: Shape,
  time: number,
  toScreen: Matrix3,
): Float64Array {
  const outline = drawnOutlineAt(document, shape, time, toScreen)
  strokeOutline(context, outline, shape.isClosed)
  if (!shape.isClosed) {
    const map = multiply(toScreen, shapeWorldAt(document, shape, time))
    for (const side of strokeSidesAt(document, shape, time)) {
      const line = new Float64Array(side.length)
      mapPlaces(side, map, line)
      strokePolygon(context, line, false)
    }
  }
  return outline
}

/** Control points, x0, y0, x1, y1 ... in CSS pixels. */
function placesOnScreen(document: RotoDocument, shape: Shape, frame: number, toScreen: Matrix3): Float64Array {
  const places = controlPlacesAt(document, shape, frame)
  mapPlaces(places, toScreen, places)
  return places
}

function mapPlaces(places: ArrayLike<number>, map: Matrix3, out: Float64Array) {
  const point = [0, 0]
  for (let i = 0; i < places.length; i += 2) {
    applyToPoint(map, places[i]!, places[i + 1]!, point)
    out[i] = point[0]!
    out[i + 1] = point[1]!
  }
}

function drawControlPolygon(
  context: CanvasRenderingContext2D,
  places: Float64Array,
  isClosed: boolean,
  colour: string,
) {
  context.save()
  context.strokeStyle = colour
  context.lineWidth = 0.6
  context.setLineDash([2, 3])
  strokePolygon(context, places, isClosed)
  context.restore()
}

/** The box round the selected points, away from them, with its handles. */
function drawBox(context: CanvasRenderingContext2D, state: ShotState, toScreen: Matrix3) {
  const box = selectedBox({ document: state.shown, frame: state.frame, selection: state.selection })
  if (!box || !state.view.showsBox) return
  const at = (handle: BoxHandle) => {
    const [x, y] = applyToPoint(toScreen, ...placeOfHandle(box, handle, state.view.zoom))
    return [x!, y!] as const
  }
  context.save()
  context.strokeStyle = css([236, 233, 226], 0.45)
  context.lineWidth = 1
  context.setLineDash([3, 3])
  context.beginPath()
  for (const [u, v] of [[0, 0], [1, 0], [1, 1], [0, 1]] as const) context.lineTo(...at({ kind: 'scale', u, v })) // prettier-ignore
  context.closePath()
  strokeCased(context)
  context.setLineDash([])
  for (const handle of SCALE_HANDLES) {
    const [x, y] = at(handle)
    context.beginPath()
    context.rect(Math.round(x) - 2.5, Math.round(y) - 2.5, 5, 5)
    strokeCased(context)
  }
  const [x, y] = at({ kind: 'turn' })
  context.beginPath()
  context.arc(x, y, 3.5, 0, 2 * Math.PI)
  strokeCased(context)
  context.restore()
}

/** Rings are smooth points, squares are corners; filled when selected. Tangents of selected points end in short bars. */
function drawPoints(
  context: CanvasRenderingContext2D,
  shape: Shape,
  outline: Float64Array,
  places: Float64Array,
  selected: ReadonlySet<string>,
  share: (pointId: string) => number,
  colour: string,
  size: number,
) {
  const count = shape.pointIds.length
  const at = (i: number): [number, number] => [outline[i]! / outline[i + 2]!, outline[i + 1]! / outline[i + 2]!]
  context.lineWidth = 1
  const ids = shape.pointIds
  const path = (wanted: (id: string) => boolean, size: number) => {
    context.beginPath()
    ids.forEach((id, i) => wanted(id) && addPoint(context, places[2 * i]!, places[2 * i + 1]!, size, shape.corners[i]!))
  }
  context.strokeStyle = CHALK
  ids.forEach((id, i) => {
    if (!selected.has(id) || shape.curve !== 'bezier') return
    const [x, y] = [places[2 * i]!, places[2 * i + 1]!]
    drawTangent(context, x, y, ...at(i * SEGMENT_STRIDE + SEGMENT.leaving))
    drawTangent(context, x, y, ...at(((i + count - 1) % count) * SEGMENT_STRIDE + SEGMENT.arriving))
  })
  // All at once: each call costs as much as its pixels. The ground is a bit larger than the rings: it is their casing.
  context.fillStyle = 'rgb(22 22 22 / 0.55)'
  path(() => true, size + 1)
  context.fill()
  // Points that go along softly are filled by as much.
  for (const id of selected.size ? ids : []) {
    const part = share(id)
    if (part <= 0) continue
    context.fillStyle = css([236, 233, 226], part)
    path((other) => other === id, size)
    context.fill()
  }
  for (const isSelected of [false, true]) {
    context.strokeStyle = isSelected ? CHALK : colour
    path((id) => selected.has(id) === isSelected, size)
    strokeRing(context)
  }
}

function addPoint(context: CanvasRenderingContext2D, x: number, y: number, size: number, isCorner: boolean) {
  if (isCorner) return context.rect(x - size, y - size, 2 * size, 2 * size)
  context.moveTo(x + size, y)
  context.arc(x, y, size, 0, 2 * Math.PI)
}

function drawTangent(context: CanvasRenderingContext2D, x: number, y: number, endX: number, endY: number) {
  const length = Math.hypot(endX - x, endY - y)
  if (length < 1) return
  const [nx, ny] = [(-(endY - y) / length) * 4, ((endX - x) / length) * 4]
  context.beginPath()
  context.moveTo(x, y)
  context.lineTo(endX, endY)
  context.moveTo(endX - nx, endY - ny)
  context.lineTo(endX + nx, endY + ny)
  strokeCased(context)
}

function drawEyelet(context: CanvasRenderingContext2D, x: number, y: number) {
  context.strokeStyle = CHALK
  context.lineWidth = 1
  for (const radius of [7, 2.2]) {
    context.beginPath()
    context.arc(x, y, radius, 0, 2 * Math.PI)
    strokeCased(context)
  }
}

function drawSketch(context: CanvasRenderingContext2D, sketch: ToolSketch, toScreen: Matrix3) {
  context.strokeStyle = ACCENT
  context.lineWidth = 1.2
  for (const line of sketch.lines) {
    const places = new Float64Array(line.points.length)
    mapPlaces(line.points, toScreen, places)
    strokePolygon(context, places, line.isClosed)
  }
  drawBars(context, sketch.bars ?? [], toScreen)
  context.fillStyle = '#1c1c1c'
  for (const [px, py] of sketch.rings) {
    const [x, y] = applyToPoint(toScreen, px, py)
    context.beginPath()
    context.arc(x!, y!, RING_SIZE, 0, 2 * Math.PI)
    context.fill()
    strokeCased(context)
  }
}

/** Least length of either half of a bar, and the size of its grips, CSS pixels. */
const LEAST_BAR = 5
const GRIP_SIZE = 2

type Bars = NonNullable<ToolSketch['bars']>

function drawBars(context: CanvasRenderingContext2D, bars: Bars, toScreen: Matrix3) {
  const ends = bars.map((bar) => barEnds(bar, toScreen))
  context.beginPath()
  for (const [[x0, y0], [x1, y1]] of ends) {
    context.moveTo(x0, y0)
    context.lineTo(x1, y1)
  }
  strokeCased(context)
  context.fillStyle = ACCENT
  context.beginPath()
  for (const [x, y, isGrip] of ends.flat()) {
    if (isGrip) context.rect(x - GRIP_SIZE, y - GRIP_SIZE, 2 * GRIP_SIZE, 2 * GRIP_SIZE)
  }
  context.fill()
}

/** Both ends of a bar, CSS pixels, and whether the edge is wide enough there for a grip. */
function barEnds({ from, to, middle, out }: Bars[number], toScreen: Matrix3) {
  const [mx, my] = applyToPoint(toScreen, middle[0], middle[1])
  const [ax, ay] = applyToPoint(toScreen, middle[0] + out[0], middle[1] + out[1])
  const perPixel = Math.hypot(ax! - mx!, ay! - my!) || 1
  const [ux, uy] = [(ax! - mx!) / perPixel, (ay! - my!) / perPixel]
  const end = ([x, y]: readonly [number, number], way: number) => {
    const length = Math.hypot(x - middle[0], y - middle[1]) * perPixel
    const reach = way * Math.max(LEAST_BAR, length)
    return [mx! + ux * reach, my! + uy * reach, length >= LEAST_BAR] as const
  }
  return [end(from, -1), end(to, 1)] as const
}
