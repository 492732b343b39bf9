const CASING = 'rgb(18 18 18 / 0.6)'
/** CSS pixels of the casing on each side of a line: as little as a light line needs over a light picture. */
const CASING_WIDTH = 1

/**
 * Strokes the present path with a thin dark casing, so that the line is seen over any picture, light or busy. The casing is
 * translucent and no wider than the line: it covers nothing that is judged.
 */
export function strokeCased(context: CanvasRenderingContext2D) {
  const { strokeStyle, lineWidth } = context
  context.strokeStyle = CASING
  context.lineWidth = lineWidth + 2 * CASING_WIDTH
  context.stroke()
  context.strokeStyle = strokeStyle
  context.lineWidth = lineWidth
  context.stroke()
}

/** Strokes the ring of a point, whose ground is its casing. */
export const strokeRing = (context: CanvasRenderingContext2D) => context.stroke()
