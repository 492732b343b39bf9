import { useEffect, useState, type MouseEvent, type RefObject } from 'react'

export interface PlotSize {
  width: number
  height: number
}

/**
 * Size of a canvas in CSS pixels, followed as it changes; 0 by 0 before it is there.
 *
 * @param of  what is plotted, when there is no canvas without it
 */
export function usePlotSize(canvas: RefObject<HTMLCanvasElement | null>, of?: string | null): PlotSize {
  const [size, setSize] = useState<PlotSize>({ width: 0, height: 0 })
  useEffect(() => {
    const element = canvas.current
    if (!element) return
    const observer = new ResizeObserver(() => setSize({ width: element.clientWidth, height: element.clientHeight }))
    observer.observe(element)
    return () => observer.disconnect()
  }, [canvas, of])
  return size
}

/** The emptied canvas, as sharp as the screen, to be drawn on in CSS pixels. */
export function plotContext(element: HTMLCanvasElement, { width, height }: PlotSize): CanvasRenderingContext2D {
  const ratio = Math.min(2, window.devicePixelRatio || 1)
  element.width = Math.round(width * ratio)
  element.height = Math.round(height * ratio)
  const context = element.getContext('2d')!
  context.setTransform(ratio, 0, 0, ratio, 0, 0)
  return context
}

/** Where the pointer is on what it is over, CSS pixels. */
export function placeOn(event: MouseEvent<HTMLElement>): { x: number; y: number } {
  const box = event.currentTarget.getBoundingClientRect()
  return { x: event.clientX - box.left, y: event.clientY - box.top }
}
