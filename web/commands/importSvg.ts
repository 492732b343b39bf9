import { objectAdded, shapeDrawn, type DrawnPoint } from '@tender-lasso/core/edits'
import { shapesOf } from '@tender-lasso/core/evaluation'
import { boundsOf, type Box } from '@tender-lasso/core/geometry'
import { isSmoothPoint } from '@tender-lasso/core/spline'
import type { PathOutline } from '@tender-lasso/formats/svg'
import { wordsOf, edit, whileOpen } from '../session'
import { newPart } from './newObjects'
import { takeFromFile } from './textIn'
import { say, select, useShot, selectedPart, type ShotState } from '../store'
import { counted } from '../words/counted'

/** Share of the plate that outlines fill which lie outside it or are larger. */
const FITTED = 0.6

/** Where something is pasted: the frame and the selection as it was asked for. */
export type PastedOnto = Pick<ShotState, 'frame' | 'selection'>

/** True for text that could be an SVG document or a path. */
export const looksLikeSvg = (text: string) => /^\s*([mM][\s\d.,+-]|<\?xml|<svg|<!DOCTYPE svg)/.test(text)

export const importSvgFile = (file: File) => takeFromFile(file, (text) => importSvg(text))

/** Outlines of an SVG as shapes with a key on this frame: in the selected Part, or in a new one. One unit is a pixel. */
export async function importSvg(text: string, onto?: PastedOnto): Promise<void> {
  const isOpen = whileOpen()
  let outlines: PathOutline[]
  try {
    // Few sessions read one, and its parser is large.
    const { readSvg } = await import('@tender-lasso/formats/svg')
    outlines = readSvg(text)
  } catch (error) {
    return say('doubtful', wordsOf(error))
  }
  const { document, info, editing } = useShot.getState()
  if (!info || !isOpen()) return
  const { frame, selection } = onto ?? useShot.getState()
  const box = boundsOf(outlines.flatMap(({ points }) => points.flatMap(({ x, y }) => [x, y])))
  const fit = fitted(box, info)
  const part = selectedPart({ document, selection })
  const made = part
    ? { part, patches: [] }
    : newPart(document, null, [fit.x + fit.scale * middle(box, 'x'), fit.y + fit.scale * middle(box, 'y')])
  const order = shapesOf(document, made.part.id).length
  const shapes = outlines.map(({ points, isClosed }, i) =>
    shapeDrawn(document, made.part.id, frame, points.map((point) => placed(point, fit)), {
      name: order + i === 0 ? 'outline' : `outline ${order + i + 1}`,
      order: order + i,
      isClosed,
      width: isClosed ? 0 : editing.strokeWidth,
    }),
  ) // prettier-ignore
  if (!edit('import SVG', [...made.patches, ...shapes.map(objectAdded)])) return
  select({ partId: made.part.id, shapeIds: shapes.map(({ id }) => id), pointIds: new Set(), trackIds: [], keys: [] })
  const scaled = fit.scale === 1 ? '' : `, scaled to ${Math.round(100 * fit.scale)} % to lie on the plate`
  say('said', `${counted(shapes.length, 'outline')} from SVG${scaled}`)
}

interface Fit {
  x: number
  y: number
  scale: number
}

const middle = (box: Box, axis: 'x' | 'y') => (axis === 'x' ? (box.left + box.right) / 2 : (box.top + box.bottom) / 2)

/** Where outlines lie on the plate: as they are when they do, else in its middle. */
function fitted(box: Box, plate: { width: number; height: number }): Fit {
  const isInside = box.left >= 0 && box.top >= 0 && box.right <= plate.width && box.bottom <= plate.height
  if (isInside) return { x: 0, y: 0, scale: 1 }
  const [width, height] = [Math.max(1, box.right - box.left), Math.max(1, box.bottom - box.top)]
  const scale = Math.min(1, (FITTED * plate.width) / width, (FITTED * plate.height) / height)
  return { x: plate.width / 2 - scale * middle(box, 'x'), y: plate.height / 2 - scale * middle(box, 'y'), scale }
}

function placed(point: PathOutline['points'][number], { x, y, scale }: Fit): DrawnPoint {
  return {
    x: x + scale * point.x,
    y: y + scale * point.y,
    inX: scale * point.inX,
    inY: scale * point.inY,
    outX: scale * point.outX,
    outY: scale * point.outY,
    isCorner: !isSmoothPoint(point),
  }
}
