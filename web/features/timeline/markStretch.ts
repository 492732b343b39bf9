import type { PointerEvent as ReactPointerEvent } from 'react'
import { shotRange, useShot } from '../../store'
import { frameAt, type CurveFrame } from '../curves/curvePlot'

/**
 * Shift-drag marks frames on every face of the lower panel, as it does on the threads (which know more of what lies under
 * the pointer and do it themselves).
 */
export function markByShiftDrag(event: ReactPointerEvent) {
  if (!event.shiftKey || event.button !== 0) return
  const start = frameUnder(event.clientX, event.clientY)
  if (start === null) return
  event.preventDefault()
  event.stopPropagation()
  const mark = (to: number) => useShot.setState({ range: [Math.min(start, to), Math.max(start, to)] })
  mark(start)
  const move = ({ clientX, clientY }: PointerEvent) => {
    const frame = frameUnder(clientX, clientY)
    if (frame !== null) mark(frame)
  }
  const end = () => {
    window.removeEventListener('pointermove', move)
    window.removeEventListener('pointerup', end)
    window.removeEventListener('pointercancel', end)
  }
  window.addEventListener('pointermove', move)
  window.addEventListener('pointerup', end)
  window.addEventListener('pointercancel', end)
}

/** The frame that a face shows at a place of the window; null beside faces, and on the threads. */
function frameUnder(clientX: number, clientY: number): number | null {
  const [first, last] = shotRange()
  const within = (frame: number) => Math.min(last, Math.max(first, frame))
  const under = document.elementFromPoint(clientX, clientY)
  const patch = under?.closest<HTMLElement>('[data-frame]')
  if (patch) return Number(patch.dataset.frame)
  const curves = under?.closest<HTMLElement>('[data-testid="curves"]')
  if (curves) {
    const { left, width, height } = curves.getBoundingClientRect()
    const scale: CurveFrame = { width, height, first, last, low: 0, high: 1 }
    return within(frameAt(scale, clientX - left))
  }
  const chart = under?.closest('.apexcharts-canvas')?.querySelector('.apexcharts-grid')
  if (!chart) return null
  const { left, width } = chart.getBoundingClientRect()
  return within(Math.round(first + ((clientX - left) / width) * (last - first)))
}
