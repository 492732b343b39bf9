/** Where frames and values lie, CSS pixels. */
export interface CurveFrame {
  width: number
  height: number
  first: number
  last: number
  low: number
  high: number
}

/** CSS pixels beside the plot: its numbers, and a margin. */
export const PLOT_LEFT = 54
export const PLOT_RIGHT = 16
const PAD = 16

/** Values that differ by less lie on one level to the eye. */
const FLAT = 2e-3

/** A frame round values with some room above and below; round a level line as much as one up and down. */
export function frameRound(
  values: readonly number[],
  [first, last]: readonly [number, number],
  { width, height }: { width: number; height: number },
): CurveFrame {
  const [low, high] = values.length ? [Math.min(...values), Math.max(...values)] : [0, 1]
  const room = high - low < FLAT ? 1 : (high - low) * 0.08
  return { width, height, first, last, low: low - room, high: high + room }
}

export const xOf = (scale: CurveFrame, time: number) =>
  PLOT_LEFT + ((time - scale.first + 0.5) / (scale.last - scale.first + 1)) * (scale.width - PLOT_LEFT - PLOT_RIGHT)
export const yOf = (scale: CurveFrame, value: number) =>
  scale.height - PAD - ((value - scale.low) / (scale.high - scale.low)) * (scale.height - 2 * PAD)
export const valueAt = (scale: CurveFrame, y: number) =>
  scale.low + ((scale.height - PAD - y) / (scale.height - 2 * PAD)) * (scale.high - scale.low)
export const timeAt = (scale: CurveFrame, x: number) =>
  ((x - PLOT_LEFT) / (scale.width - PLOT_LEFT - PLOT_RIGHT)) * (scale.last - scale.first + 1) + scale.first - 0.5
export const frameAt = (scale: CurveFrame, x: number) => Math.floor(timeAt(scale, x) + 0.5)

/** Round numbers from the lowest to the highest, three to seven of them, and their decimals. */
export function levelsOf({ low, high }: Pick<CurveFrame, 'low' | 'high'>): { values: number[]; decimals: number } {
  const rough = (high - low) / 5
  const power = 10 ** Math.floor(Math.log10(rough))
  const step = power * ([1, 2, 5].find((share) => share * power >= rough) ?? 10)
  const [first, last] = [Math.ceil(low / step), Math.floor(high / step)]
  // Counted in whole steps: adding up would leave a minus nought and dust behind the point.
  const values = Array.from({ length: last - first + 1 }, (_, i) => (first + i) * step || 0)
  return { values, decimals: Math.max(0, -Math.floor(Math.log10(step) + 1e-9)) }
}

/** Ground, levels with their values, and the present frame. */
export function drawGround(context: CanvasRenderingContext2D, scale: CurveFrame, frame: number) {
  context.fillStyle = '#202020'
  context.fillRect(0, 0, scale.width, scale.height)
  context.font = "10.5px 'Spline Sans Mono', monospace"
  context.textBaseline = 'middle'
  const { values, decimals } = levelsOf(scale)
  for (const value of values) {
    const y = yOf(scale, value)
    context.strokeStyle = '#2c2c2c'
    line(context, PLOT_LEFT, y, scale.width - PLOT_RIGHT, y)
    context.fillStyle = '#8f8c86'
    context.textAlign = 'right'
    context.fillText(value.toFixed(decimals), PLOT_LEFT - 6, y)
  }
  context.strokeStyle = '#6fb3a0'
  line(context, xOf(scale, frame), 0, xOf(scale, frame), scale.height)
}

export function line(context: CanvasRenderingContext2D, ax: number, ay: number, bx: number, by: number) {
  context.beginPath()
  context.moveTo(ax, ay)
  context.lineTo(bx, by)
  context.stroke()
}

/** A run of values as one line. */
export function strokeRun(
  context: CanvasRenderingContext2D,
  scale: CurveFrame,
  run: readonly { frame: number; value: number }[],
) {
  context.beginPath()
  for (const { frame, value } of run) context.lineTo(xOf(scale, frame), yOf(scale, value))
  context.stroke()
}
