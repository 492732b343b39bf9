/** Strokes a closed polygon, CSS pixels. */
export function strokePolygon(context: CanvasRenderingContext2D, polygon: ArrayLike<number>) {
  context.beginPath()
  for (let i = 0; i < polygon.length; i += 2) context.lineTo(polygon[i]!, polygon[i + 1]!)
  context.closePath()
  context.stroke()
}
