import { onionTimes } from '@tender-lasso/core/animation'
import { find, isAlive, outlineAt, type Keyed } from '@tender-lasso/core/document'
import { flattenOutline } from '@tender-lasso/core/spline'
import { css, partColour } from '../state/colours'
import { posedPart, selectedShapes, type ShotState } from '../state/shotStore'
import { onScreen } from './onScreen'
import { strokePolygon } from './strokePolygon'
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
  context.lineWidth = 1
  for (const shape of selectedShapes({ selection, document })) {
    const owner = find(document, 'part', shape.partId)
    if (!owner) continue
    const keyed: Keyed[] = part?.id === owner.id ? [part, shape] : [shape]
    const keys = by === 'keys' ? keyed.flatMap(({ keys }) => keys.map((key) => key.time)) : null
    const times = onionTimes(keys, frame, count, [info.firstFrame, info.lastFrame])
    for (const [list, dash] of [[times.before, EARLIER], [times.after, LATER]] as const) {
      context.setLineDash([...dash])
      list.forEach((time, i) => {
        if (!isAlive(owner, time)) return
        context.strokeStyle = css(partColour(document, owner), opacity * (1 - i / (count + 1)))
        const map = plateToScreen(view, document, time, info.pixelAspect)
        strokePolygon(context, flattenOutline(onScreen(outlineAt(document, shape, time), map), 0.15))
      })
    } // prettier-ignore
  }
  context.setLineDash([])
}
