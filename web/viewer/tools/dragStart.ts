import type { PointerInput } from './tool'

/** Screen pixels the pointer must go at once before a press becomes a drag: a hand that clicks goes less. */
const DRAG_PIXELS = 3
/** Milliseconds after which a press is no click any more: then it follows the pointer however little it goes. */
const CLICK_MS = 100

/** Whether a press has become a drag: so a correction of a pixel is made by pressing a little longer. */
export function isDragged(from: Pick<PointerInput, 'x' | 'y' | 'time'>, to: PointerInput): boolean {
  const way = Math.hypot(to.x - from.x, to.y - from.y) * to.scale
  return way >= DRAG_PIXELS || (way > 0 && to.time - from.time > CLICK_MS)
}
