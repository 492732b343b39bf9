import {
  isAlive,
  outlineAt,
  partsByDepth,
  pivotOnPlate,
  shapesOf,
  type Part,
  type RotoDocument,
  type Shape,
} from '@tender-lasso/core/document'
import { applyToPoint, type Matrix3 } from '@tender-lasso/core/geometry'
import { flattenOutline } from '@tender-lasso/core/spline'
import { css, partColour } from '../state/colours'
import { posedPart, type ShotState } from '../state/shotStore'
import type { ToolSketch } from './tools/tool'
import { drawOnionSkin } from './onionSkin'
import { onScreen } from './onScreen'
import { strokePolygon } from './strokePolygon'
import { drawTracks } from './trackOverlay'

const ACCENT = '#6fb3a0'
const CHALK = '#ece9e2'
const POINT_SIZE = 3.4

/** What a layer of lines is drawn from. */
export interface OverlayPicture {
  state: ShotState
  toScreen: Matrix3
  pixelRatio: number
}

/** Outlines that are not selected, and tracked regions: what rests while a selected outline is dragged. */
export function drawRestingLines(context: CanvasRenderingContext2D, { state, toScreen, pixelRatio }: OverlayPicture) {
  if (!clear(context, state, pixelRatio)) return
  const { shown: document, frame, selection } = state
  forVisibleShapes(document, frame, (shape, part) => {
    if (selection.shapeIds.includes(shape.id)) return
    const outline = onScreen(outlineAt(document, shape, frame), toScreen)
    context.strokeStyle = css(partColour(document, part), selection.partId === part.id ? 0.9 : 0.55)
    context.lineWidth = 1
    strokePolygon(context, flattenOutline(outline, 0.15))
  })
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
) {
  if (!clear(context, state, pixelRatio)) return
  const { shown: document, frame, selection } = state
  drawOnionSkin(context, state)
  forVisibleShapes(document, frame, (shape, part) => {
    if (!selection.shapeIds.includes(shape.id)) return
    const colour = css(partColour(document, part))
    const outline = onScreen(outlineAt(document, shape, frame), toScreen)
    context.strokeStyle = colour
    context.lineWidth = 1.4
    strokePolygon(context, flattenOutline(outline, 0.15))
    drawPoints(context, shape, outline, selection.pointIds, colour)
  })
  const part = posedPart({ selection, document })
  if (part && (state.tool === 'turn' || state.tool === 'select')) {
    const [x, y] = applyToPoint(toScreen, ...pivotOnPlate(document, part, frame))
    drawEyelet(context, x!, y!)
  } else if (state.pivot && (state.tool === 'turn' || sketch?.rings.length)) {
    const [x, y] = applyToPoint(toScreen, state.pivot[0], state.pivot[1])
    drawEyelet(context, x!, y!)
  }
  if (sketch) drawSketch(context, sketch, toScreen)
}

/** All hairlines, in CSS pixels. False when nothing is to be drawn. */
function clear(context: CanvasRenderingContext2D, state: ShotState, pixelRatio: number): boolean {
  context.setTransform(pixelRatio, 0, 0, pixelRatio, 0, 0)
  context.clearRect(0, 0, context.canvas.width, context.canvas.height)
  return !state.view.hideOverlays
}

/** Farthest first, so that nearer outlines lie on top. */
function forVisibleShapes(document: RotoDocument, frame: number, draw: (shape: Shape, part: Part) => void) {
  for (const part of partsByDepth(document).reverse()) {
    if (!part.visible || !isAlive(part, frame)) continue
    for (const shape of shapesOf(document, part.id)) if (shape.visible) draw(shape, part)
  }
}

/** Rings are smooth points, squares are corners; filled when selected. Tangents of selected points end in short bars. */
function drawPoints(
  context: CanvasRenderingContext2D,
  shape: Shape,
  outline: Float64Array,
  selected: ReadonlySet<string>,
  colour: string,
) {
  const count = shape.pointIds.length
  const at = (i: number): [number, number] => [outline[i]! / outline[i + 2]!, outline[i + 1]! / outline[i + 2]!]
  context.lineWidth = 1
  shape.pointIds.forEach((id, i) => {
    const [x, y] = at(i * 9)
    const isSelected = selected.has(id)
    if (isSelected) {
      context.strokeStyle = CHALK
      drawTangent(context, x, y, ...at(i * 9 + 3))
      drawTangent(context, x, y, ...at(((i + count - 1) % count) * 9 + 6))
    }
    context.strokeStyle = isSelected ? CHALK : colour
    context.fillStyle = isSelected ? CHALK : 'rgb(22 22 22 / 0.55)'
    context.beginPath()
    if (shape.corners[i]) context.rect(x - POINT_SIZE, y - POINT_SIZE, 2 * POINT_SIZE, 2 * POINT_SIZE)
    else context.arc(x, y, POINT_SIZE, 0, 2 * Math.PI)
    context.fill()
    context.stroke()
  })
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
  context.stroke()
}

function drawEyelet(context: CanvasRenderingContext2D, x: number, y: number) {
  context.strokeStyle = CHALK
  context.lineWidth = 1
  for (const radius of [7, 2.2]) {
    context.beginPath()
    context.arc(x, y, radius, 0, 2 * Math.PI)
    context.stroke()
  }
}

function drawSketch(context: CanvasRenderingContext2D, sketch: ToolSketch, toScreen: Matrix3) {
  context.strokeStyle = ACCENT
  context.lineWidth = 1.2
  for (const line of sketch.lines) {
    context.beginPath()
    for (let i = 0; i < line.points.length; i += 2) {
      const [x, y] = applyToPoint(toScreen, line.points[i]!, line.points[i + 1]!)
      context.lineTo(x!, y!)
    }
    if (line.isClosed) context.closePath()
    context.stroke()
  }
  context.fillStyle = '#1c1c1c'
  for (const [px, py] of sketch.rings) {
    const [x, y] = applyToPoint(toScreen, px, py)
    context.beginPath()
    context.arc(x!, y!, POINT_SIZE, 0, 2 * Math.PI)
    context.fill()
    context.stroke()
  }
}
