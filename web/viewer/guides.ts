import { allOf, findObject, type RotoDocument } from '@tender-lasso/core/document'
import { applyToPoint, type Matrix3 } from '@tender-lasso/core/geometry'
import { strokeCased } from './strokeCased'

/** Guides as dotted hairlines over the whole plate. */
export function drawGuides(context: CanvasRenderingContext2D, document: RotoDocument, toScreen: Matrix3) {
  const guides = allOf(document, 'guide')
  const shot = findObject(document, 'shot', 'shot')
  if (guides.length === 0 || !shot) return
  context.strokeStyle = 'rgb(236 233 226 / 0.5)'
  context.lineWidth = 1
  context.setLineDash([1, 4])
  context.beginPath()
  for (const { axis, at } of guides) {
    const [fromX, fromY, toX, toY] = axis === 'x' ? [at, 0, at, shot.height] : [0, at, shot.width, at]
    const [a, b] = [applyToPoint(toScreen, fromX, fromY), applyToPoint(toScreen, toX, toY)]
    context.moveTo(a[0]!, a[1]!)
    context.lineTo(b[0]!, b[1]!)
  }
  strokeCased(context)
  context.setLineDash([])
}
