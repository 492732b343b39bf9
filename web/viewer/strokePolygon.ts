/** Strokes a polygon or an open line, CSS pixels. */
export function strokePolygon(context: CanvasRenderingContext2D, polygon: ArrayLike<number>, isClosed = true) {
  context.beginPath()
  for (let i = 0; i < polygon.length; i += 2) context.lineTo(polygon[i]!, polygon[i + 1]!)
  if (isClosed) context.closePath()
  context.stroke()
}
