import type { Box } from '../../geometry'
import { putPixels, type FittedMatte } from '../fittedMatte'
import type { BoundaryPieces } from '../union'
import { edgeReach, exactShareOf, rampAt, type EdgeProfile } from './edgeProfile'
import type { Feather } from './feather'

/** Every piece looks at every pixel in its reach: the tested reference of the faster way. */
export class PlainFeather implements Feather {
  private box: Box = { left: 0, top: 0, right: 0, bottom: 0 }
  private sum = new Float32Array(0)

  begin(box: Box) {
    this.box = box
    this.sum = new Float32Array((box.right - box.left) * (box.bottom - box.top))
  }

  add(pieces: BoundaryPieces, coverage: Float32Array | null, edge: EdgeProfile, weight: number) {
    const { box, sum } = this
    const reach = edgeReach(edge)
    const squared = squaredDistances(pieces, box, reach)
    const inside = insideOfCentres(pieces, box)
    const exactShare = coverage ? exactShareOf(edge) : 0
    const reachSquared = reach * reach
    for (let i = 0; i < squared.length; i++) {
      const d2 = squared[i]!
      if (d2 >= reachSquared) {
        sum[i]! += weight * inside[i]!
        continue
      }
      const distance = inside[i] ? -Math.sqrt(d2) : Math.sqrt(d2)
      let alpha = rampAt(distance - edge.grow, edge.innerFeather, edge.outerFeather, edge.falloff)
      if (exactShare > 0) alpha += exactShare * (coverage![i]! - Math.min(1, Math.max(0, 0.5 - distance)))
      sum[i]! += weight * (alpha < 0 ? 0 : alpha > 1 ? 1 : alpha)
    }
  }

  finish(out: FittedMatte) {
    putPixels(this.sum, this.box, out)
  }
}

/** Squared distance of every pixel centre to the nearest piece, at most reach squared. */
function squaredDistances(pieces: BoundaryPieces, box: Box, reach: number): Float32Array {
  const width = box.right - box.left
  const height = box.bottom - box.top
  const out = new Float32Array(width * height).fill(reach * reach)
  for (let i = 0; i < pieces.length; i += 4) {
    const ax = pieces[i]! - box.left - 0.5
    const ay = pieces[i + 1]! - box.top - 0.5
    const bx = pieces[i + 2]! - box.left - 0.5
    const by = pieces[i + 3]! - box.top - 0.5
    const top = Math.max(0, Math.ceil(Math.min(ay, by) - reach))
    const bottom = Math.min(height - 1, Math.floor(Math.max(ay, by) + reach))
    const left = Math.max(0, Math.ceil(Math.min(ax, bx) - reach))
    const right = Math.min(width - 1, Math.floor(Math.max(ax, bx) + reach))
    if (top > bottom || left > right) continue
    const dx = bx - ax
    const dy = by - ay
    const lengthSquared = dx * dx + dy * dy
    // So short that its square vanishes, a piece is as good as its first end.
    const inverse = lengthSquared > 1e-30 ? 1 / lengthSquared : 0
    for (let y = top; y <= bottom; y++) {
      const py = y - ay
      for (let x = left, at = y * width + left; x <= right; x++, at++) {
        const px = x - ax
        let t = (px * dx + py * dy) * inverse
        t = t < 0 ? 0 : t > 1 ? 1 : t
        const ex = px - t * dx
        const ey = py - t * dy
        const d = ex * ex + ey * ey
        if (d < out[at]!) out[at] = d
      }
    }
  }
  return out
}

/** 1 where the centre of the pixel lies inside the region. */
function insideOfCentres(pieces: BoundaryPieces, box: Box): Uint8Array {
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
