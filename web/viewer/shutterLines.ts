import { findObject } from '@tender-lasso/core/document'
import { isShown, outlineAt, outlinesInShutter, partShutter, timeInShutter } from '@tender-lasso/core/evaluation'
import type { Matrix3 } from '@tender-lasso/core/geometry'
import { css, partColour, selectedShapes, type ShotState } from '../store'
import { putOnScreen } from './drawnOutline'
import { strokeOutline } from './strokePolygon'

/** Where an outline is drawn between open and close, so that the band shows that it sweeps. */
const BETWEEN = [1, 2, 3, 4, 5, 6, 7].map((i) => i / 8)
/** Opening is dotted, closing dashed, as what is earlier and later is elsewhere. */
const OPEN = [1.5, 3]
const CLOSE = [6, 3]

/** Outlines of the selected shapes where the shutter opens and where it closes, and faintly the band that they sweep. */
export function drawShutterLines(context: CanvasRenderingContext2D, state: ShotState, toScreen: Matrix3) {
  const { shown: document, frame, selection, view } = state
  if (!view.showsShutter) return
  context.save()
  for (const shape of selectedShapes({ selection, document })) {
    const part = findObject(document, 'part', shape.partId)
    if (!part || !isShown(shape, part, frame)) continue
    const shutter = partShutter(document, part, frame)
    const draw = (u: number, opacity: number, dash: readonly number[]) => {
      context.strokeStyle = css(partColour(document, part), opacity)
      context.setLineDash([...dash])
      const outlines = outlinesInShutter(document, shape, u, (place) => [
        outlineAt(document, shape, timeInShutter(shape, frame, shutter, place)),
      ])
      strokeOutline(context, putOnScreen(outlines[0]!, toScreen), shape.isClosed)
    }
    context.lineWidth = 0.7 * view.lineWidth
    for (const u of BETWEEN) draw(u, 0.22, [])
    context.lineWidth = view.lineWidth
    draw(0, 0.9, OPEN)
    draw(1, 0.9, CLOSE)
  }
  context.restore()
}
