import type { Box } from '../../geometry'
import type { BoundaryPieces } from '../union'

/** 1 where the centre of the pixel lies inside the region. */
export function insideOfCentres(pieces: BoundaryPieces, box: Box): Uint8Array {
  const width = box.right - box.left
  const height = box.bottom - box.top
  const flips = new Int16Array((width + 1) * height)
  for (let i = 0; i < pieces.length; i += 4) {
    const down = pieces[i + 3]! > pieces[i + 1]!
    const x0 = pieces[down ? i : i + 2]! - box.left
    const y0 = pieces[down ? i + 1 : i + 3]! - box.top
    const x1 = pieces[down ? i + 2 : i]! - box.left
    const y1 = pieces[down ? i + 3 : i + 1]! - box.top
    if (y0 === y1) continue
    const first = Math.max(0, Math.ceil(y0 - 0.5))
    const end = Math.min(height, Math.ceil(y1 - 0.5))
    const slope = (x1 - x0) / (y1 - y0)
    for (let row = first; row < end; row++) {
      const x = x0 + (row + 0.5 - y0) * slope
      const at = Math.min(width, Math.max(0, Math.ceil(x - 0.5)))
      flips[row * (width + 1) + at]! += down ? 1 : -1
    }
  }
  const out = new Uint8Array(width * height)
  for (let row = 0; row < height; row++) {
    let winding = 0
    for (let x = 0; x < width; x++) {
      winding += flips[row * (width + 1) + x]!
      out[row * width + x] = winding > 0 ? 1 : 0
    }
  }
  return out
}
