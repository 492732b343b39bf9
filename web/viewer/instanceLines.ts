import type { Part } from '@tender-lasso/core/document'
import { instancesByDepth, isInMatte, isShown, mirrorLineAt, shownShapesOf } from '@tender-lasso/core/evaluation'
import { applyToPoint, type Matrix3 } from '@tender-lasso/core/geometry'
import { css, partColour, type ShotState } from '../store'
import { drawnOutlineAt } from './drawnOutline'
import { strokeCased } from './strokeCased'
import { strokeOutline } from './strokePolygon'

/** Long and short: what is drawn so follows another line. */
const FOLLOWING = [7, 2, 1.5, 2]

/** Outlines of Parts that show the shapes of others, and the line of a selected reflection. */
export function drawInstances(context: CanvasRenderingContext2D, state: ShotState, toScreen: Matrix3) {
  const { shown: document, frame, selection, view } = state
  context.save()
  for (const part of instancesByDepth(document, frame).reverse()) {
    const isSelected = selection.partId === part.id
    const { shapes, mapAt } = shownShapesOf(document, part)
    for (const shape of shapes) {
      if (!mapAt || !isShown(shape, part, frame)) continue
      context.strokeStyle = css(partColour(document, part), isSelected ? 0.95 : 0.55)
      context.lineWidth = (isSelected ? 1.4 : 1) * view.lineWidth
      context.setLineDash(isInMatte(shape, part, frame) ? FOLLOWING : [2, 4])
      strokeOutline(context, drawnOutlineAt(document, shape, frame, toScreen, mapAt(frame)), shape.isClosed)
    }
    if (isSelected) drawMirrorLine(context, state, part, toScreen)
  }
  context.restore()
}

function drawMirrorLine(context: CanvasRenderingContext2D, { shown, frame }: ShotState, part: Part, toScreen: Matrix3) {
  const line = mirrorLineAt(shown, part, frame)
  if (!line) return
  const [ax, ay] = applyToPoint(toScreen, line[0], line[1])
  const [bx, by] = applyToPoint(toScreen, line[2], line[3])
  // Some way on beyond both places: a line has no ends.
  const [dx, dy] = [(bx! - ax!) * 0.25, (by! - ay!) * 0.25]
  context.setLineDash([])
  context.strokeStyle = '#ece9e2'
  context.lineWidth = 1
  context.beginPath()
  context.moveTo(ax! - dx, ay! - dy)
  context.lineTo(bx! + dx, by! + dy)
  strokeCased(context)
}
