import { applyToPoint, type Matrix3 } from '@tender-lasso/core/geometry'
import { measuresHere, shownShutter, type ShotState } from '../store'
import { strokeCased } from './strokeCased'

/** Pixels of the screen that a bar reaches at least. */
const LEAST_BAR = 3

/** Where softness was measured: a bar across the line, twice its sigma to both sides, where the edge is clear; a speck elsewhere. */
export function drawSoftnessMarks(context: CanvasRenderingContext2D, state: ShotState, toScreen: Matrix3) {
  const { view } = state
  const measures = measuresHere(state)
  if (measures.length === 0) return
  context.save()
  context.strokeStyle = '#ece9e2'
  context.fillStyle = '#ece9e2'
  context.lineWidth = view.lineWidth
  for (const { place, fit } of measures) {
    const { x, y, normalX, normalY } = place
    if (!fit) {
      const [sx, sy] = applyToPoint(toScreen, x, y)
      context.fillRect(sx! - 0.75, sy! - 0.75, 1.5, 1.5)
      continue
    }
    const half = Math.max(LEAST_BAR / view.zoom, 2 * fit.sigma)
    context.beginPath()
    for (const way of [-half, half]) {
      const [sx, sy] = applyToPoint(toScreen, x + (fit.place + way) * normalX, y + (fit.place + way) * normalY)
      context.lineTo(sx!, sy!)
    }
    strokeCased(context)
  }
  context.restore()
}

/** What spoke of the shutter on this frame: a line as long as the blur it showed, along the way it moves across the edge; what was not listened to is faint. */
export function drawShutterVotes(context: CanvasRenderingContext2D, state: ShotState, toScreen: Matrix3) {
  const report = shownShutter(state)
  if (!report) return
  context.save()
  context.strokeStyle = '#ece9e2'
  context.lineWidth = state.view.lineWidth
  for (const { frame, vote } of report.votes) {
    if (frame !== state.frame) continue
    const { place, angle, weight } = vote
    const half = (place.sweep * angle) / 720
    context.globalAlpha = 0.25 + 0.75 * weight
    context.beginPath()
    for (const way of [-half, half]) {
      const [x, y] = applyToPoint(toScreen, place.x + way * place.normalX, place.y + way * place.normalY)
      context.lineTo(x!, y!)
    }
    strokeCased(context)
  }
  context.restore()
}
