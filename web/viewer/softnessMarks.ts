import { applyToPoint, type Matrix3 } from '@tender-lasso/core/geometry'
import { shownSoftness, type ShotState } from '../store'
import { strokeCased } from './strokeCased'

/** Pixels of the screen that a bar reaches at least. */
const LEAST_BAR = 3

/** Where softness was measured: a bar across the line, twice its sigma to both sides, where the edge is clear; a speck elsewhere. */
export function drawSoftnessMarks(context: CanvasRenderingContext2D, state: ShotState, toScreen: Matrix3) {
  const { view } = state
  const report = shownSoftness(state)
  if (!report) return
  context.save()
  context.strokeStyle = '#ece9e2'
  context.fillStyle = '#ece9e2'
  context.lineWidth = view.lineWidth
  for (const { place, fit } of report.measures) {
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
