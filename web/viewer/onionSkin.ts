import { onionTimes } from '@tender-lasso/core/animation'
import { allOf, findObject, type Keyed, type Shape, formKeys, outlineKeys } from '@tender-lasso/core/document'
import { isShown } from '@tender-lasso/core/evaluation'
import { css, partColour, posedPart, selectedShapes, type ShotState } from '../store'
import { drawnOutlineAt } from './drawnOutline'
import { strokeOutline } from './strokePolygon'
import { plateToScreen } from './viewTransform'

/** Earlier outlines are dotted, later ones dashed: form tells the time, colour only whose they are. */
const EARLIER = [1.5, 3]
const LATER = [6, 3]

/** Outlines of the selected shapes at other times, fainter the farther away; in a Steady view only their drift is seen. */
export function drawOnionSkin(context: CanvasRenderingContext2D, state: ShotState) {
  const { info, shown: document, frame, selection, view } = state
  const { count, by, opacity } = view.onion
  if (!info || count === 0) return
  const part = posedPart({ selection, document })
  context.lineWidth = state.view.lineWidth
  for (const shape of selectedShapes({ selection, document })) {
    const owner = findObject(document, 'part', shape.partId)
    if (!owner) continue
    const keyed: Keyed[] = part?.id === owner.id ? [part, shape] : [shape]
    const keys = by === 'keys' ? keyed.flatMap((one) => formKeys(one).map((key) => key.time)) : null
    const times = onionTimes(keys, frame, count, [info.firstFrame, info.lastFrame])
    for (const [list, dash] of [[times.before, EARLIER], [times.after, LATER]] as const) {
      context.setLineDash([...dash])
      list.forEach((time, i) => {
        if (!isShown(shape, owner, time)) return
        context.strokeStyle = css(partColour(document, owner), opacity * (1 - i / (count + 1)))
        drawOutlineOf(context, state, shape, time)
      })
    } // prettier-ignore
  }
  context.setLineDash([])
}

/** Outlines of another state of the shot on this frame: of what is selected, or of all. */
export function drawCompared(context: CanvasRenderingContext2D, state: ShotState) {
  const { view, frame, selection } = state
  if (!view.compared) return
  const then = view.compared.document
  const isWanted = (shape: Shape) =>
    selection.shapeIds.length
      ? selection.shapeIds.includes(shape.id)
      : selection.partId === null || shape.partId === selection.partId
  context.lineWidth = state.view.lineWidth
  context.setLineDash([2, 2, 6, 2])
  for (const shape of allOf(then, 'shape')) {
    const part = findObject(then, 'part', shape.partId)
    if (!isWanted(shape) || !isShown(shape, part, frame)) continue
    context.strokeStyle = css(partColour(then, part!), COMPARED_OPACITY)
    drawOutlineOf(context, { ...state, shown: then }, shape, frame)
  }
  context.setLineDash([])
}

const COMPARED_OPACITY = 0.75

/** Outlines on the other keys that the gesture under way reaches, as it would leave them. */
export function drawReachPreview(context: CanvasRenderingContext2D, state: ShotState) {
  const { document, shown, frame } = state
  if (document === shown) return
  context.lineWidth = state.view.lineWidth
  for (const [id, object] of shown.objects) {
    const before = document.objects.get(id)
    if (object.kind !== 'shape' || before === object || before?.kind !== 'shape') continue
    const part = findObject(shown, 'part', object.partId)
    const known = outlineKeys(before)
    const reached = outlineKeys(object)
      .filter((key) => key.time !== frame && !known.includes(key))
      .slice(0, MOST_REACHED)
    for (const { time } of reached) {
      if (!isShown(object, part, time)) continue
      context.strokeStyle = css(partColour(shown, part!), REACHED_OPACITY)
      drawOutlineOf(context, state, object, time)
    }
  }
}

/** Enough to see what an edit does elsewhere; more would hide the picture. */
const MOST_REACHED = 12
const REACHED_OPACITY = 0.35

function drawOutlineOf(
  context: CanvasRenderingContext2D,
  { shown, view, info }: ShotState,
  shape: Shape,
  time: number,
) {
  const map = plateToScreen(view, shown, time, info?.pixelAspect ?? 1)
  strokeOutline(context, drawnOutlineAt(shown, shape, time, map), shape.isClosed)
}
