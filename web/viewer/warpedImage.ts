import { applyToPoint, type Matrix3 } from '@tender-lasso/core/geometry'

/** Cells to each side: within one of them a homography is as good as affine. */
const CELLS = 10

/**
 * Draws an image under a homography on a 2D canvas, two triangles a cell.
 *
 * @param map  of the unit square, corners of the image at 0 and 1, to canvas units
 */
export function drawWarped(
  context: CanvasRenderingContext2D,
  image: CanvasImageSource,
  width: number,
  height: number,
  map: Matrix3,
) {
  const corner = (i: number, j: number) => applyToPoint(map, i / CELLS, j / CELLS) as [number, number]
  const [cellWidth, cellHeight] = [width / CELLS, height / CELLS]
  for (let j = 0; j < CELLS; j++) {
    for (let i = 0; i < CELLS; i++) {
      const [a, b, c, d] = [corner(i, j), corner(i + 1, j), corner(i + 1, j + 1), corner(i, j + 1)]
      const [x, y] = [i * cellWidth, j * cellHeight]
      for (const [p, q, r, isUpper] of [[a, b, d, true], [c, d, b, false]] as const) {
        context.save()
        context.beginPath()
        context.moveTo(...outward(p, q, r))
        context.lineTo(...outward(q, r, p))
        context.lineTo(...outward(r, p, q))
        context.clip()
        // Of the upper triangle the corner p is the cell's first, of the lower one its last.
        const [ux, uy] = [(q[0] - p[0]) / cellWidth, (q[1] - p[1]) / cellWidth]
        const [vx, vy] = [(r[0] - p[0]) / cellHeight, (r[1] - p[1]) / cellHeight]
        const way = isUpper ? 1 : -1
        const [sx, sy] = isUpper ? [x, y] : [x + cellWidth, y + cellHeight]
        context.transform(
          way * ux, way * uy, way * vx, way * vy,
          p[0] - way * (ux * sx + vx * sy), p[1] - way * (uy * sx + vy * sy),
        )
        context.drawImage(image, 0, 0)
        context.restore()
      }
    }
  } // prettier-ignore
}

/** A corner of a triangle moved out by half a pixel, so that no seam shows between neighbours. */
function outward(
  p: readonly [number, number],
  q: readonly [number, number],
  r: readonly [number, number],
): [number, number] {
  const [dx, dy] = [2 * p[0] - q[0] - r[0], 2 * p[1] - q[1] - r[1]]
  const length = Math.hypot(dx, dy) || 1
  return [p[0] + (0.6 * dx) / length, p[1] + (0.6 * dy) / length]
}
